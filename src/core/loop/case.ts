import type { EntryKey, Frame, UsePlan } from '../plan/plan.ts';

/** One use on one entry (or on the submission as a whole), while it is evaluated. */
export interface Case {
  readonly use: UsePlan;
  /** The submission's frame, then that of each entry around the case. */
  readonly frames: readonly Frame[];
  readonly indexes: readonly EntryKey[];
}
