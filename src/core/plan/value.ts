import { type FieldStep, type FieldSteps, type Frame, UNSOUND } from './plan.ts';

/** A new object of the declared fields, in declared order, without those left out. Only for sound frames. */
export function objectOf(fields: FieldSteps, frame: Frame): { [key: string]: unknown } {
  const object: { [key: string]: unknown } = {};
  for (const step of fields.steps) {
    if (step.isLeftOut) continue;
    const value = valueIn(step, frame);
    if (value !== undefined) object[step.key] = value;
  }
  return object;
}

/** The value of a field, put together from its frame. */
export function valueIn(step: FieldStep, frame: Frame): unknown {
  const held = frame[step.slot];
  if (held === undefined || held === null || step.op === 'scalar') return held;
  if (step.op === 'group') return objectOf(step.inner, frame);
  return (held as Frame[]).map((entry) => valueIn(step.item, entry));
}

/** Whether nothing in a field or inside it failed. */
export function isSound(step: FieldStep, frame: Frame): boolean {
  const held = frame[step.slot];
  if (held === UNSOUND) return false;
  if (held === undefined || held === null || step.op === 'scalar') return true;
  if (step.op === 'group') return step.inner.steps.every((inner) => isSound(inner, frame));
  return (held as Frame[]).every((entry) => isSound(step.item, entry));
}
