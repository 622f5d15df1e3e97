import { isDay } from '../core/basics/days.ts';
import { compareNumbers, exactOf, sumOfProducts } from '../core/basics/exact.ts';
import { canonicalMoment, momentOf, timeOf } from '../core/basics/moments.ts';
import type { StoredAs } from '../core/declared/kind.ts';
import type { Want } from '../core/declared/look-up.ts';
import type { Answer, Question, Records, Scope, StoredRow, Term } from '../core/stored/records.ts';
import { partsOf } from './parts.ts';

type RowKey = Question['keys'][number];

/** Rows by collection. The arrays are read at each question, so changes to them count at once. */
export type MemoryData = { readonly [collection: string]: readonly StoredRow[] };

/**
 * Records held in memory, for tests, the command line and small fixed tables.
 * Text is compared code unit by code unit; `ignoringCase` folds by Unicode's rules for no language in particular.
 *
 * A question to a collection that is not there is refused, and its rules are unsettled.
 */
export function memoryRecords(data: MemoryData): MemoryRecords {
  return recordsWithin(data);
}

export interface MemoryRecords extends Records {
  /** The same records, of collections with a `scope` only the rows with these values. */
  within(scope: Scope): MemoryRecords;
}

/**
 * What is left of a question once a store has compared some of its terms by itself: which texts are alike, its own collation decides, and
 * `memoryRecords` must not decide it again.
 *
 * @param compared the indexes of terms that hold in any case; those of alternatives (`either`) stay
 */
export function withoutTerms(question: Question, compared: readonly number[]): Question {
  const { terms, keys, either } = question;
  const alternatives = new Set(either?.flat(2));
  const left = [...terms.keys()].filter((at) => !compared.includes(at) || alternatives.has(at));
  return {
    ...question,
    terms: left.map((at) => terms[at] as Term),
    keys: keys.map((key) => left.map((at) => key[at] as RowKey[number])),
    ...(either && { either: either.map((lists) => lists.map((list) => list.map((at) => left.indexOf(at)))) }),
  };
}

function recordsWithin(data: MemoryData, scope?: Scope): MemoryRecords {
  return {
    ...(scope && { scope }),
    within: (inner) => recordsWithin(data, { ...scope, ...inner }),
    async ask(questions) {
      return questions.map((question) => answerOrError(data, question));
    },
    async gaps(needs) {
      return needs
        .filter(({ collection }) => !Object.hasOwn(data, collection))
        .map(({ collection }) => ({
          lacks: 'collection',
          collection,
          columns: [],
          message: `Rules look into the collection "${collection}", and there is none in memory.`,
        }));
    },
  };
}

function answerOrError(data: MemoryData, question: Question): Answer | Error {
  const { collection } = question;
  if (!Object.hasOwn(data, collection)) return new Error(`There is no collection "${collection}" in memory.`);
  try {
    return answer(data[collection] as readonly StoredRow[], question);
  } catch (error) {
    return error as Error;
  }
}

function answer(rows: readonly StoredRow[], question: Question): Answer {
  const { terms, storedAs, want } = question;
  const values = terms.map(({ column }) => readerOf(storedAs[column]));
  const holds = (index: number, row: StoredRow, key: RowKey): boolean => {
    const term = terms[index] as Term;
    const value = values[index] as StoredValue;
    const asked = term.than === undefined ? key[index] : row[term.than];
    // What is missing is asked with nothing that would be a value of the column.
    const asks = term.is === 'missing' ? undefined : term.than === undefined ? askedAs(asked, storedAs[term.column]) : value(asked);
    return compare(value(row[term.column]), term, asks, storedAs[term.column]);
  };
  const { always, groups } = partsOf(question);
  const candidates = index(rows, question, values, always);
  const ordered = orderIn(question);
  const found = question.keys.map((key) =>
    ordered(
      candidates(key).filter(
        (row) =>
          always.every((at) => holds(at, row, key)) &&
          groups.every((lists) => lists.some((list) => list.every((at) => holds(at, row, key)))),
      ),
    ),
  );
  return found.map((matches) => ANSWERS[want](matches, question)) as Answer;
}

/** What is told of the rows that answer a key. */
const ANSWERS: { readonly [W in Want]: (rows: readonly StoredRow[], question: Question) => Answer[number] } = {
  rows: (rows, { most, columns }) => rows.slice(0, most).map((row) => pick(row, columns)),
  count: (rows) => rows.length,
  exists: (rows) => (rows.length > 0 ? 1 : 0),
  sum: (rows, { columns }) => sumOf(rows, columns[0] as string),
};

function sumOf(rows: readonly StoredRow[], column: string): string {
  const numbers = rows.flatMap((row) => (isMissing(row[column]) ? [] : [[row[column] as number | string]]));
  return sumOfProducts(numbers);
}

function orderIn({ order, storedAs }: Question): (rows: readonly StoredRow[]) => readonly StoredRow[] {
  if (!order) return (rows) => rows;
  const [first] = order;
  const columns = order.map(({ column, from }) => ({ column, value: readerOf(storedAs[column]), sign: from === 'highest' ? -1 : 1 }));
  const before = (a: StoredRow, b: StoredRow): number => {
    for (const { column, value, sign } of columns) {
      const order = orderFor(storedAs[column], value(a[column]), value(b[column]));
      if (order !== 0) return order * sign;
    }
    return 0;
  };
  return (rows) => rows.filter((row) => !isMissing(row[first?.column as string])).sort(before);
}

