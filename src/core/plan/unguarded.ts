import { leavesOf } from './leaves.ts';
import type { LookUpPlan, Plan, UsePlan } from './plan.ts';

/** A use of a rule that others may break between its answer and the storing of what it accepted. */
export interface Unguarded {
  readonly use: UsePlan;
  readonly collection: string;
  /** What it asks, such as `berths.count`. */
  readonly asks: string;
}

/**
 * The rules that ask about all rows of some sort, where no constraint of the store refuses the row that breaks them. Rows that are read in
 * another collection than the one stored into are taken for what was so when it was asked; numbers of them are not.
 *
 * @param occasion of which they count; without it any
 */
export function unguardedIn({ record, storedIn }: Plan, occasion?: string): Unguarded[] {
  const mayChange = ({ spec: { form, collection } }: LookUpPlan) =>
    form.isOfAll === true && (form.want !== 'rows' || storedIn === undefined || collection.name === storedIn.name);
  return record.flatMap((use): Unguarded[] => {
    const { definition, constraint, isUnguarded, severity, isTrial, on, lookUps, when } = use;
    if (isUnguarded || isTrial || severity !== 'error' || constraint !== undefined) return [];
    if (occasion !== undefined && on && !on.includes(occasion)) return [];
    // Ready-made rules look for a row that is there, or a constraint stands behind them; a condition may count all the same.
    const own = definition.isOurs ? [] : lookUps;
    const found = [...own, ...when.flatMap(leavesOf).flatMap((leaf) => leaf.lookUps)].find(mayChange);
    if (!found) return [];
    const { collection, form } = found.spec;
    return [{ use, collection: collection.name, asks: `${collection.name}.${form.name}` }];
  });
}
