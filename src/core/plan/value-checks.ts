import { describe } from './answer.ts';
import { factsOf } from './facts.ts';
import { type EntryKey, type FieldStep, type Frame, UNSOUND, type ValueCheck } from './plan.ts';
import type { Run, Spot } from './run.ts';
import { isSound, valueIn } from './value.ts';

// Step 4 of a judgement: the rules in a field's own list.

/**
 * Runs the value rules; gives the value back when it is sound.
 *
 * @param isSame of a change: the value is as it was, so that only rules that name the occasion look at it
 */
export function judgeValue(run: Run, step: FieldStep, value: unknown, indexes: readonly EntryKey[], isSame = false): unknown {
  if (run.isReadingOnly) return value;
  let result = value;
  for (const check of step.checks) {
    if (check.on && !check.on.includes(run.settings.occasion)) {
      run.explain(check, 'value', 'skipped', 'occasion');
      continue;
    }
    if (isSame && !check.on) {
      run.explain(check, 'value', 'skipped', 'unchanged');
      continue;
    }
    let seen = value;
    const frame: Frame = [];
    if (step.op === 'list' && !check.definition.countsOnly) {
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
  try {
    const answer = (definition.check as (value: unknown, takes: object, at: object) => unknown)(value, takes, run.at);
    if (answer === true) {
      run.explain(check, 'value', 'held');
      return true;
    }
    if (answer === false) {
      const read = { field: value };
      const facts = factsOf(check.facts, definition, read, {}, takes, run.at);
      const words = definition.words?.(takes as never, read as never) ?? {};
      run.fail(check, [blamed(check, value, step, indexes)], facts, words, check.facts.labels);
      run.explain(check, 'value', 'failed');
      return false;
    }
    throw new TypeError(`Rule "${check.rule}" gave ${describe(answer)}, and not true or false.`);
  } catch (cause) {
    run.leaveOpen(check, [{ place: step.place, indexes }], 'fault', cause);
    run.explain(check, 'value', 'unsettled', 'fault');
    return false;
  }
}

/** The field, or the entry of a list that is at fault. */
function blamed({ definition, takes }: ValueCheck, value: unknown, step: FieldStep, indexes: readonly EntryKey[]): Spot {
  const entry = definition.entryOf?.(value as never, takes as never);
  if (entry === undefined || step.op !== 'list') return { place: step.place, indexes };
  return { place: step.item.place, indexes: [...indexes, entry] };
}
