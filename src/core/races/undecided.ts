import type { Unsettled, Verdict, Why } from '../basics/verdict.ts';

/** A verdict that nobody could come to, and no rule is to blame. */
export type Undecided = Extract<Verdict<unknown>, { readonly outcome: 'undecided' }>;

/**
 * @param name stands where the name of a rule would
 * @param cause for the log
 */
export function undecided(name: 'contended' | 'records', why: Why, cause: unknown): Undecided {
  const open: Unsettled = { rule: name, use: name, places: [], severity: 'error', why };
  return { outcome: 'undecided', warnings: [], unsettled: [Object.defineProperty(open, 'cause', { value: cause, enumerable: false })] };
}
