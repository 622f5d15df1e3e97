import { type KindSpec, UNREADABLE } from '../kinds/kind.ts';
import type { Reads } from '../rules/definition.ts';
import type { CollectionSpec } from '../stored/collection.ts';
import type { LookUpSpec } from '../stored/look-up.ts';
import type { Answer, Question, Records, Scope, StoredRow, Term } from '../stored/records.ts';
import type { Groups, Terms } from '../stored/where.ts';
import type { Scalar, Why } from '../verdict.ts';
import type { TimeLimit } from './time-limit.ts';

// Merges what rules ask into few questions: the same key is asked once, and the keys of one collection and
// condition go together.

type Key = readonly Exclude<Scalar, null>[];

/** The stored record that is judged again: it belongs to the collection that the intake is stored in. */
export interface Itself {
  readonly collection: CollectionSpec;
  readonly key: Reads;
}

/** Whether a look-up asks in the collection of the record that is judged again. */
export function isOf({ collection }: LookUpSpec, itself: Itself | undefined): boolean {
  return itself?.collection === collection;
}

/** Why an answer is missing. */
export interface NoAnswer {
  readonly why: Why;
  readonly cause?: unknown;
}

/** What a store says a sum comes to, before the column's kind has read it. */
export interface Sum {
  readonly sum: unknown;
}

/** One key of one question, and its answer once it is there. */
export class Cell {
  answer: readonly StoredRow[] | number | Sum | NoAnswer | undefined = undefined;
  constructor(readonly key: Key) {}
}

/** What a question has besides its columns and its keys. */
interface Ground extends Pick<Question, 'terms' | 'either' | 'want' | 'most' | 'order' | 'isFresh'> {
  readonly collection: CollectionSpec;
}

interface Draft {
  readonly ground: Ground;
  readonly columns: Set<string>;
  readonly cells: Map<string, Cell>;
  /** Nobody asks but uses on trial: when the store cannot answer, no verdict may suffer. */
  isTrial: boolean;
}

/** Where the value of a term comes from: a role, the rule itself, the scope of the records, or the key of the record judged again. */
type Source =
  | { readonly from: 'role' | 'scope' | 'itself'; readonly name: string }
  | { readonly from: 'rule'; readonly value: Exclude<Scalar, null> };

/** What all keys of a look-up have in common. */
interface Shape {
  readonly ground: Ground;
  /** Look-ups of one name go together. */
  readonly name: string;
  readonly columns: readonly string[];
  /** One for each term. */
  readonly sources: readonly Source[];
}

/** The shapes of one look-up, which is declared once and asked often. */
interface Shapes {
  /** All that it may ask is there. */
  plain?: Shape;
  /** The same, but for the record that is judged again. */
  except?: Shape;
  readonly others: Map<string, Shape>;
}
const shapes = new WeakMap<LookUpSpec, Shapes>();

/** `undefined`: what it asks with is absent, and nothing is asked. */
function shapeOf(spec: LookUpSpec, isExcept: boolean, read: Reads): Shape | undefined {
  let known = shapes.get(spec);
  if (!known) {
    known = { others: new Map() };
    shapes.set(spec, known);
  }
  for (const { role } of spec.terms) if (role !== undefined && read[role] === undefined) return openShapeOf(spec, isExcept, read, known);
  if (isExcept) {
    known.except ??= makeShape(spec, spec, true);
    return known.except;
  }
  known.plain ??= makeShape(spec, spec, false);
  return known.plain;
}

/** Some of what it asks with is absent. */
function openShapeOf(spec: LookUpSpec, isExcept: boolean, read: Reads, { others }: Shapes): Shape | undefined {
  const asked = withoutAbsent(spec, ({ role }) => role !== undefined && read[role] === undefined);
  if (!asked) return undefined;
  const name = `${isExcept}${asked.terms.map((term) => spec.terms.indexOf(term)).join()}`;
  const shape = others.get(name) ?? makeShape(spec, asked, isExcept);
  others.set(name, shape);
  return shape;
}

/** An interval that is open on one side does not ask about it, and an alternative that cannot be asked for is none. */
function withoutAbsent({ terms, either = [] }: Terms, isAbsent: (term: Terms['terms'][number]) => boolean): Terms | undefined {
  const inGroups = new Set(either.flat(2));
  if (terms.some((term, index) => !inGroups.has(index) && !term.isOpen && isAbsent(term))) return undefined;
  const groups = either.map((lists) => lists.filter((list) => !list.some((index) => isAbsent(terms[index] as Terms['terms'][number]))));
  if (groups.some((lists) => lists.length === 0)) return undefined;
  const left = new Set(groups.flat(2));
  const kept = [...terms.keys()].filter((index) => (inGroups.has(index) ? left.has(index) : !isAbsent(terms[index] as never)));
  return {
    terms: kept.map((index) => terms[index] as Terms['terms'][number]),
    either: groups.map((lists) => lists.map((list) => list.map((index) => kept.indexOf(index)))),
  };
}

