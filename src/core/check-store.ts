import { fault } from './basics/fault.ts';
import { planOf } from './intake.ts';
import { needsOf } from './plan/needs.ts';
import type { Records, StoreGap } from './stored/records.ts';

/**
 * Compares what the rules of intakes need with what a store has: call it when the application starts. Resolves to what is
 * missing: collections, columns, and the unique constraints that settle races, each with the statement that creates it.
 *
 * @throws Fault for records that cannot be looked into; rejects with the store's own error when it does not answer
 */
export async function checkStore(records: Records, intakes: readonly { readonly name: string }[]): Promise<readonly StoreGap[]> {
  if (!records.gaps) fault('checkStore: these records have no `gaps`; those of jestril/memory and jestril/sql have.');
  return records.gaps(needsOf(intakes.map(planOf)));
}
