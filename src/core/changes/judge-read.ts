import { isBlankText, readMissing } from '../loop/read.ts';
import { type Entries, type EntryKey, type FieldStep, type FieldSteps, type Frame, UNSOUND, Unstored } from '../plan/plan.ts';
import { beforeInside } from '../run/amending.ts';
import { keyAt } from '../run/entries.ts';
import type { Run } from '../run/run.ts';
import { unsound } from '../run/unsound.ts';
import { isSameIn, shapeIn } from '../run/value.ts';
import { judgeValue } from '../run/value-checks.ts';
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
  if (step.op === 'group') judgeRead(run, step.inner, frames, beforeInside(step, frame, before), indexes);
  else if (step.op === 'shapes') judgeRead(run, shapeIn(step, held), frames, beforeInside(step, frame, before), indexes);
  else if (step.op === 'list')
    for (const [index, entry] of (held as Entries).entries())
      judgeStep(run, step.item, [...frames, entry], run.amending?.before(entry), [...indexes, keyAt(held as Entries, index)]);
  else if (!isSame && isBlankText(step, held)) {
    frame[step.slot] = unsound(run, step, undefined, indexes, 'blank');
    return;
  }
  if (step.checks.length > 0) frame[step.slot] = judgeValue(run, step, held, indexes, isSame);
}
