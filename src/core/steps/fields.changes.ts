import type { FieldStep, Frame } from '../plan/plan.ts';
import { type Amending, beforeInside } from '../run/amending.ts';
import type { Pairing } from './changing.ts';

/** Pairs what stands in the fields of a group or shape, where it was the same before. */
export function pairFields(amending: Amending, step: FieldStep, frame: Frame, before: Frame, inside: Pairing): void {
  if (beforeInside(step, frame, before)) step.sort.within(step, frame, (inner) => inside(amending, inner, frame, before), undefined);
}
