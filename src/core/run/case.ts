import type { Why } from '../basics/verdict.ts';
import type { Found, Reads } from '../declared/rule.ts';
import type { ConditionPlan, EntryKey, Frame, LookUpPlan, ReadsCondition, UsePlan } from '../plan/plan.ts';
import type { Spot } from './failures.ts';

/** One use on one entry (or on the submission as a whole), while it is evaluated. */
export interface Case {
  readonly use: UsePlan;
  /** The submission's frame, then that of each entry around the case. */
  readonly frames: readonly Frame[];
  readonly indexes: readonly EntryKey[];
  /** What each condition came to when it was last looked at; of a judgement that is explained. */
  guards?: Map<ConditionPlan, Guard>;
}

/** What a condition comes to. */
export type Guard = 'holds' | 'fails' | Skipped | { readonly why: Why; readonly cause?: unknown };
/** By what was absent, unsound or not found; the last is a finding, where nothing else settles the condition. */
export interface Skipped {
  readonly skipped: readonly Spot[];
  readonly missing?: readonly Missing[];
}
/** A look-up `one` that found nothing, and whom it blames. */
export interface Missing {
  readonly lookUp: LookUpPlan;
  readonly read: Reads;
  readonly spots: readonly Spot[];
}

/** What look-ups found, or why there is nothing. */
export type Finds = { readonly found: Found } | Exclude<Guard, string>;
/** Gives what the look-ups of a condition found. */
export type FindFor = (condition: ReadsCondition, read: Reads) => Finds;

export const NOTHING_FOUND: { readonly found: Found } = { found: Object.freeze({}) };
/** The answer of a condition that has to ask its records first. */
export const WAITING = Object.freeze({ why: 'not-asked' }) satisfies Guard;
