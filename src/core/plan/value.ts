import { type Entries, type FieldStep, type FieldSteps, type Frame, type ShapesStep, UNSOUND, UNSTORED } from './plan.ts';

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
  if (held === undefined || held === null) return held;
  if (held === UNSTORED) return undefined;
  switch (step.op) {
    case 'scalar':
      return held;
    case 'group':
      return objectOf(step.inner, frame);
    case 'shapes':
      return { [step.tag]: held, ...objectOf(shapeIn(step, held), frame) };
    case 'list': {
      const entries = held as Entries;
      const values = entries.map((entry) => valueIn(step.item, entry));
      // fromEntries defines each name, `__proto__` too, and sets none.
      return entries.names ? Object.fromEntries(entries.names.map((name, index) => [name, values[index]])) : values;
    }
  }
}

/** Whether the stored record lacks nothing of a group or shape; what stands in lists is whole. */
export function isWhole(step: FieldStep, frame: Frame): boolean {
  const held = frame[step.slot];
  if (held === UNSTORED) return false;
  if (step.op === 'group' && held !== undefined) return step.inner.steps.every((inner) => isWhole(inner, frame));
  return step.op !== 'shapes' || typeof held !== 'string' || shapeIn(step, held).steps.every((inner) => isWhole(inner, frame));
}

/** Whether nothing in a field or inside it failed. */
export function isSound(step: FieldStep, frame: Frame): boolean {
  const held = frame[step.slot];
  if (held === UNSOUND) return false;
  if (held === undefined || held === null) return true;
  switch (step.op) {
    case 'scalar':
      return true;
    case 'group':
      return step.inner.steps.every((inner) => isSound(inner, frame));
    case 'shapes':
      return shapeIn(step, held).steps.every((inner) => isSound(inner, frame));
    case 'list':
      return (held as Entries).every((entry) => isSound(step.item, entry));
  }
}

function shapeIn(step: ShapesStep, held: unknown): FieldSteps {
  return step.shapes.get(held as string) as FieldSteps;
}
