import { addDays, type Day, dayIn } from '../core/basics/days.ts';
import type { Verdict } from '../core/basics/verdict.ts';
import { graphOf } from '../core/beside.ts';
import type { Fields } from '../core/declared/field.ts';
import type { Definition } from '../core/declared/rule.ts';
import { type Intake, isIntake, planOf } from '../core/intake.ts';
import { asLines } from '../core/messages/renderers.ts';
import type { ConditionPlan, Plan } from '../core/plan/plan.ts';
import { circumstancesAt } from '../core/run/clock.ts';
import { type Edge, edgesOf } from './edges.ts';
import { definitionOf, type ProofCase, sampleCases, sampleGaps, samplesOf } from './rule-cases.ts';
import { type Change, checkSubject, type Subject, type Submissions } from './subject.ts';

/** What came of proving one subject. */
export interface Proof {
  readonly subject: string;
  /** Nothing went wrong. Gaps do not count. */
  readonly isProven: boolean;
  readonly problems: readonly string[];
  /** What no sample reaches: a rule that no sample makes fail, a bound whose edge none touches. */
  readonly gaps: readonly string[];
  /** Values at the edges of declared bounds, and what became of each. Of intakes. */
  readonly edges: readonly Edge[];
}

/** Runs everything that can be proved of a rule or an intake. */
export async function prove(subject: Subject): Promise<Proof> {
  checkSubject(subject);
  const problems: string[] = [];
  for (const { name, run } of casesOf(subject)) {
    const problem = await run();
    if (problem !== undefined) problems.push(`${name}: ${problem}`);
  }
  return {
    subject: nameOf(subject),
    isProven: problems.length === 0,
    problems,
    gaps: await gapsOf(subject),
    edges: 'rule' in subject ? [] : edges(subject),
  };
}

export function nameOf(subject: Subject): string {
  return 'rule' in subject ? subject.rule.id : subject.intake.name;
}

/** The cases of a subject, for running them as tests. */
export function casesOf(subject: Subject): ProofCase[] {
  if ('rule' in subject) {
    const definition = definitionOf(subject.rule);
    return [...sampleCases(definition), ...(subject.samples ? sampleCases(definition, subject.samples) : [])];
  }
  const plan = planIn(subject.intake);
  return [
    ...sampledRules(plan).flatMap((rule) => sampleCases(rule)),
    ...subject.accepts.map((submission, index) => acceptCase(subject, submission, index)),
    ...subject.rejects.map((each) => rejectCase(subject, each)),
    ...(subject.changes ?? []).map((change, index) => changeCase(subject, change, index)),
    ...calendarCases(subject, plan),
  ];
}

export async function gapsOf(subject: Subject): Promise<string[]> {
  if ('rule' in subject) return sampleGaps(definitionOf(subject.rule), subject.samples);
  const plan = planIn(subject.intake);
  const gaps = (await Promise.all(sampledRules(plan).map((rule) => sampleGaps(rule)))).flat();
  // What a made edge has tried needs no submission of its own.
  const tried = edges(subject).flatMap(({ fails }) => fails);
  const rejected = [...subject.rejects.flatMap(({ by }) => by), ...(subject.changes ?? []).flatMap(({ by = [] }) => by)];
  const reached = new Set([...rejected, ...tried, ...(await failedOnTrial(subject, plan))]);
  for (const { use } of graphOf(subject.intake).rules) if (!reached.has(use)) gaps.push(`no submission makes ${use} fail`);
  return gaps;
}

/** A use on trial rejects nothing: it is reached by any submission that it would reject. */
async function failedOnTrial(subject: OfIntake, plan: Plan): Promise<string[]> {
  if (!plan.uses.some(({ isTrial }) => isTrial)) return [];
  const submissions = [...subject.accepts, ...subject.rejects.map(({ submission }) => submission)];
  const verdicts = await Promise.all(submissions.map((submission) => judged(subject, submission)));
  return verdicts.flatMap(({ trials = [] }) => trials.filter(({ outcome }) => outcome === 'failed').map(({ use }) => use));
}

function edges(subject: OfIntake): Edge[] {
  const plan = planIn(subject.intake);
  const now = subject.options?.now ?? new Date();
  const zone = subject.options?.zone ?? plan.zone ?? 'UTC';
  return edgesOf(plan, circumstancesAt(now, zone, 'create'));
}

function planIn(intake: { readonly name: string }): Plan {
  if (!isIntake(intake)) throw new TypeError('prove needs a rule or an intake.');
  return planOf(intake);
}

