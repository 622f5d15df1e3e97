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
  const candidates = index(rows, question);
  const found = question.keys.map((key) =>
    candidates(key).filter((row) => question.terms.every((term, at) => compare(row[term.column], term, key[at]))),
  );
  if (question.want === 'count') return found.map((matches) => matches.length);
  if (question.want === 'exists') return found.map((matches) => (matches.length > 0 ? 1 : 0));
  return found.map((matches) => matches.slice(0, question.most).map((row) => pick(row, question.columns)));
}

function pick(row: StoredRow, columns: readonly string[]): StoredRow {
  return Object.fromEntries(columns.map((column) => [column, row[column]]));
}

/** Narrows the rows by the first equality, so that many keys do not read all rows each. */
function index(rows: readonly StoredRow[], { terms, keys }: Question): (key: Question['keys'][number]) => readonly StoredRow[] {
  const at = terms.findIndex((term) => term.is === 'equal');
  if (at < 0 || keys.length < 2) return () => rows;
  const { column } = terms[at] as Term;
  const byValue = new Map<unknown, StoredRow[]>();
  for (const row of rows) {
    const same = byValue.get(row[column]);
    if (same) same.push(row);
    else byValue.set(row[column], [row]);
  }
  return (key) => byValue.get(key[at]) ?? [];
}

// As in SQL, nothing compares with a missing value, but a missing value is other than any.
function compare(stored: unknown, { is }: Term, asked: unknown): boolean {
  if (is === 'otherThan') return stored !== asked;
  if (is === 'missing') return stored === null || stored === undefined;
  if (stored === null || stored === undefined) return false;
  switch (is) {
    case 'equal':
      return stored === asked;
    case 'ignoringCase':
      return String(stored).toLowerCase() === String(asked).toLowerCase();
    case 'above':
      return (stored as string) > (asked as string);
    case 'below':
      return (stored as string) < (asked as string);
    case 'notAbove':
      return (stored as string) <= (asked as string);
    case 'notBelow':
      return (stored as string) >= (asked as string);
  }
}
