import { UNREADABLE } from '../declared/kind.ts';
import {
  type Entries,
  type FieldStep,
  type FieldSteps,
  type Frame,
  type ListStep,
  NOT_LOADED,
  PRESENT,
  type ScalarStep,
  Unstored,
} from '../plan/plan.ts';
import { newFrame } from '../run/frames.ts';
import { shapeIn } from '../run/value.ts';

// Puts a value that was accepted before back into frames, without judging it again.

export type Stored = { readonly [key: string]: unknown };

export function isObject(raw: unknown): raw is Stored {
  return typeof raw === 'object' && raw !== null && !Array.isArray(raw);
}

/** The own member of an object. */
export function ownOf(object: Stored | undefined, key: string): unknown {
  return object !== undefined && Object.hasOwn(object, key) ? object[key] : undefined;
}

/**
 * Refills the fields of one object.
 *
 * @param isComplete what is not there is empty; else it was not loaded
 */
export function refillFields(fields: FieldSteps, stored: Stored, frame: Frame, isComplete: boolean): void {
  for (const step of fields.steps) refill(step, ownOf(stored, step.key), frame, isComplete);
}

/** Puts one stored value into its slot, and what is inside it into theirs. */
function refill(step: FieldStep, stored: unknown, frame: Frame, isComplete: boolean): void {
  if (step.isLeftOut) frame[step.slot] = undefined;
  else if (stored === null) frame[step.slot] = step.nullAllowed ? null : undefined;
  else if (stored !== undefined) frame[step.slot] = there(step, stored, frame, isComplete);
  else if (isComplete) frame[step.slot] = undefined;
  else fillUnstored(step, frame, NOT_LOADED);
}

/** Nothing is known of a field, nor of what stands in it. */
function fillUnstored(step: FieldStep, frame: Frame, unstored: Unstored): Unstored {
  frame[step.slot] = unstored;
  const inside = step.op === 'group' ? [step.inner] : step.op === 'shapes' ? step.shapes.values() : [];
  for (const { steps } of inside) for (const inner of steps) if (!inner.isLeftOut) fillUnstored(inner, frame, unstored);
  return unstored;
}

function there(step: FieldStep, stored: unknown, frame: Frame, isComplete: boolean): unknown {
  switch (step.op) {
    case 'scalar':
      return scalar(step, stored);
    case 'group':
      if (!isObject(stored)) return fillUnstored(step, frame, unreadable(step));
      refillFields(step.inner, stored, frame, isComplete);
      return PRESENT;
    case 'list':
      return entries(step, stored);
    case 'shapes': {
      const tag = isObject(stored) ? ownOf(stored, step.tag) : undefined;
      if (typeof tag !== 'string' || !step.shapes.has(tag)) return fillUnstored(step, frame, unreadable(step));
      refillFields(shapeIn(step, tag), stored as Stored, frame, isComplete);
      return tag;
    }
  }
}

function scalar(step: ScalarStep, stored: unknown): unknown {
  // An upload is what it is.
  if (step.kind.isObject && typeof stored === 'object') return stored;
  try {
    const value = step.kind.stored(stored);
    return value === UNREADABLE ? unreadable(step) : value;
  } catch (cause) {
    return new Unstored('fault', cause);
  }
}

function entries(step: ListStep, stored: unknown): unknown {
  const values = step.isNamed ? isObject(stored) && Object.values(stored) : Array.isArray(stored) && (stored as unknown[]);
  if (!values) return unreadable(step);
  // A list with holes has nothing there.
  const frames: Entries = Array.from(values, (value) => {
    const frame = newFrame(step.size);
    // A list is loaded as a whole: what an entry lacks is not there.
    refill(step.item, value, frame, true);
    return frame;
  });
  if (step.isNamed) frames.names = Object.keys(stored as object);
  return frames;
}

/** A stored value that its kind cannot read: nobody who sends a change is to blame. */
function unreadable({ place, kind }: FieldStep): Unstored {
  return new Unstored('stored-unsound', new Error(`The stored value of "${place.path}" is not of its kind, ${kind.name}.`));
}
