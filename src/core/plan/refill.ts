import { UNREADABLE } from '../kinds/kind.ts';
import { engineInfo } from './engine-finding.ts';
import {
  type Entries,
  type EntryKey,
  type FieldStep,
  type FieldSteps,
  type Frame,
  type ListStep,
  PRESENT,
  type ScalarStep,
  UNSOUND,
  UNSTORED,
} from './plan.ts';
import { newFrame, type Run } from './run.ts';

// Puts a value that was accepted before back into frames, without judging it again.

export type Stored = { readonly [key: string]: unknown };

export function isObject(raw: unknown): raw is Stored {
  return typeof raw === 'object' && raw !== null && !Array.isArray(raw);
}

/** Refills the fields of one object. */
export function refillFields(run: Run, fields: FieldSteps, stored: Stored, frame: Frame, indexes: readonly EntryKey[]): void {
  for (const step of fields.steps) refill(run, step, ownOf(stored, step.key), frame, indexes);
}

/** The own member of an object. */
export function ownOf(object: Stored, key: string): unknown {
  return Object.hasOwn(object, key) ? object[key] : undefined;
}

/** Puts one stored value into its slot, and what is inside it into theirs. */
export function refill(run: Run, step: FieldStep, stored: unknown, frame: Frame, indexes: readonly EntryKey[]): void {
  frame[step.slot] =
    stored === undefined || stored === null ? missing(run, step, stored, frame, indexes) : there(run, step, stored, frame, indexes);
}

function missing(run: Run, step: FieldStep, stored: null | undefined, frame: Frame, indexes: readonly EntryKey[]): unknown {
  if (stored === null && step.nullAllowed) return null;
  if (step.isLeftOut || !(step.needed || step.filledBy)) return undefined;
  // The application need not load every column; a rule that reads it then cannot be decided.
  if (indexes.length > 0) return unsound(run, step, indexes);
  if (step.op === 'group') refillFields(run, step.inner, {}, frame, indexes);
  return UNSTORED;
}

function there(run: Run, step: FieldStep, stored: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown {
  switch (step.op) {
    case 'scalar':
      return scalar(run, step, stored, indexes);
    case 'group':
      if (!isObject(stored)) return unsound(run, step, indexes);
      refillFields(run, step.inner, stored, frame, indexes);
      return PRESENT;
    case 'list':
      return entries(run, step, stored, indexes);
    case 'shapes': {
      const tag = isObject(stored) ? ownOf(stored, step.tag) : undefined;
      const fields = step.shapes.get(tag as string);
      if (!fields) return unsound(run, step, indexes);
      refillFields(run, fields, stored as Stored, frame, indexes);
      return tag;
    }
  }
}

function scalar(run: Run, step: ScalarStep, stored: unknown, indexes: readonly EntryKey[]): unknown {
  const { kind } = step;
  // An upload, or a value of an own kind, is what it is.
  if (typeof stored === 'object' && !(stored instanceof Date)) return stored;
  const value = kind.stored(stored);
  return value === UNREADABLE ? unsound(run, step, indexes) : value;
}

function entries(run: Run, step: ListStep, stored: unknown, indexes: readonly EntryKey[]): unknown {
  const values = step.isNamed ? isObject(stored) && Object.values(stored) : Array.isArray(stored) && stored;
  if (!values) return unsound(run, step, indexes);
  const names = step.isNamed ? Object.keys(stored as object) : undefined;
  const frames: Entries = values.map((value, index) => refillEntry(run, step, value, [...indexes, names?.[index] ?? index]));
  if (names) frames.names = names;
  return frames;
}

/** The frame of one entry. */
export function refillEntry(run: Run, step: ListStep, stored: unknown, indexes: readonly EntryKey[]): Frame {
  const frame = newFrame(step.size);
  refill(run, step.item, stored, frame, indexes);
  return frame;
}

/** A stored value that its kind cannot read: nobody who sends a change is to blame. */
function unsound(run: Run, step: FieldStep, indexes: readonly EntryKey[]): typeof UNSOUND {
  const cause = new Error(`The stored value of "${step.place.path}" is not of its kind, ${step.kind.name}.`);
  run.leaveOpen(engineInfo(run, 'readable', step.place.path), [{ place: step.place, indexes }], 'stored-unsound', cause);
  return UNSOUND;
}