type StoredValue = (raw: unknown) => unknown;
const asIs: StoredValue = (raw) => raw;

/** One form for what the same value may be written as: `12.50` and `12.5`, `9:30` and `09:30:00`, `5n` and `5`. */
function readerOf(storedAs: StoredAs | undefined): StoredValue {
  const read = storedAs && READ[storedAs];
  if (!read) return asIs;
  return (raw) => {
    if (isMissing(raw)) return raw;
    const value = read(raw);
    // What is no value of its column equals none, and would say so silently.
    if (value === undefined) throw new TypeError(`A row in memory holds ${toldOf(raw)}, where its column keeps ${storedAs}.`);
    return value;
  };
}

/** What is asked with comes from the engine, which may ask beyond the days that there are. */
function askedAs(raw: unknown, storedAs: StoredAs | undefined): unknown {
  return (storedAs && READ[storedAs]?.(raw)) ?? raw;
}

function toldOf(raw: unknown): string {
  return raw instanceof Date ? 'a Date' : typeof raw === 'object' ? 'an object' : `a ${typeof raw}`;
}

const number: StoredValue = (raw) => {
  const value = typeof raw === 'bigint' || (typeof raw === 'string' && raw.trim() !== '') ? Number(raw) : raw;
  return Number.isFinite(value) ? value : undefined;
};
const READ: { readonly [S in StoredAs]?: StoredValue } = {
  numeric: (raw) => exactOf(typeof raw === 'bigint' ? String(raw) : raw),
  real: number,
  integer: number,
  // Databases without flags keep 1 and 0.
  boolean: (raw) => (typeof raw === 'boolean' ? raw : Number(raw) === 1 ? true : Number(raw) === 0 && raw !== '' ? false : undefined),
  date: (raw) => (typeof raw === 'string' && isDay(raw) ? raw : undefined),
  time: (raw) => (typeof raw === 'string' ? timeOf(raw) : undefined),
  timestamp(raw) {
    if (raw instanceof Date) return Number.isNaN(raw.getTime()) ? undefined : canonicalMoment(raw);
    return typeof raw === 'string' ? momentIn(raw) : undefined;
  },
  text: (raw) => (typeof raw === 'string' ? raw : undefined),
};

/** As SQL writes it, too: with a blank, and in UTC where it says no zone. */
function momentIn(raw: string): unknown {
  const text = raw.replace(' ', 'T').replace(/([+-]\d{2})$/, '$1:00');
  return momentOf(/(?:Z|[+-]\d{2}:\d{2})$/i.test(text) ? text : `${text}Z`);
}

function pick(row: StoredRow, columns: readonly string[]): StoredRow {
  return Object.fromEntries(columns.map((column) => [column, row[column]]));
}

/** Narrows the rows by the first equality that no missing value fulfils, so that many keys do not read all rows each. */
function index(
  rows: readonly StoredRow[],
  { terms, keys, storedAs }: Question,
  values: readonly StoredValue[],
  always: readonly number[],
): (key: RowKey) => readonly StoredRow[] {
  const at = always.find((each) => {
    const { is, orMissing, than } = terms[each] as Term;
    return is === 'equal' && !orMissing && than === undefined;
  });
  if (at === undefined || keys.length < 2) return () => rows;
  const { column } = terms[at] as Term;
  const value = values[at] as StoredValue;
  const byValue = new Map<unknown, StoredRow[]>();
  for (const row of rows) {
    const known = value(row[column]);
    const same = byValue.get(known);
    if (same) same.push(row);
    else byValue.set(known, [row]);
  }
  return (key) => byValue.get(askedAs(key[at], storedAs[column])) ?? [];
}

// As in SQL, nothing compares with a missing value, but a missing value is other than any.
function compare(stored: unknown, { is, orMissing }: Term, asked: unknown, storedAs: StoredAs | undefined): boolean {
  if (is === 'otherThan') return stored !== asked;
  if (is === 'missing') return isMissing(stored);
  if (isMissing(stored)) return orMissing === true;
  if (isMissing(asked)) return false;
  if (is === 'equal') return stored === asked;
  if (is === 'ignoringCase') return String(stored).toLowerCase() === String(asked).toLowerCase();
  const order = orderFor(storedAs, stored, asked);
  switch (is) {
    case 'above':
      return order > 0;
    case 'below':
      return order < 0;
    case 'notAbove':
      return order <= 0;
    case 'notBelow':
      return order >= 0;
  }
}

function isMissing(value: unknown): boolean {
  return value === null || value === undefined;
}

function orderFor(storedAs: StoredAs | undefined, a: unknown, b: unknown): number {
  return storedAs === 'numeric' ? compareNumbers(a as string, b as string) : orderOf(a as string, b as string);
}

/** By code units, or as numbers; values of two sorts have no order. */
function orderOf(a: string | number, b: string | number): number {
  return a < b ? -1 : a > b ? 1 : a === b ? 0 : Number.NaN;
}
