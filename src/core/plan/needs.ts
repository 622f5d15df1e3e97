import type { CollectionSpec } from '../stored/collection.ts';
import type { LookUpSpec } from '../stored/look-up.ts';
import type { Need, UniqueNeed } from '../stored/records.ts';
import type { TermSpec, Terms } from '../stored/where.ts';
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
  const look = ({ collection, terms, columns, exceptItself, onlyItself, inner, order }: LookUpSpec): void => {
    const need = needOf(collection.name);
    for (const [column, { spec }] of Object.entries(collection.columns)) need.kinds[column] = spec.name;
    const compared = [...terms, ...collection.only.terms].flatMap(({ column, than = column }) => [column, than]);
    const named = [...compared, ...columns, ...collection.scope, ...(order ? [order.column] : [])];
    for (const column of exceptItself || onlyItself ? [...named, ...collection.key] : named) need.columns.add(column);
    for (const nested of Object.values(inner)) look(nested);
  };
  for (const plan of plans) {
    for (const column of plan.storedIn?.key ?? []) needOf((plan.storedIn as CollectionSpec).name).columns.add(column);
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
  return {
    collection: collection.name,
    need: {
      columns: [...terms.flatMap(({ column, role }) => (role === undefined ? [] : [column])), ...collection.scope],
      ignoringCase: terms.filter(({ is }) => is === 'ignoringCase').map(({ column }) => column),
      only: Object.fromEntries([...fixedIn({ terms: terms.filter(({ role }) => role === undefined) }), ...fixedIn(collection.only)]),
      constraint,
    },
  };
}

/** Columns that have fixed values, and one of these. */
function fixedIn({ terms, either = [] }: Terms): (readonly [column: string, values: readonly Scalar[]])[] {
  const fixed = ({ is, exactly }: TermSpec): Scalar => (is === 'missing' ? null : (exactly as Scalar));
  const groups = either.map((lists) => lists.flat().map((index) => terms[index] as TermSpec));
  const others = terms.filter((term) => !groups.flat().includes(term));
  return [...others.map((term) => [term]), ...groups].map((group) => [(group[0] as TermSpec).column, group.map(fixed)]);
}
