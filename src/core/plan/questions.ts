import { UNREADABLE } from '../kinds/kind.ts';
import type { Reads } from '../rules/definition.ts';
import type { CollectionSpec } from '../stored/collection.ts';
import type { LookUpSpec, TermSpec } from '../stored/look-up.ts';
import type { Answer, Question, Records, StoredRow, Term } from '../stored/records.ts';
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

/** Why an answer is missing. */
export interface NoAnswer {
  readonly why: Why;
  readonly cause?: unknown;
}

/** One key of one question, and its answer once it is there. */
export class Cell {
  answer: readonly StoredRow[] | number | NoAnswer | undefined;
  constructor(readonly key: Key) {}
}

interface Draft {
  readonly collection: LookUpSpec['collection'];
  readonly terms: readonly Term[];
  readonly want: Question['want'];
  readonly most: number | undefined;
  readonly columns: Set<string>;
  readonly cells: Map<string, Cell>;
  /** Nobody asks but uses on trial: when the store cannot answer, no verdict may suffer. */
  isTrial: boolean;
}

/** What all keys of a look-up have in common. */
interface Shape extends Omit<Draft, 'columns' | 'cells' | 'isTrial'> {
  /** Look-ups of one name go together. */
  readonly name: string;
  readonly columns: readonly string[];
  readonly asked: LookUpSpec['terms'];
}

/** Look-ups are declared once and asked often. */
const shapes = new WeakMap<LookUpSpec, Map<string, Shape>>();

/** @param isOpen which of its terms ask nothing, since an interval is open on that side */
function shapeOf(spec: LookUpSpec, isExcept: boolean, isOpen: (term: TermSpec) => boolean): Shape {
  const known = shapes.get(spec) ?? new Map<string, Shape>();
  shapes.set(spec, known);
  const asked = spec.terms.some(({ isOpen: may }) => may) ? spec.terms.filter((term) => !isOpen(term)) : spec.terms;
  const name = `${isExcept}${asked === spec.terms ? '' : asked.map(({ column }) => column).join()}`;
  let shape = known.get(name);
  if (!shape) {
    shape = makeShape(spec, [...asked, ...spec.collection.only], isExcept);
    known.set(name, shape);
  }
  return shape;
}

function makeShape(spec: LookUpSpec, asked: LookUpSpec['terms'], isExcept: boolean): Shape {
  const { collection } = spec;
  const terms = asked.map(
    ({ column, is, role, orMissing }): Term => ({
      column,
      is,
      ...(orMissing && { orMissing }),
      ...(role === undefined && { isFixed: true }),
    }),
  );
  if (isExcept) terms.push({ column: collection.key, is: 'otherThan' });
  const want = spec.want === 'count' || spec.want === 'exists' ? spec.want : 'rows';
  // One row more than wanted tells whether there are more.
  const most = spec.want === 'all' ? (spec.most as number) + 1 : want === 'rows' ? 2 : undefined;
  return { collection, terms, want, most, asked, columns: columnsOf(spec), name: JSON.stringify([collection.name, terms, want, most]) };
}

/** The questions of one judgement, asked in rounds. */
export class Questions {
  readonly #open = new Map<string, Draft>();
  readonly #asked = new Map<string, { readonly columns: ReadonlySet<string>; readonly cells: Map<string, Cell> }>();

  get isEmpty(): boolean {
    return this.#open.size === 0;
  }

  /** The cell that will hold the answer; one cell for all who ask the same. */
  want(spec: LookUpSpec, read: Reads, itself: Itself | undefined, isTrial: boolean): Cell {
    // A record of one collection is none of another, though their keys may be called alike.
    const isExcept = spec.exceptItself && itself !== undefined && itself.collection === spec.collection;
    const shape = shapeOf(spec, isExcept, ({ isOpen, role }) => isOpen === true && read[role as string] === undefined);
    const asked = shape.asked.map(({ role, exactly }) => (role === undefined ? exactly : read[role])) as Exclude<Scalar, null>[];
    const key = isExcept ? [...asked, itself.key[spec.collection.key] as Exclude<Scalar, null>] : asked;
    const [only] = key;
    // A text that could be the JSON of another key goes the long way.
    const keyText = key.length === 1 && typeof only === 'string' && !only.startsWith('[') ? only : JSON.stringify(key);
    const earlier = this.#asked.get(shape.name);
    const known = earlier?.cells.get(keyText);
    if (known && shape.columns.every((column) => earlier?.columns.has(column))) return known;
    return this.#draft(shape, keyText, key, isTrial);
  }

  #draft({ name, columns, ...what }: Shape, keyText: string, key: Key, isTrial: boolean): Cell {
    let draft = this.#open.get(name);
    if (!draft) {
      draft = { ...what, columns: new Set(), cells: new Map(), isTrial };
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
  const questions = drafts.map(
    ({ collection, terms, want, most, columns, cells }): Question => ({
      collection: collection.name,
      terms,
      columns: [...columns],
      want,
      ...(most !== undefined && { most }),
      keys: Array.from(cells.values(), ({ key }) => key),
      kinds: kindsOf(collection, [...terms.map(({ column }) => column), ...columns]),
    }),
  );
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
  if (columns.size === 0 && spec.want !== 'count' && spec.want !== 'exists') columns.add(spec.collection.key);
  return [...columns];
}

function kindsOf({ columns }: LookUpSpec['collection'], named: readonly string[]): Question['kinds'] {
  return Object.fromEntries(named.map((column) => [column, columns[column]?.spec.name ?? '']));
}

function fill(draft: Draft, answer: Answer | undefined): void {
  if (!Array.isArray(answer) || answer.length !== draft.cells.size) {
    const got = Array.isArray(answer) ? answer.length : 0;
    throw new TypeError(`The records answered ${got} of ${draft.cells.size} keys of ${draft.collection.name}.`);
  }
  let index = 0;
  for (const cell of draft.cells.values()) {
    const each: unknown = answer[index++];
    cell.answer = isAnswer(draft.want, each)
      ? (each as readonly StoredRow[] | number)
      : {
          why: 'stored-unsound',
          cause: new TypeError(`The records answered a question for ${draft.want} in ${draft.collection.name} with something else.`),
        };
  }
}

/** Whether an adapter has answered with what was wanted; anything else decides nothing. */
function isAnswer(want: Question['want'], answer: unknown): boolean {
  if (want !== 'rows') return Number.isSafeInteger(answer) && (answer as number) >= 0;
  return Array.isArray(answer) && answer.every((row) => typeof row === 'object' && row !== null && !Array.isArray(row));
}

/** Reads the columns of a stored row by their kinds, or says why one of them cannot be. */
export function readRow(spec: LookUpSpec, row: StoredRow): { readonly row: { readonly [column: string]: unknown } } | NoAnswer {
  const read: { [column: string]: unknown } = {};
  for (const column of columnsOf(spec)) {
    const role = spec.collection.columns[column] as LookUpSpec['collection']['columns'][string];
    const raw = row[column];
    if ((raw === null || raw === undefined) && role.maybe) continue;
    let value: unknown;
    try {
      value = role.spec.stored(raw);
    } catch (cause) {
      return { why: 'fault', cause };
    }
    if (value === UNREADABLE) {
      const { name } = spec.collection;
      return { why: 'stored-unsound', cause: new Error(`A stored value of ${name}.${column} is not of its kind, ${role.spec.name}.`) };
    }
    read[column] = value;
  }
  return { row: read };
}
