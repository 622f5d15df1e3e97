import type { Verdict } from '../core/basics/verdict.ts';
import type { Json } from '../core/plan/inspect.ts';
import { Maker, type MakerOptions, type Situation } from '../made/index.ts';
import { type Part, partsOf } from './parts.ts';

/** What became of a part. `changed`: it judges otherwise, and no submission was found that shows it. */
export type Change = 'new' | 'gone' | 'tightened' | 'loosened' | 'moved' | 'changed' | 'reworded';

/** What differs in one rule or field. */
export interface Difference {
  readonly sort: Part['sort'];
  readonly name: string;
  readonly change: Change;
  /** The fields that it reads. */
  readonly reads: readonly string[];
  /** The members that differ, as the plan has them. */
  readonly differs: readonly { readonly member: string; readonly before: Json | undefined; readonly after: Json | undefined }[];
  /** Judged by both: accepted before, and refused now. */
  readonly breaks: Shown | undefined;
  /** Judged by both: refused before, and accepted now. */
  readonly allows: Shown | undefined;
}

/** A submission that two versions of an intake judge differently. */
export interface Shown {
  readonly situation: Situation;
  readonly before: Verdict<unknown>;
  readonly after: Verdict<unknown>;
}

type Named = { readonly name: string };

/** What differs between two versions of an intake, each difference shown by a submission where one was found. */
export async function compareIntakes(before: Named, after: Named, options: MakerOptions = {}): Promise<Difference[]> {
  const [old, next] = [partsOf(before), partsOf(after)];
  const comparison = new Comparison(before, after, options);
  const differences: Difference[] = [];
  for (const key of new Set([...old.keys(), ...next.keys()])) {
    const [was, is] = [old.get(key), next.get(key)];
    const differs = differencesOf(was, is);
    const isJudged = !was || !is || differs.length > 0 || was.code !== is.code;
    const part = (is ?? was) as Part;
    if (isJudged) differences.push(await comparison.differenceOf(part, was, is, differs));
    else if (JSON.stringify(was.said) !== JSON.stringify(is.said))
      differences.push({
        sort: part.sort,
        name: part.name,
        change: 'reworded',
        reads: [],
        differs: [{ member: 'says', before: was.said, after: is.said }],
        breaks: undefined,
        allows: undefined,
      });
  }
  return differences;
}

function differencesOf(was: Part | undefined, is: Part | undefined): Difference['differs'] {
  if (!was || !is) return [];
  const members = new Set([...Object.keys(was.judged), ...Object.keys(is.judged)]);
  const differing = [...members].filter((member) => JSON.stringify(was.judged[member]) !== JSON.stringify(is.judged[member]));
  const told = differing.map((member) => ({ member, before: was.judged[member], after: is.judged[member] }));
  return was.code === is.code ? told : [...told, { member: 'code', before: 'as it was', after: 'rewritten' }];
}

/** Situations that are mended for one difference. */
const MOST_MENDED = 12;

function useOf({ sort, name }: Part): string {
  return sort === 'rule' ? name : `needed@${name}`;
}

class Comparison {
  readonly #before: Maker;
  readonly #after: Maker;

  constructor(before: Named, after: Named, options: MakerOptions) {
    this.#before = new Maker(before, options);
    this.#after = new Maker(after, options);
  }

  async differenceOf(part: Part, was: Part | undefined, is: Part | undefined, differs: Difference['differs']): Promise<Difference> {
    const isCleaned = differs.some(({ member }) => member === 'cleans' || member === 'code');
    let breaks: Shown | undefined;
    let allows: Shown | undefined;
    const fields = new Set([...this.#before.fieldsOf(useOf(part)), ...this.#after.fieldsOf(useOf(part))]);
    const tell = async (situation: Situation): Promise<Shown | undefined> => {
      const [before, after] = await Promise.all([this.#before.judge(situation), this.#after.judge(situation)]);
      if (!before || !after) return undefined;
      const shown = { situation, before, after };
      if (
        before.outcome === 'accepted' &&
        after.outcome === 'rejected' &&
        isAbout(part, after, isCleaned) &&
        isSimpler(after, breaks?.after)
      )
        breaks = shown;
      if (
        before.outcome === 'rejected' &&
        after.outcome === 'accepted' &&
        isAbout(part, before, isCleaned) &&
        isSimpler(before, allows?.before)
      )
        allows = shown;
      return shown;
    };
    let mended = 0;
    for (const situation of await this.#tried(part)) {
      const shown = await tell(situation);
      if (!shown || mended > MOST_MENDED || (breaks && allows)) continue;
      // What one version would accept but for other rules is mended, and judged by both again.
      const [isBefore, isAfter] = [shown.before, shown.after].map((verdict) => isAbout(part, verdict, isCleaned));
      if (isBefore === isAfter) continue;
      mended++;
      const other = await (isAfter ? this.#before : this.#after).mended(situation, fields, 6);
      if (other) await tell(other.situation);
    }
    return { sort: part.sort, name: part.name, change: changeOf(was, is, breaks, allows), reads: [...fields], differs, breaks, allows };
  }

  /** Situations that could be judged differently: around what each version accepts, in all that the part has to do with. */
  async #tried(part: Part): Promise<readonly Situation[]> {
    const uses = [useOf(part)];
    const tried: Situation[] = [];
    for (const maker of [this.#before, this.#after]) {
      for (const use of uses) tried.push(...(await maker.around(use)));
    }
    // What one version is given, the other may be given too.
    const given = Object.assign({}, ...tried.map((each) => each.given)) as { [key: string]: unknown };
    return tried.map((each) => ({
      ...each,
      given: { ...given, ...each.given },
      store: { rows: { ...tried[0]?.store.rows, ...tried.at(-1)?.store.rows, ...each.store.rows }, numbers: each.store.numbers },
    }));
  }
}

/** What is found of a field by itself, whatever its rules are. */
const OF_FIELDS = new Set(['needed', 'readable', 'blank', 'tag', 'stranger']);

/** Whether a part has to do with what was found. What its texts are made into shows in the rules of the field. */
function isAbout({ sort, name }: Part, verdict: Verdict<unknown>, isCleaned: boolean): boolean {
  const findings = verdict.outcome === 'rejected' ? verdict.findings : [];
  if (sort === 'rule') return findings.some(({ use }) => use === name);
  if (sort === 'field')
    return findings.some(
      ({ rule, use, places }) =>
        (OF_FIELDS.has(rule) || isCleaned) && (use.endsWith(`@${name}`) || places.some(({ pointer }) => pointer === `/${name}`)),
    );
  return findings.some(({ rule }) => rule === 'stranger');
}

function isSimpler(verdict: Verdict<unknown>, than: Verdict<unknown> | undefined): boolean {
  const count = (each: Verdict<unknown>) => (each.outcome === 'rejected' ? each.findings.length : 0);
  return than === undefined || count(verdict) < count(than);
}

function changeOf(was: Part | undefined, is: Part | undefined, breaks: Shown | undefined, allows: Shown | undefined): Change {
  if (!was) return 'new';
  if (!is) return 'gone';
  return breaks ? (allows ? 'moved' : 'tightened') : allows ? 'loosened' : 'changed';
}
