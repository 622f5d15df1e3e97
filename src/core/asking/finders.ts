import { isSameValue } from '../basics/exact.ts';
import type { CollectionSpec, TermSpec, Terms } from '../declared/look-up.ts';
import type { ClaimSpec, Definition, Reads } from '../declared/rule.ts';
import {
  type FieldStep,
  type FieldSteps,
  type Frame,
  type PlaceSpec,
  type Plan,
  PRESENT,
  UNSOUND,
  Unstored,
  type UsePlan,
} from '../plan/plan.ts';

// Which look-ups of an intake would find, later, a row that one of its uses speaks of. A use says which fields the columns of a row come
// from; other uses of the collection on the same entry, and fields with the names of columns where accepted values are kept, say more.

/** Where the value of a column comes from. */
interface Column {
  readonly place: PlaceSpec;
  readonly step: FieldStep;
  readonly depth: number;
}
type ColumnsOf = ReadonlyMap<string, Column>;

/** A claiming look-up that may find the row of a use. */
export interface Finder {
  /** Of the definition: the same for every run of an intake, so that rows that are judged apart mean the same by it. */
  readonly number: number;
  readonly claims: ClaimSpec;
  /** It looks where accepted values are kept: a record that is renewed does not find itself there. */
  readonly exceptsItself: boolean;
  /** The columns that its claims are made of. */
  readonly columns: ColumnsOf;
  /** The fields that they come from. */
  readonly places: readonly PlaceSpec[];
  /** What else the row must have to be found, with fixed values; `undefined` where nothing else is asked. */
  readonly filter: Filter | undefined;
}

interface Filter {
  readonly parts: readonly Terms[];
  readonly columns: ColumnsOf;
}

/** What would find the rows of a submission. */
export interface Finders {
  /** By use what would find its row: its own look-up first. */
  readonly ofUses: ReadonlyMap<UsePlan, readonly Finder[]>;
  /** What would find the accepted value, where fields have the names of columns, and no use says the same. */
  readonly ofValue: readonly Finder[];
}

const known = new WeakMap<Plan['record'], Finders>();

export function findersOf(plan: Laid): Finders {
  const made = known.get(plan.record) ?? makeFinders(plan);
  known.set(plan.record, made);
  return made;
}

type Laid = Pick<Plan, 'record' | 'storedIn' | 'fields'>;

function makeFinders(plan: Laid): Finders {
  const numbers = new Map([...new Set(plan.record.map(({ definition }) => definition))].map((definition, at) => [definition, at * 2]));
  // A use on trial finds all rows, and its own are found by none that is not on trial: it changes no verdict.
  const numberOf = ({ definition, isTrial }: UsePlan) => (numbers.get(definition) as number) + (isTrial ? 1 : 0);
  const claiming = plan.record.filter(({ definition }) => definition.claims);
  const findersFor = (use: UsePlan): Finder[] => {
    const collection = collectionOf(use);
    const alike = claiming.filter((other) => collectionOf(other) === collection && (other.isTrial || !use.isTrial));
    const columns = columnsIn(
      use,
      alike.filter(({ isTrial }) => isTrial === use.isTrial),
      plan,
    );
    return looking([use, ...alike], columns, collection);
  };
  const looking = (uses: readonly UsePlan[], columns: ColumnsOf, collection: CollectionSpec | undefined) => {
    const definitions = new Map(uses.map((use) => [numberOf(use), use.definition]));
    return [...definitions].flatMap(
      ([number, definition]) => finderOf(definition, number, columns, collection, collection === plan.storedIn) ?? [],
    );
  };
  const all = claiming.map((use) => [use, findersFor(use)] as const);
  // What a use says of its own row, no other has to say again.
  const said = new Set(all.flatMap(([, [own]]) => (own ? [nameOf(own)] : [])));
  const isNew = (finder: Finder) => !said.has(nameOf(finder));
  const { storedIn } = plan;
  const here = claiming.filter((use) => storedIn !== undefined && collectionOf(use) === storedIn);
  return {
    ofUses: new Map(all.map(([use, [own, ...others]]) => [use, own ? [own, ...others.filter(isNew)] : []])),
    ofValue: looking(here, namedIn(plan.fields, 0), storedIn).filter(isNew),
  };
}

/** The same for look-ups that find the same row by the same fields. */
function nameOf({ number, places }: Finder): string {
  return JSON.stringify([number, places.map(({ path }) => path)]);
}

function collectionOf({ lookUps }: UsePlan): CollectionSpec | undefined {
  return lookUps[0]?.spec.collection;
}

