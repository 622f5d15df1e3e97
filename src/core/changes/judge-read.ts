import { type EntryKey, type FieldStep, type FieldSteps, type Frame, UNSOUND, Unstored } from '../plan/plan.ts';
import { beforeInside } from '../run/amending.ts';
import type { Run } from '../run/run.ts';
import { unsound } from '../run/unsound.ts';
import { isSameIn } from '../run/value.ts';
import { judgeValue } from '../run/value-checks.ts';
import { readMissing } from '../steps/reading.ts';
import { isBlankText } from '../steps/scalar.ts';
import { isConfirmed } from './confirmed.ts';

/**
 * Steps 1 and 4 for what was read into frames beforehand: presence and value rules.
 *
 * @param frames those around, that of the fields last
 * @param before the frame of the stored record to compare with; what is the same there is excused
 */
export function judgeRead(
  run: Run,
  fields: FieldSteps,
  frames: readonly Frame[],
  before: Frame | undefined,
  indexes: readonly EntryKey[],
): void {
  for (const step of fields.steps) judgeStep(run, step, frames, before, indexes);
}

function judgeStep(run: Run, step: FieldStep, frames: readonly Frame[], before: Frame | undefined, indexes: readonly EntryKey[]): void {
  const frame = frames.at(-1) as Frame;
  const held = frame[step.slot];
  if (held === UNSOUND || held === null || held instanceof Unstored) return;
  const isSame = before !== undefined && !step.isLeftOut && isSameIn(step, frame, before);
  if (held === undefined) {
    // What is left out of the value is not stored: it is needed again when a rule reads it beside something that has changed.
    if (step.needed && !isSame && !(step.isLeftOut && !isConfirmed(run, step, frames)))
      frame[step.slot] = readMissing(run, step, frame, indexes);
    return;
  }
  if (step.sort.isMade) {
    const around: Around = { run, frames, before: beforeInside(step, frame, before), indexes };
    step.sort.within(step, frame, judgeInside, around);
  } else if (!isSame && isBlankText(step, held)) {
    frame[step.slot] = unsound(run, step, undefined, indexes, 'blank');
    return;
  }
  if (step.checks.length > 0) frame[step.slot] = judgeValue(run, step, held, indexes, isSame);
}

interface Around {
  readonly run: Run;
  readonly frames: readonly Frame[];
  readonly before: Frame | undefined;
  readonly indexes: readonly EntryKey[];
}

function judgeInside(step: FieldStep, frame: Frame, { run, frames, before, indexes }: Around, key?: EntryKey): undefined {
  if (key === undefined) judgeStep(run, step, frames, before, indexes);
  else judgeStep(run, step, [...frames, frame], run.amending?.before(frame), [...indexes, key]);
}
