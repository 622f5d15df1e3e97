import { fault } from '../basics/fault.ts';
import type { Verdict } from '../basics/verdict.ts';
import { type Amended, type AmendInputs, amended, beginAmending } from '../changes/amend.ts';
import { decideByRecords } from '../judging/decide.ts';
import { begin, decide } from '../judging/judge.ts';
import type { Inputs } from '../judging/options.ts';
import type { Plan } from '../plan/plan.ts';
import { unguardedIn } from '../plan/unguarded.ts';
import { verdictOf } from '../run/finish.ts';
import type { Run } from '../run/run.ts';
import type { Conflict, Records } from '../stored/records.ts';
import { type KeepAnswer, onlyOnce, type StoringOptions } from './once.ts';
import { readAgain } from './read-again.ts';
import { mayExplain, refusalOf, refusedBy } from './refusal.ts';
import { Refused } from './refused.ts';
import { undecided } from './undecided.ts';

/** An accepted verdict with what storing gave, or one of the others. */
export type StoredVerdict<A, T> =
  | Exclude<Verdict<A>, { readonly outcome: 'accepted' }>
  | (Extract<Verdict<A>, { readonly outcome: 'accepted' }> & {
      /** What the function that stores gave back. */
      readonly stored: T;
    });

/** What became of a change that was to be stored: the verdict, and what storing gave. */
export type StoredAmendment<A, P, T> =
  | Exclude<Amended<A, P>, { readonly outcome: 'accepted' }>
  | (Extract<Amended<A, P>, { readonly outcome: 'accepted' }> & { readonly stored: T });

/** Judges, then stores what is accepted; a constraint of the store that is violated meanwhile gives a verdict too. */
export async function judgeAndStore<T>(
  plan: Plan,
  submission: unknown,
  { once, ...inputs }: Inputs & StoringOptions,
  store: (value: never) => Promise<T> | T,
): Promise<StoredVerdict<unknown, T>> {
  return onlyOnce(plan, once, [submission], inputs, async (keep) => {
    const run = begin(plan, submission, inputs);
    refuseUnguarded(run, inputs);
    await decide(run, inputs);
    return storeAccepted(run, inputs, verdictOf(run, inputs.locale), keep, ({ value }) => store(copyOf(value) as never));
  });
}

/** The same for a change; what stores it is told what changes, too. */
export async function amendAndStore<T>(
  plan: Plan,
  stored: unknown,
  change: unknown,
  { once, ...inputs }: AmendInputs & StoringOptions,
  store: (value: never, changed: never) => Promise<T> | T,
): Promise<StoredAmendment<unknown, string, T>> {
  return onlyOnce(plan, once, [stored, change], inputs, async (keep) => {
    const now = await readAgain(plan, stored, inputs);
    if ('why' in now) return undecided('records', now.why, now.cause);
    const begun = beginAmending(plan, now.stored, change, inputs);
    refuseUnguarded(begun.run, inputs);
    await decide(begun.run, begun.options);
    const verdict = amended(begun);
    return storeAccepted(begun.run, begun.options, verdict, keep, ({ value }) => store(copyOf(value) as never, begun.changed as never));
  });
}

/** What a store's own code makes of an error; where that fails, the error stands as it is. */
function conflictIn(records: Records | undefined, error: unknown): Conflict | undefined {
  try {
    return records?.conflictOf?.(error);
  } catch {
    return undefined;
  }
}

/** A value of its own for what stores it: what that changes was judged by nobody, and is not told. */
function copyOf<T>(value: T): T {
  if (Array.isArray(value)) return value.map(copyOf) as T;
  if (typeof value !== 'object' || value === null) return value;
  // Tables have no prototype, so that any name is one; files stay what they are.
  const prototype: unknown = Object.getPrototypeOf(value);
  if (prototype !== Object.prototype && prototype !== null) return value;
  return Object.fromEntries(Object.entries(value).map(([name, inner]) => [name, copyOf(inner)])) as T;
}

/** @throws Fault where somebody may store between an answer and what is stored because of it, and nothing would notice */
function refuseUnguarded({ plan, settings }: Run, { records }: Inputs): void {
  if (records?.isSerial !== false) return;
  const [open] = unguardedIn(plan, settings.occasion);
  if (open)
    fault(
      `Intake "${plan.name}", ${open.use.use}: others may store a row after it has asked (${open.asks}), and break it; judge and store inside records.serially(…), or say unguarded: true where it is used.`,
    );
}

async function storeAccepted<V extends Verdict<unknown>, T>(
  run: Run,
  inputs: Inputs,
  verdict: V,
  keep: KeepAnswer,
  store: (accepted: Extract<V, { outcome: 'accepted' }>) => Promise<T> | T,
): Promise<never> {
  if (verdict.outcome !== 'accepted') return verdict as never;
  try {
    const { records } = inputs;
    const storeAll = async () => keep({ ...verdict, stored: await store(verdict as Extract<V, { outcome: 'accepted' }>) });
    return (await (records?.orUndone ? records.orUndone(storeAll) : storeAll())) as never;
  } catch (error) {
    if (error instanceof Refused) return refusedBy(run.plan, error.use, { ...inputs, value: verdict.value }) as never;
    const conflict = conflictIn(inputs.records, error);
    if (!conflict) throw error;
    const refusal = refusalOf(run.plan, conflict, { ...inputs, value: verdict.value });
    if (refusal) return refusal as never;
    if (!mayExplain(run.plan, conflict)) throw error;
    // A constraint that does not say which rule it stands for: the rules see by now what it saw. What was asked outside is not
    // asked again.
    run.forget();
    await decideByRecords(run, inputs);
    const again = verdictOf(run, inputs.locale);
    if (again.outcome === 'rejected') return again as never;
    throw error;
  }
}
