import type { UseInfo } from '../plan/plan.ts';
import type { Failure } from './failures.ts';

// What a use tells is often the same for every submission: then it is put together once.

const kept = new WeakMap<UseInfo, Failure>();

/** The failure of a use that tells the same of every submission, once it has failed. */
export function keptFailure(info: UseInfo): Failure | undefined {
  return kept.get(info);
}

/** Keeps a failure. Its facts are frozen, as its findings will be: many verdicts share them. */
export function keepFailure(info: UseInfo, failure: Failure): Failure {
  const shared: Failure = { ...failure, facts: Object.freeze(failure.facts), told: new Map() };
  kept.set(info, shared);
  return shared;
}
