import { WITHHELD } from '../../core/basics/text.ts';
import type { TraceLine, Verdict } from '../../core/basics/verdict.ts';
import type { LookUpSpec, Want } from '../../core/declared/look-up.ts';
import { planOf } from '../../core/intake.ts';
import { leavesOf } from '../../core/plan/leaves.ts';
import type { LookUpPlan, Plan, RolePlan } from '../../core/plan/plan.ts';
import { walkSteps } from '../../core/plan/walk.ts';
import type { Answer, Question, Records } from '../../core/stored/records.ts';

/** One use of a rule, and why it came out as it did. */
export interface Explained extends TraceLine {
  /** The values that it read, as they were sent; those of secret fields are withheld. */
  readonly read: readonly { readonly field: string; readonly value: unknown; readonly isSecret: boolean }[];
  readonly asked: readonly Asked[];
}

/** One look-up: a collection, what was asked, and what was found. */
export interface Asked {
  readonly collection: string;
  readonly want: Want;
  readonly where: readonly string[];
  readonly key: readonly unknown[];
  readonly found: unknown;
  /** Which of the rounds of questions, counted from 1. */
  readonly round: number;
}

/** Records that remember what they were asked for one submission. */
export class Overheard {
  #heard: Heard[] = [];
  #round = 0;

  listeningTo(records: Records): Records {
    const heard = this;
    return {
      ...records,
      async ask(questions, signal) {
        const round = ++heard.#round;
        try {
          const answers = await records.ask(questions, signal);
          for (const [index, question] of questions.entries()) heard.#heard.push({ question, answer: answers[index], round });
          return answers;
        } catch (cause) {
          for (const question of questions) heard.#heard.push({ question, answer: new Error('no answer'), round });
          throw cause;
        }
      },
    };
  }

  /** What was asked since the last call. */
  take(): readonly Heard[] {
    const heard = this.#heard;
    this.#heard = [];
    this.#round = 0;
    return heard;
  }
}

interface Heard {
  readonly question: Question;
  readonly answer: Answer | Error | undefined;
  readonly round: number;
}

interface UseParts {
  readonly roles: readonly RolePlan[];
  readonly lookUps: readonly LookUpPlan[];
}

/** Explains verdicts of an intake. */
export class Explainer {
  readonly #plan: Plan;
  readonly #given: object | undefined;
  readonly #uses = new Map<string, UseParts>();
  readonly #fields = new Map<string, boolean>();

  constructor(intake: { readonly name: string }, given: object | undefined) {
    this.#plan = planOf(intake);
    this.#given = given;
    for (const part of [this.#plan.fields, this.#plan.given])
      walkSteps(part, ({ place, checks }) => {
        this.#fields.set(place.path, place.holdsSecret);
        for (const { use } of checks) this.#uses.set(use, { roles: [], lookUps: [] });
      });
    for (const { use, roles, lookUps, tells, when } of this.#plan.uses) {
      const conditions = when.flatMap(leavesOf);
      this.#uses.set(use, {
        roles: [...roles, ...conditions.flatMap((condition) => condition.roles)],
        lookUps: [...lookUps, ...tells, ...conditions.flatMap((condition) => condition.lookUps)],
      });
    }
  }

  explain(submission: unknown, { trace = [] }: Verdict<unknown>, heard: readonly Heard[]): Explained[] {
    return trace.map((line) => {
      const { roles = [], lookUps = [] } = this.#uses.get(line.use) ?? {};
      const paths = line.step === 'value' ? [line.use.slice(line.use.indexOf('@') + 1)] : roles.flatMap(pathsOf);
      return {
        ...line,
        read: [...new Set(paths)].filter((path) => this.#fields.has(path)).map((path) => this.#read(submission, path)),
        asked: heard.flatMap(({ question, answer, round }) => {
          const spec = lookUps.map((lookUp) => specFor(lookUp.spec, question)).find((each) => each !== undefined);
          return spec ? askedOf(spec, roles, question, answer).map((asked) => ({ ...asked, round })) : [];
        }),
      };
    });
  }

  #read(submission: unknown, path: string): Explained['read'][number] {
    const isSecret = this.#fields.get(path) === true;
    const parts = path.split('.');
    const isGiven = this.#plan.given.keys.has(parts[0] as string);
    return { field: path, isSecret, value: isSecret ? undefined : valueAt(isGiven ? this.#given : submission, parts) };
  }
}

function pathsOf({ place, entry }: RolePlan): string[] {
  return entry ? entry.roles.map((role) => role.place.path) : [place.path];
}

/** What stands at a declared path; of a list what stands there in each entry. */
function valueAt(value: unknown, [first, ...rest]: readonly string[]): unknown {
  if (first === undefined || typeof value !== 'object' || value === null) return first === undefined ? value : undefined;
  if (first === '*') return Object.values(value).map((entry) => valueAt(entry, rest));
  return valueAt((value as { readonly [name: string]: unknown })[first], rest);
}

/** The look-up, or one inside it, that asks such a question. */
function specFor(spec: LookUpSpec, question: Question): LookUpSpec | undefined {
  const { collection, terms, want } = question;
  if (
    spec.collection.name === collection &&
    spec.form.want === want &&
    spec.terms.every(({ column }) => terms.some((term) => term.column === column))
  )
    return spec;
  for (const inner of Object.values(spec.inner)) {
    const found = specFor(inner, question);
    if (found) return found;
  }
  return undefined;
}

function askedOf(
  spec: LookUpSpec,
  roles: readonly RolePlan[],
  question: Question,
  answer: Answer | Error | undefined,
): Omit<Asked, 'round'>[] {
  const { collection, terms, want, keys } = question;
  const { secret } = spec.collection;
  const where = terms.map(({ column, is, than }) => `${column} ${WORDS[is] ?? is}${than === undefined ? '' : ` ${than}`}`);
  const isWithheld = terms.map(({ column }) => {
    const { role } = spec.terms.find((term) => term.column === column) ?? {};
    return secret.has(column) || roles.some(({ name, place }) => name === role && place.holdsSecret);
  });
  const shown = (found: unknown) =>
    Array.isArray(found)
      ? found.map((row: object) =>
          Object.fromEntries(Object.entries(row).map(([name, value]) => [name, secret.has(name) ? WITHHELD : value])),
        )
      : found;
  return keys.map((key, index) => ({
    collection,
    want,
    where,
    key: key.map((value, at) => (isWithheld[at] ? WITHHELD : value)),
    found: answer instanceof Error ? answer.message : shown(answer?.[index]),
  }));
}

const WORDS: { readonly [is: string]: string } = {
  equal: '=',
  above: '>',
  below: '<',
  notAbove: '<=',
  notBelow: '>=',
  ignoringCase: '= (ignoring case)',
  otherThan: 'is not',
  missing: 'is missing',
};

/** What a question was answered, in words. */
export function answerText(want: Want, found: unknown, short: (value: unknown) => string): string {
  if (Array.isArray(found)) return found.length === 0 ? 'no row' : found.map(short).join(', ');
  if (want === 'exists' && typeof found === 'number') return found === 0 ? 'none' : 'there is one';
  return short(found);
}
