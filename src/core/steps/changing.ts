import { type Entries, type EntryKey, type FieldStep, type FieldSteps, type Frame, Unstored } from '../plan/plan.ts';
import type { Amending } from '../run/amending.ts';
import type { Source } from '../run/raw.ts';
import type { Run } from '../run/run.ts';

// What the sorts of steps do when a stored record is changed. `changes/` begins it, and goes from step to step.

/** Fields with what is stored of them and what the change says of them. */
export interface Level {
  /** As the application gave it; what it was read as stands in `before`. */
  readonly stored: Source | undefined;
  readonly change: Source;
  readonly frame: Frame;
  readonly before: Frame;
  /** Nothing stood here before: what the change does not mention takes its default, as in anything new. */
  readonly isNew: boolean;
  readonly indexes: readonly EntryKey[];
}

/** The merge under way, as the steps use it. */
export interface Merging {
  readonly run: Run;
  readonly amending: Amending;
  readonly isWhole: boolean;
  readonly isForm: boolean;
  fields(fields: FieldSteps, level: Level): void;
  field(step: FieldStep, level: Level): void;
  /** What was sent takes the place of what is stored. */
  sent(step: FieldStep, raw: unknown, level: Level): void;
  /** Puts stored fields back into a frame. */
  refill(fields: FieldSteps, stored: Source, frame: Frame, isComplete: boolean): void;
  /** A change of some of what was not loaded, or cannot be read: nobody can say what becomes of it. */
  unknown(step: FieldStep, level: Level, unstored: Unstored): void;
}

/** Puts what stands inside back. */
export interface Refilling {
  fields(fields: FieldSteps, stored: Source, frame: Frame, isComplete: boolean): void;
  one(step: FieldStep, stored: unknown, frame: Frame): void;
}
/** Pairs what stands inside. */
export type Pairing = (amending: Amending, step: FieldStep, frame: Frame, before: Frame) => void;

export interface StepChange<S = FieldStep> {
  /** What is held of a stored value; `UNREAD` where it is not of the step's kind. */
  refill(step: S, stored: unknown, frame: Frame, isComplete: boolean, inside: Refilling): unknown;
  /** What a form sent of it, as JSON would have it. */
  fromForm?(sent: unknown): unknown;
  /** Merges an object into what is stored (RFC 7396). */
  merge(merging: Merging, step: S, raw: Source, level: Level): void;
  /** Of what was sent anew: which entry was which before. */
  pair(amending: Amending, step: S, frame: Frame, before: Frame, inside: Pairing): void;
}

export const UNREAD: unique symbol = Symbol('unread');

export function entriesIn(frame: Frame, { slot }: FieldStep): Entries | undefined {
  const held = frame[slot];
  return Array.isArray(held) ? (held as Entries) : undefined;
}

/** A stored value that its kind cannot read: nobody who sends a change is to blame. */
export function unreadStored({ place, kind }: FieldStep): Unstored {
  return new Unstored('stored-unsound', new Error(`The stored value of "${place.path}" is not of its kind, ${kind.name}.`));
}

/** The own member of an object. */
export function ownOf(object: Source | undefined, key: string): unknown {
  return object !== undefined && Object.hasOwn(object, key) ? object[key] : undefined;
}
