import type { Scalar } from '../basics/verdict.ts';
import type { StoredAs } from '../declared/kind.ts';
import type { CollectionSpec, LookUpSpec, TermSpec, Terms } from '../declared/look-up.ts';
import type { FixedValues, KnownNeed, Need, OverlapNeed, UniqueNeed } from '../stored/records.ts';
import { leavesOf } from './leaves.ts';
import type { LookUpPlan, Plan, UsePlan } from './plan.ts';

/** What rules need of one collection, while it is put together. */
class Needs {
  readonly columns = new Set<string>();
  readonly always = new Set<string>();
  readonly scope = new Set<string>();
  readonly places: { [column: string]: number } = {};
  readonly storedAs: { [column: string]: StoredAs } = {};
  /** What constraints have to enforce; each stands once. */
  readonly unique = new Map<string, UniqueNeed>();
  readonly known = new Map<string, KnownNeed>();
  readonly overlaps = new Map<string, OverlapNeed>();
}

/** What the rules of these intakes need of each collection: its columns, and the constraints that settle races. */
export function needsOf(plans: readonly Plan[]): Need[] {
  const all = new Map<string, Needs>();
  const needsOf = ({ name, columns, scope }: CollectionSpec): Needs => {
    const needs = all.get(name) ?? new Needs();
    all.set(name, needs);
    for (const [column, { spec }] of Object.entries(columns)) needs.storedAs[column] = spec.storedAs ?? 'any';
    for (const column of scope) needs.scope.add(column);
    return needs;
  };
  const look = (lookUp: LookUpSpec): void => {
    const { collection, columns, inner, order } = lookUp;
    const needs = needsOf(collection);
    for (const column of columnsIn(lookUp)) needs.columns.add(column);
    const read = lookUp.form.gives === 'value' ? [] : columns.filter((column) => column !== order?.column);
    for (const column of read) if (collection.columns[column]?.maybe !== true) needs.always.add(column);
    for (const nested of Object.values(inner)) look(nested);
  };
  for (const plan of plans) {
    const { storedIn } = plan;
    if (storedIn) {
      const needs = needsOf(storedIn);
      for (const column of storedIn.key) needs.columns.add(column);
      for (const [column, most] of placesIn(plan, storedIn)) needs.places[column] = Math.max(needs.places[column] ?? 0, most);
    }
    for (const use of plan.uses) {
      for (const { spec } of lookUpsOf(use)) look(spec);
      const [lookUp] = use.lookUps;
      const put = <T>(into: Map<string, T>, need: T) => into.set(JSON.stringify(need), need);
      if (!lookUp) continue;
      const { mirrors } = use.definition;
      if (mirrors === 'unique') put(needsOf(lookUp.spec.collection).unique, uniqueNeed(use, lookUp.spec));
      if (mirrors === 'overlap') put(needsOf(lookUp.spec.collection).overlaps, overlapNeed(use, lookUp.spec));
      if (mirrors === 'known' && storedIn && use.scope.length === 0) put(needsOf(storedIn).known, knownNeed(storedIn, use, lookUp.spec));
    }
  }
  return [...all].map(([collection, { columns, always, scope, places, storedAs, unique, known, overlaps }]) => ({
    collection,
    columns: [...columns],
    always: [...always],
    scope: [...scope],
    places,
    storedAs,
    unique: [...unique.values()],
    known: [...known.values()],
    overlaps: [...overlaps.values()],
  }));
}

/** The digits of a second that a moment has. */
const OF_SECONDS = 3;

/** How many digits after the point the fields may have that are stored in columns of their name and kind. */
function placesIn({ fields }: Plan, { columns }: CollectionSpec): (readonly [column: string, most: number])[] {
  return fields.steps.flatMap(({ key, kind, isLeftOut, checks }) => {
    const { storedAs } = kind;
    if (isLeftOut || columns[key]?.spec.name !== kind.name || !STORED_WITH_PLACES.has(storedAs)) return [];
    const told = checks.flatMap(({ definition, takes }) =>
      definition.id === 'places' || definition.id === 'precision' ? [takes.places] : [],
    );
    return [[key, storedAs === 'timestamp' ? OF_SECONDS : Math.min(...(told as number[]))] as const];
  });
}
const STORED_WITH_PLACES: ReadonlySet<StoredAs | undefined> = new Set(['numeric', 'real', 'timestamp']);

function lookUpsOf({ lookUps, tells, when }: UsePlan): LookUpPlan[] {
  return [...lookUps, ...tells, ...when.flatMap(leavesOf).flatMap((leaf) => leaf.lookUps)];
}

function columnsIn({ collection, terms, columns, exceptItself, onlyItself, order }: LookUpSpec): string[] {
  const compared = [...terms, ...collection.only.terms].flatMap(({ column, than = column }) => [column, than]);
  const named = [...compared, ...columns, ...collection.scope, ...(order ? [order.column] : [])];
  return exceptItself || onlyItself ? [...named, ...collection.key] : named;
}

function uniqueNeed({ constraint }: UsePlan, { terms, collection }: LookUpSpec): UniqueNeed {
  const asked = terms.filter(({ role }) => role !== undefined);
  return {
    columns: [...asked.map(({ column }) => column), ...collection.scope],
    ignoringCase: foldedIn(asked),
    only: onlyIn(terms, collection),
    constraint,
  };
}

function overlapNeed({ definition, constraint }: UsePlan, { terms, collection }: LookUpSpec): OverlapNeed {
  const { from = '', to = '', touching = false } = definition.claims?.interval ?? {};
  const alike = terms.filter(({ role, column }) => role !== undefined && column !== from && column !== to);
  return {
    columns: [...alike.map(({ column }) => column), ...collection.scope],
    ignoringCase: foldedIn(alike),
    interval: [from, to],
    touching,
    only: onlyIn(terms, collection),
    constraint,
  };
}

function knownNeed({ scope }: CollectionSpec, { roles }: UsePlan, { terms, collection }: LookUpSpec): KnownNeed {
  const asked = terms.filter(({ role, isBlameless }) => role !== undefined && !isBlameless);
  return {
    fields: asked.map(({ role }) => String(roles.find(({ name }) => name === role)?.place.segments.at(-1))),
    refersTo: collection.name,
    referred: asked.map(({ column }) => column),
    scope: collection.scope.filter((column) => scope.includes(column)),
  };
}

function foldedIn(terms: readonly TermSpec[]): string[] {
  return terms.filter(({ is }) => is === 'ignoringCase').map(({ column }) => column);
}

function onlyIn(terms: readonly TermSpec[], { only }: CollectionSpec): FixedValues {
  return Object.fromEntries([...fixedIn({ terms: terms.filter(({ role }) => role === undefined) }), ...fixedIn(only)]);
}

/** Columns that have fixed values, and one of these. */
function fixedIn({ terms, either = [] }: Terms): (readonly [column: string, values: readonly Scalar[]])[] {
  const fixed = ({ is, exactly }: TermSpec): Scalar => (is === 'missing' ? null : (exactly as Scalar));
  const groups = either.map((lists) => lists.flat().map((index) => terms[index] as TermSpec));
  const others = terms.filter((term) => !groups.flat().includes(term));
  return [...others.map((term) => [term]), ...groups].map((group) => [(group[0] as TermSpec).column, group.map(fixed)]);
}