function makeShape(spec: LookUpSpec, asked: Terms, isExcept: boolean): Shape {
  const { collection } = spec;
  const terms: Term[] = [];
  const sources: Source[] = [];
  const groups: Groups[number][] = [];
  const add = (term: Term, source: Source) => {
    sources.push(source);
    return terms.push(term) - 1;
  };
  for (const part of [asked, collection.only]) {
    const before = terms.length;
    for (const { column, is, role, exactly, than, orMissing } of part.terms)
      add(
        {
          column,
          is,
          ...(than !== undefined && { than }),
          ...(orMissing && { orMissing }),
          ...(role === undefined && { isFixed: true }),
        },
        role === undefined ? { from: 'rule', value: exactly ?? true } : { from: 'role', name: role },
      );
    groups.push(...(part.either ?? []).map((lists) => lists.map((list) => list.map((index) => before + index))));
  }
  if (spec.onlyItself) for (const column of collection.key) add({ column, is: 'equal' }, { from: 'itself', name: column });
  for (const column of collection.scope) add({ column, is: 'equal', isFixed: true }, { from: 'scope', name: column });
  if (isExcept) {
    // Another record differs in some column of the key.
    const others = collection.key.map((column) => [add({ column, is: 'otherThan' }, { from: 'itself', name: column })]);
    if (others.length > 1) groups.push(others);
  }
  const { want, order } = wantOf(spec);
  // One row more than wanted tells whether there are more.
  const most = spec.want === 'all' ? (spec.most as number) + 1 : order ? 1 : want === 'rows' ? 2 : undefined;
  const ground: Ground = {
    collection,
    terms,
    want,
    ...(groups.length > 0 && { either: groups }),
    ...(most !== undefined && { most }),
    ...(order && { order }),
    ...(spec.isFresh && { isFresh: true }),
  };
  const columns = columnsOf(spec);
  const name = JSON.stringify([collection.name, terms, groups, want, most, order, spec.isFresh, want === 'sum' ? columns : 0]);
  return { ground, sources, columns, name };
}

function wantOf({ want, order, collection }: LookUpSpec): Pick<Ground, 'want' | 'order'> {
  if (want === 'count' || want === 'exists' || want === 'sum') return { want };
  if (!order) return { want: 'rows' };
  // Of rows that are alike in the order, the key tells which one comes first.
  const byKey = want === 'first' ? collection.key.map((column) => ({ column, from: 'lowest' }) as const) : [];
  return { want: 'rows', order: [order, ...byKey] };
}

/** The questions of one judgement, asked in rounds. */
export class Questions {
  readonly #open = new Map<string, Draft>();
  readonly #asked = new Map<string, { readonly columns: ReadonlySet<string>; readonly cells: Map<string, Cell> }>();
  readonly #scope: Scope;

  constructor(scope: Scope = {}) {
    this.#scope = scope;
  }

  get isEmpty(): boolean {
    return this.#open.size === 0;
  }

  /** The cell that will hold the answer, one for all who ask the same; `undefined` where there is nothing to ask with. */
  want(spec: LookUpSpec, read: Reads, itself: Itself | undefined, isTrial: boolean): Cell | undefined {
    // A record of one collection is none of another, though their keys may be called alike.
    const isExcept = spec.exceptItself && isOf(spec, itself);
    const shape = shapeOf(spec, isExcept, read);
    if (!shape) return undefined;
    const key = this.#keyOf(shape.sources, read, itself);
    const [only] = key;
    // A text that could be the JSON of another key goes the long way.
    const keyText = key.length === 1 && typeof only === 'string' && !only.startsWith('[') ? only : JSON.stringify(key);
    const earlier = this.#asked.get(shape.name);
    const known = earlier?.cells.get(keyText);
    if (known && shape.columns.every((column) => earlier?.columns.has(column))) return known;
    return this.#draft(shape, keyText, key, isTrial);
  }

  #keyOf(sources: readonly Source[], read: Reads, itself: Itself | undefined): Key {
    const [first] = sources;
    if (first?.from === 'role' && sources.length === 1) return [read[first.name] as Key[number]];
    return sources.map((source) => (source.from === 'rule' ? source.value : this.#valueOf(source, read, itself)) as Key[number]);
  }

  #valueOf({ from, name }: Exclude<Source, { readonly from: 'rule' }>, read: Reads, itself: Itself | undefined): unknown {
    return from === 'role' ? read[name] : from === 'scope' ? this.#scope[name] : itself?.key[name];
  }

