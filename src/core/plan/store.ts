import type { Verdict } from '../verdict.ts';
import { verdictOf } from './finish.ts';
import { begin, decide, type Inputs } from './judge.ts';
import type { Plan } from './plan.ts';
import { refusalOf } from './refusal.ts';

/** An accepted verdict with what storing gave, or one of the others. */
export type StoredVerdict<A, T> =
  | Exclude<Verdict<A>, { readonly outcome: 'accepted' }>
  | (Extract<Verdict<A>, { readonly outcome: 'accepted' }> & {
      /** What the function that stores gave back. */
      readonly stored: T;
    });

/** Judges, then stores what is accepted; a constraint of the store that is violated meanwhile gives a verdict too. */
export async function judgeAndStore<T>(
  plan: Plan,
  submission: unknown,
  inputs: Inputs,
  store: (value: never) => Promise<T> | T,
): Promise<StoredVerdict<unknown, T>> {
  const run = begin(plan, submission, inputs);
  await decide(run, inputs);
  const verdict = verdictOf(run, inputs.locale);
  if (verdict.outcome !== 'accepted') return verdict;
  try {
    return { ...verdict, stored: await store(verdict.value as never) };
  } catch (error) {
    const conflict = inputs.records?.conflictOf?.(error);
    if (!conflict) throw error;
    const refusal = refusalOf(plan, conflict, { ...inputs, value: verdict.value });
    if (refusal) return refusal as StoredVerdict<unknown, T>;
    // A constraint that does not say which rule it stands for: the rules see by now what it saw.
    run.failures.length = 0;
    await decide(run, inputs);
    const again = verdictOf(run, inputs.locale);
    if (again.outcome === 'rejected') return again;
    throw error;
  }
}
