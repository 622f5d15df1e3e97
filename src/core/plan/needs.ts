import type { LookUpSpec } from '../stored/look-up.ts';
import type { Need, UniqueNeed } from '../stored/records.ts';
import type { Scalar } from '../verdict.ts';
import { leavesOf } from './leaves.ts';
import type { LookUpPlan, Plan, UsePlan } from './plan.ts';

/** What the rules of these intakes need of each collection: its columns, and the unique constraints behind `unique`. */
export function needsOf(plans: readonly Plan[]): Need[] {
  const needs = new Map<string, { columns: Set<string>; unique: Map<string, UniqueNeed>; kinds: { [column: string]: string } }>();
  const needOf = (collection: string) => {
    const need = needs.get(collection) ?? {
      columns: new Set<string>(),
      unique: new Map<string, UniqueNeed>(),
      kinds: {} as { [column: string]: string },
    };
    needs.set(collection, need);
    return need;
  };
  const look = ({ collection, terms, columns, exceptItself, inner }: LookUpSpec): void => {
    const need = needOf(collection.name);
    for (const [column, { spec }] of Object.entries(collection.columns)) need.kinds[column] = spec.name;
    for (const { column } of [...terms, ...collection.only]) need.columns.add(column);
    for (const column of columns) need.columns.add(column);
    if (exceptItself) need.columns.add(collection.key);
    for (const nested of Object.values(inner)) look(nested);
  };
  for (const plan of plans) {
    if (plan.storedIn) needOf(plan.storedIn.name).columns.add(plan.storedIn.key);
    for (const use of plan.uses) {
      for (const { spec } of lookUpsOf(use)) look(spec);
      const unique = uniqueOf(use);
      if (unique) needOf(unique.collection).unique.set(JSON.stringify(unique.need), unique.need);
    }
  }
  return [...needs].map(([collection, { columns, unique, kinds }]) => ({
    collection,
    columns: [...columns],
    kinds,
    unique: [...unique.values()],
  }));
}

function lookUpsOf({ lookUps, tells, when }: UsePlan): LookUpPlan[] {
  return [...lookUps, ...tells, ...when.flatMap(leavesOf).flatMap((leaf) => leaf.lookUps)];
}

function uniqueOf({ definition, lookUps, constraint }: UsePlan): { collection: string; need: UniqueNeed } | undefined {
  const [lookUp] = lookUps;
  if (definition.mirrors !== 'unique' || !lookUp) return undefined;
  const { collection, terms } = lookUp.spec;
  const fixed = [...terms, ...collection.only].filter(({ role }) => role === undefined);
  const only = fixed.map(({ column, is, exactly }): [string, Scalar] => [column, is === 'missing' ? null : (exactly as Scalar)]);
  return {
    collection: collection.name,
    need: {
      columns: terms.flatMap(({ column, role }) => (role === undefined ? [] : [column])),
      ignoringCase: terms.filter(({ is }) => is === 'ignoringCase').map(({ column }) => column),
      only: Object.fromEntries(only),
      constraint,
    },
  };
}