  #draft({ name, columns, ground }: Shape, keyText: string, key: Key, isTrial: boolean): Cell {
    let draft = this.#open.get(name);
    if (!draft) {
      draft = { ground, columns: new Set(), cells: new Map(), isTrial };
      this.#open.set(name, draft);
    }
    draft.isTrial &&= isTrial;
    for (const column of columns) draft.columns.add(column);
    let cell = draft.cells.get(keyText);
    if (!cell) {
      cell = new Cell(key);
      draft.cells.set(keyText, cell);
    }
    return cell;
  }

  /** Asks everything open in one call, and fills the cells. Never rejects. */
  async ask(records: Records, limit: TimeLimit): Promise<void> {
    const drafts = [...this.#open.values()];
    for (const [name, draft] of this.#open) this.#asked.set(name, draft);
    this.#open.clear();
    const counting = drafts.filter(({ isTrial }) => !isTrial);
    const trials = drafts.filter(({ isTrial }) => isTrial);
    if (counting.length > 0)
      await (trials.length === 0
        ? askAll(counting, records, limit)
        : Promise.all([askAll(counting, records, limit), askAll(trials, records, limit)]));
    else await askAll(trials, records, limit);
  }
}

async function askAll(drafts: readonly Draft[], records: Records, limit: TimeLimit): Promise<void> {
  const questions = drafts.map(({ ground: { collection, ...ground }, columns, cells }): Question => {
    const others = [
      ...ground.terms.flatMap(({ column, than = column }) => [column, than]),
      ...(ground.order ?? []).map(({ column }) => column),
    ];
    return {
      collection: collection.name,
      ...ground,
      columns: [...columns],
      keys: Array.from(cells.values(), ({ key }) => key),
      kinds: kindsOf(collection, [...others, ...columns]),
    };
  });
  try {
    const answers = await limit.race(records.ask(questions, limit.signal));
    for (const [index, draft] of drafts.entries()) fill(draft, answers[index]);
  } catch (cause) {
    const why = limit.why ?? 'unavailable';
    for (const draft of drafts) for (const cell of draft.cells.values()) cell.answer ??= { why, cause };
  }
}

/** The columns to fetch: those that the rule reads, and those that look-ups inside start from. */
function columnsOf(spec: LookUpSpec): string[] {
  const columns = new Set(spec.columns);
  for (const inner of Object.values(spec.inner)) {
    for (const { role } of inner.terms) if (role !== undefined && role in spec.collection.columns) columns.add(role);
  }
  // A row has to be told from no row, so at least its key is fetched.
  if (columns.size === 0 && spec.want !== 'count' && spec.want !== 'exists') for (const column of spec.collection.key) columns.add(column);
  return [...columns];
}

function kindsOf({ columns }: CollectionSpec, named: readonly string[]): Question['kinds'] {
  return Object.fromEntries(named.map((column) => [column, columns[column]?.spec.name ?? '']));
}

function fill({ ground: { collection, want }, cells }: Draft, answer: Answer | undefined): void {
  if (!Array.isArray(answer) || answer.length !== cells.size) {
    const got = Array.isArray(answer) ? answer.length : 0;
    throw new TypeError(`The records answered ${got} of ${cells.size} keys of ${collection.name}.`);
  }
  let index = 0;
  for (const cell of cells.values()) {
    const each: unknown = answer[index++];
    if (!isAnswer(want, each)) {
      const cause = new TypeError(`The records answered a question for ${want} in ${collection.name} with something else.`);
      cell.answer = { why: 'stored-unsound', cause };
    } else cell.answer = want === 'sum' ? { sum: each } : (each as readonly StoredRow[] | number);
  }
}

/** Whether an adapter has answered with what was wanted; anything else decides nothing. */
function isAnswer(want: Question['want'], answer: unknown): boolean {
  if (want === 'sum') return answer === null || ['number', 'string', 'bigint'].includes(typeof answer);
  if (want !== 'rows') return Number.isSafeInteger(answer) && (answer as number) >= 0;
  return Array.isArray(answer) && answer.every((row) => typeof row === 'object' && row !== null && !Array.isArray(row));
}

/** What a sum comes to, read by the kind of its column; of nothing it is 0. */
export function readSum({ collection, columns }: LookUpSpec, sum: unknown): { readonly value: unknown } | NoAnswer {
  const [column = ''] = columns;
  const { spec } = collection.columns[column] as CollectionSpec['columns'][string];
  return readStored(collection, column, spec, sum ?? 0, 'The sum of');
}

function readStored(
  { name }: CollectionSpec,
  column: string,
  kind: KindSpec,
  raw: unknown,
  what: string,
): { readonly value: unknown } | NoAnswer {
  try {
    const value = kind.stored(raw);
    if (value !== UNREADABLE) return { value };
  } catch (cause) {
    return { why: 'fault', cause };
  }
  return { why: 'stored-unsound', cause: new Error(`${what} ${name}.${column} is not of its kind, ${kind.name}.`) };
}

/** Reads the columns of a stored row by their kinds, or says why one of them cannot be. */
export function readRow(spec: LookUpSpec, row: StoredRow): { readonly row: { readonly [column: string]: unknown } } | NoAnswer {
  const read: { [column: string]: unknown } = {};
  for (const column of columnsOf(spec)) {
    const role = spec.collection.columns[column] as LookUpSpec['collection']['columns'][string];
    const raw = row[column];
    if ((raw === null || raw === undefined) && role.maybe) continue;
    const value = readStored(spec.collection, column, role.spec, raw, 'A stored value of');
    if ('why' in value) return value;
    read[column] = value.value;
  }
  return { row: read };
}
