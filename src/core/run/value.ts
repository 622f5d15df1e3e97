import { canonical } from '../basics/canonical.ts';
import { type Entries, type FieldStep, type FieldSteps, type Frame, PRESENT, type ShapesStep, UNSOUND, Unstored } from '../plan/plan.ts';

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
  switch (step.op) {
    case 'scalar':
      return step.kind.copy ? step.kind.copy(held) : held;
    case 'group':
      return objectOf(step.inner, frame);
    case 'shapes':
      return { [step.tag]: held, ...objectOf(shapeIn(step, held), frame) };
    case 'list': {
      const entries = held as Entries;
      const { item } = step;
      const values: unknown[] = [];
      for (let index = 0; index < entries.length; index++) values.push(valueIn(item, entries[index] as Frame));
      // fromEntries defines each name, `__proto__` too, and sets none.
      return entries.names ? Object.fromEntries(entries.names.map((name, index) => [name, values[index]])) : values;
    }
  }
}

/** The first thing in a field or inside it for which `is` holds. */
function findIn<T>(step: FieldStep, frame: Frame, is: (held: unknown) => held is T): T | undefined {
  const held = frame[step.slot];
  if (is(held)) return held;
  if (step.op === 'group' && held === PRESENT) return findAmong(step.inner, frame, is);
  if (step.op === 'shapes' && typeof held === 'string') return findAmong(shapeIn(step, held), frame, is);
  if (step.op === 'list' && Array.isArray(held)) {
    for (const entry of held as Entries) {
      const found = findIn(step.item, entry, is);
      if (found !== undefined) return found;
    }
  }
  return undefined;
}

function findAmong<T>(fields: FieldSteps, frame: Frame, is: (held: unknown) => held is T): T | undefined {
  for (const step of fields.steps) {
    const found = findIn(step, frame, is);
    if (found !== undefined) return found;
  }
  return undefined;
}

const isUnsound = (held: unknown): held is typeof UNSOUND => held === UNSOUND;

/** Whether nothing in a field or inside it failed. */
export function isSound(step: FieldStep, frame: Frame): boolean {
  return findIn(step, frame, isUnsound) === undefined;
}

/** What of a field or inside it is stored, and unknown. */
export function unstoredIn(step: FieldStep, frame: Frame): Unstored | undefined {
  return findIn(step, frame, (held) => held instanceof Unstored);
}

/** Whether a field of two frames holds the same, and everything inside it; what is left out of the value does not count. */
export function isSameIn(step: FieldStep, frame: Frame, other: Frame): boolean {
  const [held, was] = [frame[step.slot], other[step.slot]];
  if (step.op === 'list' && Array.isArray(held) && Array.isArray(was)) return areSameEntries(step.item, held, was);
  if (held !== was && isJson(step) && isValue(held) && isValue(was)) return canonical(held) === canonical(was);
  if (held !== was || held === UNSOUND) return false;
  if (step.op === 'group' && held === PRESENT) return areSameFields(step.inner, frame, other);
  if (step.op === 'shapes' && typeof held === 'string') return areSameFields(shapeIn(step, held), frame, other);
  return true;
}

/** Values that are objects are read anew each time. */
function isJson(step: FieldStep): boolean {
  return step.op === 'scalar' && step.kind.merged !== undefined;
}

function isValue(held: unknown): boolean {
  return typeof held === 'object' && held !== null && !(held instanceof Unstored);
}

function areSameFields(fields: FieldSteps, frame: Frame, other: Frame): boolean {
  return fields.steps.every((step) => step.isLeftOut || isSameIn(step, frame, other));
}

function areSameEntries(item: FieldStep, entries: Entries, others: Entries): boolean {
  if (entries === others) return true;
  if (entries.length !== others.length) return false;
  const { names } = entries;
  // Members of an object stand in no order.
  const otherAt = (index: number) => (names ? (others.names?.indexOf(names[index] as string) ?? -1) : index);
  return entries.every((entry, index) => {
    const other = others[names?.[index] === others.names?.[index] ? index : otherAt(index)];
    return other !== undefined && isSameIn(item, entry, other);
  });
}

export function shapeIn(step: ShapesStep, held: unknown): FieldSteps {
  return step.shapes.get(held as string) as FieldSteps;
}
