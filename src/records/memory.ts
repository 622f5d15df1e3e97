import { compareNumbers, exactOf } from '../core/exact.ts';
import { canonicalMoment, momentOf } from '../core/moments.ts';
import type { Question, Records, StoredRow, Term } from '../core/stored/records.ts';

/** Rows by collection. The arrays are read at each question, so changes to them count at once. */
export type MemoryData = { readonly [collection: string]: readonly StoredRow[] };

/**
 * Records held in memory, for tests, the command line and small fixed tables.
 * Text is compared code unit by code unit; `ignoringCase` folds by Unicode's rules for no language in particular.
 *
 * A question to a collection that is not there is refused, and its rules are unsettled.
 */
export function memoryRecords(data: MemoryData): Records {
  return {
    async ask(questions) {
      return questions.map((question) => {
        if (!Object.hasOwn(data, question.collection)) throw new Error(`There is no collection "${question.collection}" in memory.`);
        return answer(data[question.collection] as readonly StoredRow[], question);
      });
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

function answer(rows: readonly StoredRow[], question: Question): (readonly StoredRow[])[] | number[] {
  const values = question.terms.map(({ column }) => readerOf(question.kinds[column]));
  const candidates = index(rows, question, values);
  const found = question.keys.map((key) =>
    candidates(key).filter((row) =>
      question.terms.every((term, at) => {
        const value = values[at] as Value;
        return compare(value(row[term.column]), term, value(key[at]), question.kinds[term.column]);
      }),
    ),
  );
  if (question.want === 'count') return found.map((matches) => matches.length);
  if (question.want === 'exists') return found.map((matches) => (matches.length > 0 ? 1 : 0));
  return found.map((matches) => matches.slice(0, question.most).map((row) => pick(row, question.columns)));
}

type Value = (raw: unknown) => unknown;
const asIs: Value = (raw) => raw;

/** One form for what the same value may be written as: `12.50` and `12.5`, or a moment with another offset. */
function readerOf(kind: string | undefined): Value {
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
  values: readonly Value[],
): (key: Question['keys'][number]) => readonly StoredRow[] {
  const at = terms.findIndex(({ is, orMissing }) => is === 'equal' && !orMissing);
  if (at < 0 || keys.length < 2) return () => rows;
  const { column } = terms[at] as Term;
  const value = values[at] as Value;
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
  if (is === 'missing') return stored === null || stored === undefined;
  if (stored === null || stored === undefined) return orMissing === true;
  if (is === 'equal') return stored === asked;
  if (is === 'ignoringCase') return String(stored).toLowerCase() === String(asked).toLowerCase();
  const order = kind === 'exact' ? compareNumbers(stored as string, asked as string) : orderOf(stored as string, asked as string);
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

/** By code units, or as numbers; values of two sorts have no order. */
function orderOf(a: string | number, b: string | number): number {
  return a < b ? -1 : a > b ? 1 : a === b ? 0 : Number.NaN;
}
