import { type FieldStep, type FieldSteps, type Frame, UNSOUND, Unstored } from '../plan/plan.ts';

/** A new object of the declared fields, in declared order, without those left out. Only for sound frames. */
export function objectOf(fields: FieldSteps, frame: Frame): { [key: string]: unknown } {
  const object: { [key: string]: unknown } = {};
  const { steps } = fields;
  for (let at = 0; at < steps.length; at++) {
    const step = steps[at] as FieldStep;
    if (step.isLeftOut || frame[step.slot] === undefined) continue;
    const value = valueIn(step, frame);
    if (value !== undefined) object[step.key] = value;
  }
  return object;
}

/** The value of a field, put together from its frame. */
export function valueIn(step: FieldStep, frame: Frame): unknown {
  const held = frame[step.slot];
  if (held === undefined || held === null) return held;
  if (held instanceof Unstored) return undefined;
  return step.sort.value(step, held, frame);
}

/** The first thing in a field or inside it for which `is` holds. */
function findIn<T>(step: FieldStep, frame: Frame, is: (held: unknown) => held is T): T | undefined {
  const held = frame[step.slot];
  return is(held) ? held : step.sort.within(step, frame, findIn<T>, is);
}

const isUnsound = (held: unknown): held is typeof UNSOUND => held === UNSOUND;
const isUnstored = (held: unknown): held is Unstored => held instanceof Unstored;

/** Whether nothing in a field or inside it failed. */
export function isSound(step: FieldStep, frame: Frame): boolean {
  return findIn(step, frame, isUnsound) === undefined;
}

/** What of a field or inside it is stored, and unknown. */
export function unstoredIn(step: FieldStep, frame: Frame): Unstored | undefined {
  return findIn(step, frame, isUnstored);
}

/** Whether a field of two frames holds the same, and everything inside it; what is left out of the value does not count. */
export function isSameIn(step: FieldStep, frame: Frame, other: Frame): boolean {
  return step.sort.isSame(step, frame, other);
}

export function areSameFields(fields: FieldSteps, frame: Frame, other: Frame): boolean {
  return fields.steps.every((step) => step.isLeftOut || isSameIn(step, frame, other));
}