/** What is known of the columns of the row that a use speaks of: nearest first. */
function columnsIn(use: UsePlan, claiming: readonly UsePlan[], { storedIn, fields }: Laid): ColumnsOf {
  const columns = new Map(boundBy(use));
  const isOfRow = (other: UsePlan) =>
    collectionOf(other) === collectionOf(use) &&
    other.scope.length === use.scope.length &&
    other.scope.every((list, depth) => list === use.scope[depth]);
  for (const other of claiming.filter(isOfRow)) {
    const bound = [...boundBy(other)];
    // One that takes a column from another field speaks of another row.
    if (bound.some(([column, { place }]) => (columns.get(column)?.place ?? place) !== place)) continue;
    for (const [column, from] of bound) columns.set(column, from);
  }
  const list = use.scope.at(-1);
  const beside = list ? (list.item.sort.isOpen ? list.item.inside[0] : undefined) : collectionOf(use) === storedIn ? fields : undefined;
  return new Map([...(beside ? namedIn(beside, use.scope.length) : []), ...columns]);
}

/** Fields that have the names of columns. */
function namedIn({ steps }: Pick<FieldSteps, 'steps'>, depth: number): ColumnsOf {
  return new Map(steps.filter(({ isLeftOut }) => !isLeftOut).map((step) => [step.key, { place: step.place, step, depth }]));
}

function boundBy({ roles }: UsePlan): ColumnsOf {
  return new Map(roles.filter(({ isStored }) => !isStored).map(({ name, place, step, depth }) => [name, { place, step, depth }]));
}

/** `undefined`: of some column nobody knows where its value comes from, or the row can have none. */
function finderOf(
  definition: Definition,
  number: number,
  all: ColumnsOf,
  collection: CollectionSpec | undefined,
  exceptsItself: boolean,
): Finder | undefined {
  const claims = definition.claims as ClaimSpec;
  const { terms, interval } = claims;
  const names = [...terms.flatMap(({ role }) => (role === undefined ? [] : [role])), ...(interval ? [interval.from, interval.to] : [])];
  const columns = new Map<string, Column>();
  for (const name of names) {
    const column = all.get(name);
    if (!column) return undefined;
    columns.set(name, column);
  }
  const fixed = terms.filter(({ role }) => role === undefined);
  const parts = [{ terms: fixed }, collection?.only ?? { terms: [] }].filter((part) => part.terms.length > 0);
  // What nobody knows may be as the look-up wants it.
  const isKnown = parts.some((part) => part.terms.some(({ column }) => all.has(column)));
  const places = [...columns.values()].map(({ place }) => place);
  return { number, claims, exceptsItself, columns, places, filter: isKnown ? { parts, columns: all } : undefined };
}

/** The values of the columns, where the row has them all; the ends of an interval may be open. */
export function valuesFor({ columns, claims }: Finder, frames: readonly Frame[]): Reads | undefined {
  const values: { [column: string]: unknown } = {};
  for (const [name, column] of columns) {
    const value = valueAt(column, frames);
    if (value === UNKNOWN) return undefined;
    if (value === undefined && name !== claims.interval?.from && name !== claims.interval?.to) return undefined;
    values[name] = value;
  }
  return values;
}

const UNKNOWN = Symbol('unknown');

function valueAt({ depth, step }: Column, frames: readonly Frame[]): unknown {
  const held = frames[depth]?.[step.slot];
  if (held === UNSOUND || held === PRESENT || held instanceof Unstored || Array.isArray(held)) return UNKNOWN;
  return held ?? undefined;
}

/** Whether the look-up would find the row by its fixed values, too. What is not known may be so. */
export function wouldFind({ filter }: Finder, frames: readonly Frame[]): boolean {
  return filter === undefined || filter.parts.every((part) => mayHold(part, filter.columns, frames));
}

function mayHold({ terms, either = [] }: Terms, columns: ColumnsOf, frames: readonly Frame[]): boolean {
  const inGroups = new Set(either.flat(2));
  const may = (at: number) => mayBe(terms[at] as TermSpec, columns, frames);
  return [...terms.keys()].every((at) => inGroups.has(at) || may(at)) && either.every((lists) => lists.some((list) => list.every(may)));
}

function mayBe({ column: name, is, exactly, than }: TermSpec, columns: ColumnsOf, frames: readonly Frame[]): boolean {
  const column = columns.get(name);
  const value = column ? valueAt(column, frames) : UNKNOWN;
  if (value === UNKNOWN || than !== undefined) return true;
  if (is === 'missing') return value === undefined;
  // What is not given may take what the store fills in.
  if (value === undefined || exactly === undefined || (is !== 'equal' && is !== 'ignoringCase')) return true;
  return isSameValue(value, exactly, column?.step.kind.storedAs === 'numeric') || mayBeAlike(value, exactly);
}

/** Texts that some collation takes for equal: but for case, marks, and white space around. */
function mayBeAlike(one: unknown, other: unknown): boolean {
  return typeof one === 'string' && typeof other === 'string' && folded(one) === folded(other);
}

function folded(text: string): string {
  return text.normalize('NFKD').replaceAll(/\p{M}/gu, '').trim().toLowerCase();
}
