import { type FieldStep, type FieldSteps, type Frame, NOT_LOADED, type Unstored } from '../plan/plan.ts';
import { ownOf, type Refilling, UNREAD, unreadStored } from '../steps/changing.ts';
import { changeOf } from './steps.ts';

// Puts a value that was accepted before back into frames, without judging it again.

export type Stored = { readonly [key: string]: unknown };

/**
 * Refills the fields of one object.
 *
 * @param isComplete what is not there is empty; else it was not loaded
 */
export function refillFields(fields: FieldSteps, stored: Stored, frame: Frame, isComplete: boolean): void {
  for (const step of fields.steps) refill(step, ownOf(stored, step.key), frame, isComplete);
}

const inside: Refilling = {
  fields: refillFields,
  // Entries are loaded as a whole: what one lacks is not there.
  one: (step, stored, frame) => refill(step, stored, frame, true),
};

/** Puts one stored value into its slot, and what is inside it into theirs. */
function refill(step: FieldStep, stored: unknown, frame: Frame, isComplete: boolean): void {
  if (step.isLeftOut) frame[step.slot] = undefined;
  else if (stored === null) frame[step.slot] = step.nullAllowed ? null : undefined;
  else if (stored !== undefined) {
    const held = changeOf(step).refill(step, stored, frame, isComplete, inside);
    if (held === UNREAD) fillUnstored(step, frame, unreadStored(step));
    else frame[step.slot] = held;
  } else if (isComplete) frame[step.slot] = undefined;
  else fillUnstored(step, frame, NOT_LOADED);
}

/** Nothing is known of a field, nor of what stands in it. */
function fillUnstored(step: FieldStep, frame: Frame, unstored: Unstored): void {
  frame[step.slot] = unstored;
  for (const { steps, isEntry } of step.inside)
    if (!isEntry) for (const inner of steps) if (!inner.isLeftOut) fillUnstored(inner, frame, unstored);
}
