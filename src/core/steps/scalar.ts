import { canonical } from '../basics/canonical.ts';
import { isBlank } from '../basics/text.ts';
import { UNREADABLE } from '../declared/kind.ts';
import { type CleanStep, type EntryKey, type FieldStep, type Inside, type ScalarStep, UNSOUND, Unstored } from '../plan/plan.ts';
import { engineInfo } from '../run/engine-finding.ts';
import { isNeededText } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { saidOf, unsound } from '../run/unsound.ts';
import { judgeValue } from '../run/value-checks.ts';
import type { Reading } from './sort.ts';

const NOTHING: readonly Inside[] = [];

/** One value, as its kind reads it. */
export const scalar: Reading<ScalarStep> = {
  name: 'scalar',
  isMade: false,
  isSentInParts: false,
  isOpen: false,
  read: (run, step, raw, _frame, indexes) => readScalar(run, step, raw, indexes),
  value: ({ kind }, held) => (kind.copy ? kind.copy(held) : held),
  isSame({ slot, kind }, frame, other) {
    const [held, was] = [frame[slot], other[slot]];
    if (held === was) return held !== UNSOUND;
    // Values that are objects are read anew each time.
    return kind.merged !== undefined && isValue(held) && isValue(was) && canonical(held) === canonical(was);
  },
  inside: () => NOTHING,
  within: () => undefined,
};

export function readScalar(run: Run, step: ScalarStep, raw: unknown, indexes: readonly EntryKey[]): unknown {
  const { kind } = step;
  const { isForm } = run.settings;
  if (isForm && Array.isArray(raw)) return unsound(run, step, undefined, indexes, 'readable');
  try {
    let value = isForm && !kind.isObject ? readText(run, kind, raw) : kind.json(raw);
    if (value === UNREADABLE) return unreadable(run, step, raw, indexes);
    for (let at = 0; at < step.cleans.length; at++) value = (step.cleans[at] as CleanStep).apply(value);
    if (isBlankText(step, value) && !run.isReadingOnly) return unsound(run, step, undefined, indexes, 'blank');
    return judgeValue(run, step, value, indexes);
  } catch (cause) {
    return faultOfKind(run, step, indexes, cause);
  }
}

/** What a kind says of what it cannot read. */
export function unreadable(run: Run, step: FieldStep, raw: unknown, indexes: readonly EntryKey[]): typeof UNSOUND {
  return unsound(run, step, undefined, indexes, 'readable', saidOf(run, step.kind, raw));
}

/** A kind or cleaning step of one's own threw: the code is at fault, and not the sender. */
export function faultOfKind(run: Run, step: FieldStep, indexes: readonly EntryKey[], cause: unknown): typeof UNSOUND {
  run.leaveOpen(engineInfo(run, 'readable', step.place.path), [{ place: step.place, indexes }], 'fault', cause);
  return UNSOUND;
}

/** Text of a form. A date and time that comes without its offset (`datetime-local`) is one of the intake's zone. */
export function readText(run: Run, kind: ScalarStep['kind'], raw: unknown): unknown {
  if (typeof raw !== 'string') return UNREADABLE;
  const { zone } = run.settings;
  return kind.formIn && zone !== undefined ? kind.formIn(raw, zone) : kind.form(raw);
}

export function isBlankText(step: FieldStep, value: unknown): boolean {
  return isNeededText(step) && isBlank(value as string);
}

function isValue(held: unknown): boolean {
  return typeof held === 'object' && held !== null && !(held instanceof Unstored);
}
