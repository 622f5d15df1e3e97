import type { Records, Verdict } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { Random } from '../support/random.ts';
import {
  type Found,
  formOf,
  foundBy,
  holdsFor,
  type Row,
  type RuleDescription,
  rowsFor,
  ruleFor,
  sorted,
  submissionFor,
} from '../support/random-stored.ts';

// A few seconds here; by hand as long as wanted: JESTRIL_RANDOM=20000 npm test -- test/core/random-stored.test.ts
const INTAKES = Number(process.env.JESTRIL_RANDOM ?? 120);
const SEED = Number(process.env.JESTRIL_SEED ?? 1);

type Submission = ReturnType<typeof submissionFor>;
interface Case {
  readonly random: Random;
  readonly seed: number;
  readonly each: number;
  readonly rules: readonly RuleDescription[];
  readonly form: ReturnType<typeof formOf>;
  readonly rows: readonly Row[];
  readonly itself: number | undefined;
  readonly options: { readonly records: Records; readonly explain: boolean; readonly itself?: { readonly id: number } };
}
type Outcome = 'held' | 'failed' | 'unsettled' | 'skipped';
type Expected = {
  readonly isTrial?: boolean;
  readonly use: string;
  readonly entry?: string;
  readonly outcome: Outcome;
  readonly found?: unknown;
};

const isOdd = (value: unknown) => typeof value === 'object' && value !== null;

/** What becomes of each rule, entry by entry, as the guide says it. */
function expectedOf(
  rules: readonly RuleDescription[],
  submission: Submission,
  stored: readonly Row[],
  itself: number | undefined,
  occasion: string,
  was?: Submission,
): Expected[] {
  return rules.flatMap((rule) => {
    const homes = rule.inList ? submission.l.map((entry, at) => ({ at: `/l/${at}`, read: entry })) : [{ at: undefined, read: submission }];
    return homes.map(({ at, read }): Expected => {
      const about = { isTrial: rule.trial, use: `${rule.id}@${rule.inList ? 'l.*.f' : 'f'}`, ...(at !== undefined && { entry: at }) };
      const names = rule.inList ? (['f', 'g'] as const) : (['f', 'g', 'h', 'k'] as const);
      if (rule.on && rule.on !== occasion) return { ...about, outcome: 'skipped' };
      const values = Object.fromEntries(names.map((name) => [name, (read as Submission)[name]])) as { [role: string]: string | number };
      if (names.some((name) => isOdd(values[name]) || (values[name] === undefined && !rule.maybe.includes(name))))
        return { ...about, outcome: 'skipped' };
      const foundFor = (lookUp: RuleDescription['lookUp']): Found => foundBy(lookUp, stored, values, itself);
      if (rule.when) {
        const guard = foundFor(rule.when.lookUp);
        if ('unsettled' in guard) return { ...about, outcome: 'unsettled' };
        if ('found' in guard && Boolean(guard.found) === rule.when.isNot) return { ...about, outcome: 'skipped' };
      }
      const came = foundFor(rule.lookUp);
      if ('unsettled' in came) return { ...about, outcome: 'unsettled' };
      if ('none' in came) return { ...about, outcome: 'failed' };
      return {
        ...about,
        outcome: holdsFor(came.found, rule.readsStored ? (was?.g as number | undefined) : undefined) ? 'held' : 'failed',
        found: came.found,
      };
    });
  });
}

function outcomeOf(submission: Submission, expected: readonly Expected[]): Verdict<unknown>['outcome'] {
  const counted = expected.filter(({ isTrial }) => !isTrial);
  const { l, ...own } = submission;
  const isUnread = [own, ...l].some((home) => Object.values(home).some(isOdd));
  if (isUnread || counted.some(({ outcome }) => outcome === 'failed')) return 'rejected';
  return counted.some(({ outcome }) => outcome === 'unsettled') ? 'undecided' : 'accepted';
}

const plain = (value: unknown) => (value === undefined ? 'nothing' : JSON.parse(JSON.stringify(value)));
const byUse = (a: Expected, b: Expected) => `${a.use} ${a.entry}`.localeCompare(`${b.use} ${b.entry}`);

const WHY_SKIPPED = ['absent', 'unsound', 'condition', 'nothing-found', 'unchanged', 'occasion'];