/** The rules of an intake that bring samples, each once. */
function sampledRules(plan: Plan): Definition[] {
  const rules = new Set(plan.uses.map(({ definition }) => definition));
  return [...rules].filter((rule) => samplesOf(rule) !== undefined);
}

type OfIntake = Exclude<Subject, { rule: unknown }>;

function judged({ intake, options }: OfIntake, submission: unknown, more: object = {}): Promise<Verdict<unknown>> {
  return (intake as Intake<Fields>).judge(submission, { ...options, ...more } as never);
}

/** What came of it, in the words in which it was expected. */
function told(verdict: Verdict<unknown>): string {
  const came = verdict.outcome === 'rejected' ? `rejected by ${usesOf(verdict.findings)}` : verdict.outcome;
  const open = verdict.unsettled.filter(({ severity }) => severity === 'error').map(({ use, why }) => `${use} (${why})`);
  // Beside something that is open nothing is proved: it might have rejected, too.
  return open.length === 0 ? came : `${came}, and open are ${open.join(', ')}`;
}

function usesOf(findings: readonly { readonly use: string }[]): string {
  return named(findings.map(({ use }) => use));
}

function named(uses: readonly string[]): string {
  return [...new Set(uses)].sort().join(', ');
}

function compared(verdict: Verdict<unknown>, by: readonly string[]): string | undefined {
  const expected = by.length === 0 ? 'accepted' : `rejected by ${named(by)}`;
  const got = told(verdict);
  if (got === expected) return undefined;
  const findings = verdict.outcome === 'rejected' ? asLines(verdict.findings).map((line) => `\n    ${line}`) : [];
  return `expected ${expected}, got ${got}${findings.join('')}`;
}

/** A submission in a few words, for the name of its case. */
function inShort(submission: unknown): string {
  const text = JSON.stringify(submission) ?? String(submission);
  return text.length > MOST_SHOWN ? `${text.slice(0, MOST_SHOWN)}…` : text;
}
const MOST_SHOWN = 100;

function acceptCase(subject: OfIntake, submission: unknown, index: number): ProofCase {
  return { name: `accepts submission ${index + 1}`, run: async () => compared(await judged(subject, submission), []) };
}

function rejectCase(subject: OfIntake, { submission, by }: Submissions['rejects'][number]): ProofCase {
  return { name: `rejects by ${named(by)}: ${inShort(submission)}`, run: async () => compared(await judged(subject, submission), by) };
}

function changeCase({ intake, options }: OfIntake, { stored, change, by = [], options: own }: Change, index: number): ProofCase {
  return {
    name: by.length === 0 ? `accepts change ${index + 1}` : `refuses change ${index + 1} by ${named(by)}`,
    run: async () => compared(await (intake as Intake<Fields>).amend(stored, change, { ...options, ...own } as never), by),
  };
}

/** Around each day on which a condition of the calendar turns, what is accepted now has to be judged without a fault. */
function calendarCases(subject: OfIntake, plan: Plan): ProofCase[] {
  const [submission] = subject.accepts;
  if (submission === undefined) return [];
  const turns = plan.uses.flatMap(({ use, when }) => when.flatMap(turnsOf).map((day) => ({ use, day })));
  const zone = subject.options?.zone ?? plan.zone ?? 'UTC';
  return turns.map(({ use, day }) => ({
    name: `${use} is judged on both sides of ${day}`,
    async run() {
      const seen = await Promise.all(
        [addDays(day, -1), day].map(async (on) => lineOf(await judged(subject, submission, { now: noonIn(zone, on), explain: true }), use)),
      );
      return seen[0] === seen[1] ? `expected it to turn on that day, got ${seen[0]} on both` : undefined;
    },
  }));
}

/** The days on which a condition turns: from the first one, and from the one after the last. */
function turnsOf(condition: ConditionPlan): Day[] {
  if (!('from' in condition)) return condition.of.flatMap(turnsOf);
  const { from, until } = condition;
  return [...(from ? [from] : []), ...(until ? [addDays(until, 1)] : [])];
}

/** A moment of that day, wherever the zone is. */
function noonIn(zone: string, day: Day): Date {
  const noon = new Date(`${day}T12:00:00Z`);
  const there = dayIn(zone, noon);
  return there === day ? noon : new Date(noon.getTime() + (there < day ? 1 : -1) * 12 * 3_600_000);
}

function lineOf({ trace = [] }: Verdict<unknown>, use: string): string {
  const line = trace.find((each) => each.use === use);
  return line?.outcome === 'skipped' ? `skipped (${line.why})` : 'judged';
}
