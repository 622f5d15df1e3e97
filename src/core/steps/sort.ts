import type { EntryKey, FieldStep, Frame, StepSort } from '../plan/plan.ts';
import type { Run } from '../run/run.ts';

/** A sort of step as the loop calls it. */
export interface Reading<S = FieldStep> extends StepSort<S> {
  read(run: Run, step: S, raw: unknown, frame: Frame, indexes: readonly EntryKey[]): unknown;
}
