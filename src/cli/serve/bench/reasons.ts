import type { TracedCondition, TraceLine, Verdict, Why } from '../../../core/basics/verdict.ts';
import { planOf } from '../../../core/intake.ts';
import { wordsIn } from '../../../core/messages/catalogues/shipped.ts';
import type { ConditionPlan, Plan, RolePlan, UsePlan } from '../../../core/plan/plan.ts';
import { conditionIn } from '../../../describe/words/sentences.ts';
import type { Reason, ShownCondition, ShownQuestion } from '../../../workbench/wire/judged.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { type Asked, answerText, type Explained, Explainer, type Overheard } from '../../telling/explain.ts';
import { REASONS } from '../../telling/print.ts';
import { shortOf } from './shown-value.ts';

/** Lines listed at most; what held is left out first. */
const MOST_LINES = 600;
/** Questions listed of one use. */
const MOST_QUESTIONS = 20;

/** Why each use came out as it did, in words. */
export function reasonsOf(
  intake: LoadedIntake,
  submission: unknown,
  given: object | undefined,
  verdict: Verdict<unknown>,
  heard: ReturnType<Overheard['take']>,
  locale: string,
): { readonly reasons: readonly Reason[]; readonly leftOut: number } {
  const plan = planOf(intake);
  const uses = new Map(plan.uses.map((use) => [use.use, use]));
  const trials = new Set(verdict.trials?.map(({ use }) => use));
  const { trace = [] } = verdict;
  const listed = trace.length > MOST_LINES ? shortened(trace) : trace;
  const explained = new Explainer(intake, given).explain(submission, { ...verdict, trace: listed }, heard);
  const reasons = explained.map((line, at): Reason => {
    const use = uses.get(line.use);
    const { seen } = listed[at] as TraceLine;
    return {
      use: line.use,
      rule: line.rule,
      step: line.step,
      outcome: line.outcome,
      ...(line.why !== undefined && { why: wordsFor(line) }),
      because: line.because ?? [],
      ...(line.entry !== undefined && { entry: line.entry }),
      isTrial: trials.has(line.use),
      read:
        use && seen
          ? use.roles.map((role) => readBy(role, seen.read[role.name]))
          : line.read.map((read) => sentOf(seen ? { ...read, value: seen.read.field } : read)),
      asked: line.asked.slice(0, MOST_QUESTIONS).map(questionOf),
      conditions: use ? conditionsOf(use, line.conditions ?? [], locale) : [],
    };
  });
  return { reasons, leftOut: trace.length - listed.length };
}

/** All that did not hold, and of the rest as much as there is room for. */
function shortened(trace: readonly TraceLine[]): readonly TraceLine[] {
  let room = MOST_LINES - trace.filter(({ outcome }) => outcome !== 'held').length;
  return trace.filter(({ outcome }) => outcome !== 'held' || room-- > 0).slice(0, 4 * MOST_LINES);
}

const SKIPPED: { readonly [why: string]: string } = {
  condition: 'its condition does not hold',
  absent: 'there is nothing to read',
  unsound: 'what it reads failed before',
  'already-failed': 'what it would blame failed before',
  occasion: 'it counts on another occasion',
  unchanged: 'the change touches nothing that it reads',
  'nothing-found': 'the store has no such row',
  'entries-left-out': 'entries without a value were left out',
};

function wordsFor({ why = '' }: TraceLine): string {
  return SKIPPED[why] ?? REASONS[why as Why] ?? why;
}

function readBy(role: RolePlan, value: unknown): Reason['read'][number] {
  const roles = role.entry?.roles ?? [role];
  const isSecret = roles.some(({ place }) => place.holdsSecret);
  return { role: role.name, field: roles.map(({ place }) => place.path).join(', '), value: isSecret ? '(withheld)' : shortOf(value) };
}

function sentOf({ field, value, isSecret }: Explained['read'][number]): Reason['read'][number] {
  return { role: '', field, value: isSecret ? '(withheld)' : shortOf(value) };
}

function questionOf({ round, collection, where, key, want, found }: Asked): ShownQuestion {
  const asked = where.map((term, at) => `${term} ${shortOf(key[at])}`).join(' and ');
  return { round, collection, where: asked, found: answerText(want, found, shortOf) };
}

function conditionsOf({ when }: UsePlan, traced: readonly TracedCondition[], locale: string): ShownCondition[] {
  return traced.flatMap((each, at) => (when[at] ? [conditionOf(when[at], each, locale)] : []));
}

function conditionOf(condition: ConditionPlan, traced: TracedCondition, locale: string): ShownCondition {
  return {
    words: conditionIn(condition, wordsIn(locale), locale),
    outcome: traced.outcome,
    because: traced.because ?? [],
    parts: (traced.parts ?? []).flatMap((part, at) => (condition.of[at] ? [conditionOf(condition.of[at], part, locale)] : [])),
  };
}

/** The use of a rule with what it read and found, for a sample; `undefined` where it came to no answer. */
export function seenBy(plan: Plan, { trace = [] }: Verdict<unknown>, use: string, entry: string | undefined) {
  const line = trace.find((each) => each.use === use && each.entry === entry && each.seen);
  const of = plan.uses.find((each) => each.use === use);
  return line?.seen && of ? { use: of, holds: line.outcome === 'held', ...line.seen } : undefined;
}
