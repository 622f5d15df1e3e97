import { fault } from './basics/fault.ts';
import { planOf } from './intake.ts';
import { needsOf } from './plan/needs.ts';
import { unguardedIn } from './plan/unguarded.ts';
import type { Records, StoreGap } from './stored/records.ts';

/**
 * Compares what the rules of intakes need with what a store has: call it when the application starts. Resolves to what is
 * missing: collections, columns, and the unique constraints that settle races, each with the statement that creates it; and to each rule
 * that holds only for what is stored inside `serially`.
 *
 * @param options `serially`: the application stores inside `serially` whatever such a rule judges, so that these rules are not told
 * @throws Fault for records that cannot be looked into; rejects with the store's own error when it does not answer
 */
export async function checkStore(
  records: Records,
  intakes: readonly { readonly name: string }[],
  { serially = false }: { readonly serially?: boolean } = {},
): Promise<readonly StoreGap[]> {
  if (!records.gaps) fault('checkStore: these records have no `gaps`; those of jestril/memory and jestril/sql have.');
  const plans = intakes.map(planOf);
  const gaps = await records.gaps(needsOf(plans));
  if (serially || records.isSerial === undefined) return gaps;
  const open = plans.flatMap((plan) =>
    unguardedIn(plan).map(
      ({ use, collection, asks }): StoreGap => ({
        lacks: 'guard',
        collection,
        columns: [],
        message: `Intake "${plan.name}", ${use.use}: nothing refuses a row that breaks what it found (${asks}) before its value is stored; store inside records.serially, or say unguarded: true where it is used.`,
      }),
    ),
  );
  return [...gaps, ...open];
}
