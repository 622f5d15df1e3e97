import { type Intake, isIntake, type Options, planOf } from '../core/intake.ts';
import type { Fields } from '../core/kinds/field.ts';
import type { Plan } from '../core/plan/plan.ts';
import { circumstancesAt } from '../core/plan/run.ts';
import type { Definition } from '../core/rules/definition.ts';
import type { Verdict } from '../core/verdict.ts';
import { type Edge, edgesOf } from './edges.ts';
import { definitionOf, type ProofCase, type Provable, sampleCases, sampleGaps, samplesOf } from './rule-cases.ts';

/** Submissions that an intake must accept, and that it must reject by certain uses. */
export interface Submissions {
  readonly accepts: readonly unknown[];
  /** `by` are the uses (`as` name, or `rule@field`) that must fail, all of them and no others. */
  readonly rejects: readonly { readonly submission: unknown; readonly by: readonly string[] }[];
  /** How they are judged: records, clock, given fields. */
  readonly options?: Options & { readonly given?: object };
}

/** What to prove: a rule by its samples, or an intake by those of its rules and by submissions. */
export type Subject = { readonly rule: Provable } | ({ readonly intake: { readonly name: string } } & Submissions);

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
  if ('rule' in subject) return sampleCases(definitionOf(subject.rule));
  return [
    ...sampledRules(planIn(subject.intake)).flatMap(sampleCases),
    ...subject.accepts.map((submission, index) => acceptCase(subject, submission, index)),
    ...subject.rejects.map((each) => rejectCase(subject, each)),
  ];
}

export async function gapsOf(subject: Subject): Promise<string[]> {
  if ('rule' in subject) return sampleGaps(definitionOf(subject.rule));
  const plan = planIn(subject.intake);
  const gaps = (await Promise.all(sampledRules(plan).map(sampleGaps))).flat();
  const reached = new Set(subject.rejects.flatMap(({ by }) => by));
  for (const { use } of (subject.intake as Intake<Fields>).graph().rules)
    if (!reached.has(use)) gaps.push(`no submission makes ${use} fail`);
  return gaps;
}

function edges(subject: Exclude<Subject, { rule: unknown }>): Edge[] {
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

function judged({ intake, options }: Exclude<Subject, { rule: unknown }>, submission: unknown): Promise<Verdict<unknown>> {
  return (intake as Intake<Fields>).judge(submission, options as never);
}

function acceptCase(subject: Exclude<Subject, { rule: unknown }>, submission: unknown, index: number): ProofCase {
  return {
    name: `accepts submission ${index + 1}`,
    async run() {
      const verdict = await judged(subject, submission);
      if (verdict.outcome === 'accepted') return undefined;
      return verdict.outcome === 'rejected' ? `rejected by ${verdict.findings.map(({ use }) => use).join(', ')}` : 'undecided';
    },
  };
}

function rejectCase(subject: Exclude<Subject, { rule: unknown }>, { submission, by }: Submissions['rejects'][number]): ProofCase {
  const expected = [...by].sort().join(', ');
  return {
    name: `rejects by ${expected}`,
    async run() {
      const verdict = await judged(subject, submission);
      const uses = verdict.outcome === 'rejected' ? [...new Set(verdict.findings.map(({ use }) => use))].sort().join(', ') : '';
      return uses === expected ? undefined : verdict.outcome === 'rejected' ? `rejected by ${uses}` : verdict.outcome;
    },
  };
}
