import { type EntryKey, type Frame, type GroupStep, PRESENT, UNSOUND } from '../plan/plan.ts';
import { isObject } from '../run/raw.ts';
import type { Run } from '../run/run.ts';
import { saidBy, unsound } from '../run/unsound.ts';
import { areSameFields, objectOf } from '../run/value.ts';
import { readFields } from './reading.ts';
import type { Reading } from './sort.ts';

/** Fields under one name. They stand in the frame of the group, whose slot says that it is there. */
export const groupStep: Reading<GroupStep> = {
  name: 'group',
  isMade: true,
  isSentInParts: true,
  isOpen: true,
  calls: { refused },
  read(run, step, raw, frame, indexes) {
    if (!isObject(raw)) return refused(run, step, frame, indexes);
    readFields(run, step.inner, raw, frame, indexes);
    return PRESENT;
  },
  value: (step, _held, frame) => objectOf(step.inner, frame),
  isSame({ slot, inner }, frame, other) {
    const held = frame[slot];
    return held === other[slot] && held !== UNSOUND && (held !== PRESENT || areSameFields(inner, frame, other));
  },
  inside: ({ inner: { steps } }) => [{ steps, isEntry: false }],
  within({ slot, inner: { steps } }, frame, visit, more) {
    if (frame[slot] !== PRESENT) return undefined;
    for (const inner of steps) {
      const found = visit(inner, frame, more);
      if (found !== undefined) return found;
    }
    return undefined;
  },
};

/** What stands where a group should. */
function refused(run: Run, step: GroupStep, frame: Frame, indexes: readonly EntryKey[]): typeof UNSOUND {
  return unsound(run, step, frame, indexes, 'readable', saidBy(step.kind));
}
