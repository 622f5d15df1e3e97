import { type GroupStep, PRESENT } from '../plan/plan.ts';
import { isObject } from '../run/raw.ts';
import { ownOf, type StepChange, UNREAD } from './changing.ts';
import { pairFields } from './fields.changes.ts';

export const groupChange: StepChange<GroupStep> = {
  refill(step, stored, frame, isComplete, inside) {
    if (!isObject(stored)) return UNREAD;
    inside.fields(step.inner, stored, frame, isComplete);
    return PRESENT;
  },
  merge(merging, step, raw, level) {
    const known = ownOf(level.stored, step.key);
    const isNew = level.before[step.slot] === undefined;
    level.frame[step.slot] = PRESENT;
    merging.fields(step.inner, { ...level, stored: isObject(known) ? known : undefined, change: raw, isNew });
  },
  pair: pairFields,
};
