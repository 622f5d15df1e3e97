import { notAsked, Thrown } from '../declared/given-back.ts';
import { type EntryKey, type FieldStep, type Frame, UNSOUND, type ValueCheck } from '../plan/plan.ts';
import { factsOf } from './facts.ts';
import type { Failure, Spot } from './failures.ts';
import { keepFailure, keptFailure } from './kept.ts';
import { shownPointer } from './places.ts';
import type { Run } from './run.ts';
import { isSound, valueIn } from './value.ts';

// Step 4 of a judgement: the rules in a field's own list.

/**
 * Runs the value rules; gives the value back when it is sound.
 *
 * @param isSame of a change: the value is as it was, so that only rules that name the occasion look at it
 */
export function judgeValue(run: Run, step: FieldStep, value: unknown, indexes: readonly EntryKey[], isSame = false): unknown {
  const { checks } = step;
  if (checks.length === 0 || run.isReadingOnly) return value;
  let result = value;
  for (let at = 0; at < checks.length; at++) {
    const check = checks[at] as ValueCheck;
    if (check.on && !check.on.includes(run.settings.occasion)) {
      run.explain(check, 'value', 'skipped', 'occasion');
      continue;
    }
    if (isSame && !check.on) {
      run.explain(check, 'value', 'skipped', 'unchanged');
      continue;
    }
    let seen = value;
    if (step.sort.isMade && !check.definition.countsOnly) {
      const frame: Frame = [];
      // Rules are given values, never frames, and never a list of which an entry failed.
      frame[step.slot] = value;
      if (!isSound(step, frame)) {
        run.explain(check, 'value', 'skipped', 'unsound');
        continue;
      }
      seen = valueIn(step, frame);
    }
    if (!holds(run, check, seen, step, indexes) && check.severity === 'error') {
      result = UNSOUND;
      if (run.settings.report !== 'everything') break;
    }
  }
  return result;
}

function holds(run: Run, check: ValueCheck, value: unknown, step: FieldStep, indexes: readonly EntryKey[]): boolean {
  const { definition, takes } = check;
  let answer: unknown;
  try {
    answer = (definition.check as (value: unknown, takes: object, at: object) => unknown)(value, takes, run.at);
  } catch (cause) {
    answer = new Thrown(cause);
  }
  return isHeld(run, check, value, step, indexes, answer);
}

/** What a check's answer means: it held, or failed, or is at fault itself. */
export function isHeld(
  run: Run,
  check: ValueCheck,
  value: unknown,
  step: FieldStep,
  indexes: readonly EntryKey[],
  answer: unknown,
): boolean {
  if (answer === true) {
    if (run.trace || check.isTrial) explainCheck(run, check, 'held', value, step, indexes);
    return true;
  }
  try {
    if (answer instanceof Thrown) throw answer.cause;
    if (answer !== false) throw notAsked(`Rule "${check.rule}"`, answer, 'true or false');
    run.add((indexes.length === 0 && keptFailure(check)) || failureOf(run, check, value, step, indexes));
    if (run.trace) explainCheck(run, check, 'failed', value, step, indexes);
  } catch (cause) {
    run.leaveOpen(check, [{ place: step.place, indexes }], 'fault', cause);
    run.explain(check, 'value', 'unsettled', 'fault');
  }
  return false;
}

function failureOf(run: Run, check: ValueCheck, value: unknown, step: FieldStep, indexes: readonly EntryKey[]): Failure {
  const { definition, takes, facts: plan } = check;
  const read = { field: value };
  const facts = factsOf(plan, definition, read, {}, takes, run.at);
  const words = definition.words?.(takes, read, run.plan.catalogues) ?? {};
  const failure: Failure = { info: check, spots: [blamed(check, value, step, indexes)], facts, words, labels: plan.labels };
  return plan.isFixed && !definition.entryOf && indexes.length === 0 ? keepFailure(check, failure) : failure;
}

function explainCheck(
  run: Run,
  check: ValueCheck,
  outcome: 'held' | 'failed',
  value: unknown,
  { place }: FieldStep,
  indexes: readonly EntryKey[],
): void {
  run.explain(check, 'value', outcome, undefined, undefined, () => ({
    ...(indexes.length > 0 && { entry: shownPointer({ place, indexes }) }),
    seen: { read: { field: value }, found: {} },
  }));
}

/** The field, or the entry of a list that is at fault. */
function blamed({ definition, takes }: ValueCheck, value: unknown, step: FieldStep, indexes: readonly EntryKey[]): Spot {
  const entry = definition.entryOf?.(value, takes);
  const item = entry === undefined ? undefined : step.inside.find(({ isEntry }) => isEntry)?.steps[0];
  return item ? { place: item.place, indexes: [...indexes, entry as EntryKey] } : { place: step.place, indexes };
}
