import { compareNumbers, exactOf, sumOfProducts } from '../core/basics/exact.ts';
import { canonicalMoment, momentOf } from '../core/basics/moments.ts';
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

function recordsWithin(data: MemoryData, scope?: Scope): MemoryRecords {
  return {
    ...(scope && { scope }),
    within: (inner) => recordsWithin(data, { ...scope, ...inner }),
    async ask(questions) {
      return questions.map((question) =>
        Object.hasOwn(data, question.collection)
          ? answer(data[question.collection] as readonly StoredRow[], question)
          : new Error(`There is no collection "${question.collection}" in memory.`),
      );
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

function answer(rows: readonly StoredRow[], question: Question): Answer {
  const { terms, kinds, columns, want } = question;
  const values = terms.map(({ column }) => readerOf(kinds[column]));
  const holds = (index: number, row: StoredRow, key: RowKey): boolean => {
    const term = terms[index] as Term;
    const value = values[index] as StoredValue;
    const asked = term.than === undefined ? key[index] : row[term.than];
    return compare(value(row[term.column]), term, value(asked), kinds[term.column]);
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
  switch (want) {
    case 'count':
      return found.map((matches) => matches.length);
    case 'exists':
      return found.map((matches) => (matches.length > 0 ? 1 : 0));
    case 'sum':
      return found.map((matches) => sumOf(matches, columns[0] as string));
    default:
      return found.map((matches) => matches.slice(0, question.most).map((row) => pick(row, columns)));
  }
}

function sumOf(rows: readonly StoredRow[], column: string): string {
  const numbers = rows.flatMap((row) => (isMissing(row[column]) ? [] : [[row[column] as number | string]]));
  return sumOfProducts(numbers);
}

function orderIn({ order, kinds }: Question): (rows: readonly StoredRow[]) => readonly StoredRow[] {
  if (!order) return (rows) => rows;
  const [first] = order;
  const columns = order.map(({ column, from }) => ({ column, value: readerOf(kinds[column]), sign: from === 'highest' ? -1 : 1 }));
  const before = (a: StoredRow, b: StoredRow): number => {
    for (const { column, value, sign } of columns) {
      const order = orderFor(kinds[column], value(a[column]), value(b[column]));
      if (order !== 0) return order * sign;
    }
    return 0;
  };
  return (rows) => rows.filter((row) => !isMissing(row[first?.column as string])).sort(before);
}

type StoredValue = (raw: unknown) => unknown;
const asIs: StoredValue = (raw) => raw;

/** One form for what the same value may be written as: `12.50` and `12.5`, or a moment with another offset. */
function readerOf(kind: string | undefined): StoredValue {
  switch (kind) {
    case 'exact':
      return (raw) => exactOf(raw) ?? raw;
    case 'decimal':
    case 'whole':
      return (raw) => (typeof raw === 'string' && raw.trim() !== '' ? Number(raw) : raw);
    case 'moment':
      return (raw) => (raw instanceof Date ? canonicalMoment(raw) : typeof raw === 'string' ? (momentOf(raw) ?? raw) : raw);
    default:
      return asIs;
  }
}

function pick(row: StoredRow, columns: readonly string[]): StoredRow {
  return Object.fromEntries(columns.map((column) => [column, row[column]]));
}

/** Narrows the rows by the first equality that no missing value fulfils, so that many keys do not read all rows each. */
function index(
  rows: readonly StoredRow[],
  { terms, keys }: Question,
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
  return (key) => byValue.get(value(key[at])) ?? [];
}

// As in SQL, nothing compares with a missing value, but a missing value is other than any.
function compare(stored: unknown, { is, orMissing }: Term, asked: unknown, kind: string | undefined): boolean {
  if (is === 'otherThan') return stored !== asked;
  if (is === 'missing') return isMissing(stored);
  if (isMissing(stored)) return orMissing === true;
  if (isMissing(asked)) return false;
  if (is === 'equal') return stored === asked;
  if (is === 'ignoringCase') return String(stored).toLowerCase() === String(asked).toLowerCase();
  const order = orderFor(kind, stored, asked);
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

function orderFor(kind: string | undefined, a: unknown, b: unknown): number {
  return kind === 'exact' ? compareNumbers(a as string, b as string) : orderOf(a as string, b as string);
}

/** By code units, or as numbers; values of two sorts have no order. */
function orderOf(a: string | number, b: string | number): number {
  return a < b ? -1 : a > b ? 1 : a === b ? 0 : Number.NaN;
}
