import type { EntryKey, FieldStep, FieldSteps, Frame } from '../plan/plan.ts';
import { readDefault } from '../run/defaults.ts';
import { BROKEN, isEmpty, type Source } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { refuseStrangers } from '../run/strangers.ts';
import { unsound } from '../run/unsound.ts';
import { judgeValue } from '../run/value-checks.ts';
import { readScalar } from './scalar.ts';
import type { Reading } from './sort.ts';

// What the reading of every step begins with: its key, and presence.

const INHERITED: ReadonlySet<string> = new Set(Object.getOwnPropertyNames(Object.prototype));

export function readFields(run: Run, fields: FieldSteps, source: Source, frame: Frame, indexes: readonly EntryKey[]): void {
  const { steps } = fields;
  for (let at = 0; at < steps.length; at++) {
    const step = steps[at] as FieldStep;
    let raw: unknown;
    try {
      // What `Object.prototype` has too counts only where it is the submission's own.
      raw = INHERITED.has(step.key) && !Object.hasOwn(source, step.key) ? undefined : source[step.key];
    } catch {
      raw = BROKEN;
    }
    frame[step.slot] = readValue(run, step, raw, frame, indexes);
  }
  refuseStrangers(run, fields, source, indexes);
}

export function readValue(run: Run, step: FieldStep, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (raw === null && step.nullAllowed) return null;
  if (raw === undefined || raw === null || (run.settings.isForm && isEmpty(step, raw))) return readMissing(run, step, frame, indexes);
  // Most are scalars: called straight, they become part of the loop.
  return step.sort.isMade ? (step.sort as Reading).read(run, step, raw, frame, indexes) : readScalar(run, step, raw, indexes);
}

export function readMissing(run: Run, step: FieldStep, frame: Frame, indexes: readonly EntryKey[]): unknown {
  const { isForm, shown } = run.settings;
  const { unsent } = step.kind;
  // An unticked box is not sent. It says no where it is needed, and where the form is known to have shown it.
  if (isForm && unsent !== undefined && (step.needed || shown?.has(step.place.path) || (step.filledBy && run.amending)))
    return judgeValue(run, step, unsent, indexes);
  const { filledBy } = step;
  if (filledBy) return 'empty' in filledBy ? readNone(run, step, frame, indexes) : readDefault(run, step, filledBy, indexes);
  if (!step.needed) return undefined;
  // A form sends no groups, only fields: each of them says for itself that it is missing.
  if (isForm && step.sort.isSentInParts) return (step.sort as Reading).read(run, step, {}, frame, indexes);
  return run.isReadingOnly ? undefined : unsound(run, step, frame, indexes, 'needed');
}

/** What was not sent, and is empty then. */
function readNone(run: Run, step: FieldStep, frame: Frame, indexes: readonly EntryKey[]): unknown {
  return (step.sort as Reading).read(run, step, step.sort.none, frame, indexes);
}