/** The trace, in the same words. Nothing else may become of a rule: one that was skipped says why. */
function tracedIn(verdict: Verdict<unknown>): Expected[] {
  return (verdict.trace ?? [])
    .filter(({ step }) => step === 'record')
    .map(({ use, outcome, entry, seen, why }) => {
      if (outcome === 'skipped') expect(WHY_SKIPPED).toContain(why);
      // What `one` has not found is told in its stead.
      if (why === 'nothing-found') return { use, outcome: 'failed' as const, ...(entry !== undefined && { entry }) };
      return { use, outcome, ...(entry !== undefined && { entry }), ...(seen && 'found' in seen.found && { found: seen.found.found }) };
    })
    .sort(byUse);
}

const rowsOf = (lines: readonly Expected[]) =>
  [...lines].sort(byUse).map(({ found, isTrial: _isTrial, ...line }) => ({
    ...line,
    ...(line.outcome !== 'skipped' && found !== undefined && { found: plain(sorted(found)) }),
  }));

async function eachCase(run: (of: Case) => Promise<Verdict<unknown>['outcome']>): Promise<void> {
  const count = { accepted: 0, rejected: 0, undecided: 0 };
  for (let seed = SEED; seed < SEED + INTAKES; seed++) {
    const random = new Random(seed);
    const rules = Array.from({ length: 1 + random.below(4) }, (_, at) => ruleFor(random, at));
    const form = formOf(rules);
    for (let each = 0; each < 5; each++) {
      const rows = rowsFor(random);
      const itself = random.below(2) === 0 ? random.maybePick(rows)?.id : undefined;
      const options = { records: memoryRecords({ rows }), explain: true, ...(itself !== undefined && { itself: { id: itself } }) };
      count[await run({ random, seed, each, rules, form, rows, itself, options })]++;
    }
  }
  expect(Math.min(...Object.values(count))).toBeGreaterThan(INTAKES / 100);
}

test('rules that look into records at random: what a naive reading finds, and nothing else', () =>
  eachCase(async ({ random, seed, each, rules, form, rows, itself, options }) => {
    const submission = submissionFor(random, each > 1);
    const verdict = await form.judge(submission, options);
    const expected = expectedOf(rules, submission, rows, itself, 'create');
    const about = JSON.stringify({ seed, each, rules, rows, submission, itself });
    expect([about, rowsOf(tracedIn(verdict))]).toEqual([about, rowsOf(expected)]);
    expect([about, verdict.outcome]).toEqual([about, outcomeOf(submission, expected)]);
    // What is accepted is accepted, and the same, when it is judged again.
    if (verdict.outcome === 'accepted')
      expect(await form.judge(verdict.value, options)).toMatchObject({ outcome: 'accepted', value: verdict.value });
    return verdict.outcome;
  }));

test('changes at random: a rule is excused where all that it and its condition read stays the same, and nowhere else', () =>
  eachCase(async ({ random, seed, each, rules, form, rows, itself, options }) => {
    const stored = submissionFor(random, false);
    const other = submissionFor(random, each > 1);
    const change = Object.fromEntries(Object.entries(other).filter(([name]) => name !== 'l' && random.below(3) === 0));
    const patch = Object.fromEntries(Object.entries(change).map(([name, value]) => [name, value ?? null]));
    const changed: Submission = { ...stored, ...change };
    const verdict = await form.amend(JSON.parse(JSON.stringify(stored, (_key, value) => value ?? null)) as never, patch, options as never);
    const isExcused = ({ inList, on }: RuleDescription) =>
      !on && (inList || (['f', 'g', 'h', 'k'] as const).every((name) => stored[name] === changed[name]));
    const expected = rules.flatMap((rule) =>
      expectedOf([rule], changed, rows, itself, 'amend', stored).map(
        (line): Expected => (isExcused(rule) ? { ...line, outcome: 'skipped' } : line),
      ),
    );
    const about = JSON.stringify({ seed, each, rules, rows, stored, change, itself });
    // A rule that is excused need not stand in the trace.
    const judged = (lines: readonly Expected[]) => rowsOf(lines).filter(({ outcome }) => outcome !== 'skipped');
    expect([about, judged(tracedIn(verdict))]).toEqual([about, judged(expected)]);
    expect([about, verdict.outcome]).toEqual([about, outcomeOf(changed, expected)]);
    return verdict.outcome;
  }));
