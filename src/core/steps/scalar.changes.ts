import { UNREADABLE } from '../declared/kind.ts';
import { type ScalarStep, Unstored } from '../plan/plan.ts';
import { type StepChange, UNREAD } from './changing.ts';

export const scalarChange: StepChange<ScalarStep> = {
  refill(step, stored) {
    // An upload is what it is.
    if (step.kind.isObject && typeof stored === 'object') return stored;
    try {
      const value = step.kind.stored(stored);
      return value === UNREADABLE ? UNREAD : value;
    } catch (cause) {
      return new Unstored('fault', cause);
    }
  },
  /** A value that is an object of anything: members that the change does not mention stay. */
  merge(merging, step, raw, level) {
    const { merged } = step.kind;
    const was = level.before[step.slot];
    if (!merged || merging.isWhole || merging.isForm) merging.sent(step, raw, level);
    else if (was instanceof Unstored) merging.unknown(step, level, was);
    else merging.sent(step, merged.call(step.kind, was, raw), level);
  },
  pair: () => {},
};
