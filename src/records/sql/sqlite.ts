import { type Kysely, type RawBuilder, sql } from 'kysely';
import type { Answer, Question, Records, StoredRow, Term } from '../../core/stored/records.ts';
import { columnOf, type SqlOptions, tableOf } from './tables.ts';

/** Keys in one query. Gains flatten out at this number, and statements stay small. */
const KEYS_A_QUERY = 1000;

/**
 * Records in SQLite through Kysely: `new Kysely({ dialect: new SqliteDialect(…) })`, or a transaction of it.
 *
 * Keys are joined with their ordinal by the database itself, so its own collation decides what is equal.
 * `ignoringCase` is SQLite's NOCASE, which folds the letters of ASCII only.
 *
 * @param options names of tables and columns that differ from those of the collections
 */
// biome-ignore lint/suspicious/noExplicitAny: the rows of the application's own database, whatever they are
export function sqliteRecords(db: Kysely<any>, options: SqlOptions = {}): Records {
  return {
    ask: (questions, signal) => Promise.all(questions.map((question) => answer(db, options, question, signal))),
  };
}

// biome-ignore lint/suspicious/noExplicitAny: as above
async function answer(db: Kysely<any>, options: SqlOptions, question: Question, signal: AbortSignal): Promise<Answer> {
  const answers: (StoredRow[] | number)[] = [];
  for (let start = 0; start < question.keys.length; start += KEYS_A_QUERY) {
    if (signal.aborted) throw signal.reason;
    const keys = question.keys.slice(start, start + KEYS_A_QUERY);
    const { rows } = await queryOf(options, question, keys).execute(db);
    const part: (StoredRow[] | number)[] = keys.map(() => (question.want === 'rows' ? [] : 0));
    for (const row of rows) collect(question, part, row);
    answers.push(...part);
  }
  return answers as Answer;
}

interface FoundRow {
  readonly ordinal: number | bigint;
  readonly [column: string]: unknown;
}

function collect({ want, columns }: Question, answers: (StoredRow[] | number)[], row: FoundRow): void {
  const ordinal = Number(row.ordinal);
  if (want === 'rows')
    (answers[ordinal] as StoredRow[]).push(Object.fromEntries(columns.map((column, index) => [column, row[`c${index}`]])));
  else answers[ordinal] = want === 'count' ? Number(row.c0) : 1;
}

function queryOf(options: SqlOptions, question: Question, keys: Question['keys']): RawBuilder<FoundRow> {
  const { collection, terms, want, most } = question;
  const table = tableOf(options, collection);
  const asked = sql`json_each(${JSON.stringify(keys)}) as k`;
  const matches = sql.join(
    terms.map((term, index) =>
      compare(columnOf(options, collection, term.column), term, sql`json_extract(k.value, ${sql.lit(`$[${index}]`)})`),
    ),
    sql` and `,
  );
  if (want === 'exists') return sql`select k.key as ordinal from ${asked} where exists (select 1 from ${table} as t where ${matches})`;
  if (want === 'count')
    return sql`select k.key as ordinal, count(*) as c0 from ${asked} inner join ${table} as t on ${matches} group by k.key`;
  const columns = sql.join(
    question.columns.map((column, index) => sql`${columnOf(options, collection, column)} as ${sql.ref(`c${index}`)}`),
  );
  const rows = sql<FoundRow>`select k.key as ordinal, ${columns}, row_number() over (partition by k.key) as n from ${asked} inner join ${table} as t on ${matches}`;
  return most === undefined ? rows : sql`select * from (${rows}) where n <= ${most}`;
}

// The column stands on the left, so that its affinity and its collation apply.
function compare(column: RawBuilder<unknown>, { is }: Term, key: RawBuilder<unknown>): RawBuilder<unknown> {
  switch (is) {
    case 'equal':
      return sql`${column} = ${key}`;
    case 'ignoringCase':
      return sql`${column} = ${key} collate nocase`;
    case 'otherThan':
      return sql`${column} is not ${key}`;
    case 'above':
      return sql`${column} > ${key}`;
    case 'below':
      return sql`${column} < ${key}`;
    case 'notAbove':
      return sql`${column} <= ${key}`;
    case 'notBelow':
      return sql`${column} >= ${key}`;
  }
}
