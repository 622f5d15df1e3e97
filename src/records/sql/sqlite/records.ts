import { SqliteAdapter, SqliteQueryCompiler, sql } from 'kysely';
import type { StoredAs } from '../../../core/declared/kind.ts';
import { type Client, type RecordsOver, sqlRecords } from '../store/records.ts';
import type { Database, SqlTable } from '../tables/database.ts';
import type { ColumnFacts, Dialect, Violated, Violation } from '../tables/dialect.ts';
import type { SqlOptions } from '../tables/tables.ts';
import { sqliteInspector } from './inspector.ts';
import { sqliteLocks } from './locks.ts';

/**
 * Records in SQLite through Kysely: `new Kysely({ dialect: new SqliteDialect(…) })`, or a transaction of it.
 *
 * Keys are joined with their ordinal by the database itself, so its own collation decides what is equal.
 * `ignoringCase` is SQLite's NOCASE, which folds the letters of ASCII only.
 *
 * @param options names of tables and columns that differ from those of the collections
 */
export const sqliteRecords: RecordsOver = (client: Client<unknown>, options: SqlOptions = {}) =>
  sqlRecords(sqlite, client, options) as never;

const NUMBERS: ReadonlySet<StoredAs> = new Set(['numeric', 'real', 'integer']);
const TIMES: ReadonlySet<StoredAs> = new Set(['timestamp', 'date', 'time']);

const sqlite: Dialect = {
  learn,
  // Keys of one value are a plain list, which is read twice as fast.
  values: (terms, keys) => [JSON.stringify(terms.length === 1 ? keys.map(([value]) => value) : keys)],
  // SQLite compares a number with a text by their types alone, and finds something to compare in anything.
  unfit({ storedAs, name }, known) {
    const type = known.get(name)?.type ?? '';
    const isText = /CHAR|CLOB|TEXT/i.test(type);
    if (NUMBERS.has(storedAs) && isText)
      return `"${name}" holds text, which is not compared as a number; give the column the type NUMERIC.`;
    if (TIMES.has(storedAs) && /INT|REAL|FLOA|DOUB/i.test(type))
      return `"${name}" holds numbers, and nobody can tell which ${storedAs} they mean; keep it as text of ISO 8601, in UTC.`;
    return undefined;
  },
  keys: ([all]) => sql`json_each(${all}) as k`,
  bounded({ source, table, matches, order, most, known }, columns) {
    if (!known.hasRowNumbers) return undefined;
    const first = sql`select t.rowid from ${table} as t where ${matches}${order} limit ${most}`;
    return sql`select k.key as ordinal, ${columns} from ${source} inner join ${table} as t on t.rowid in (${first})${order}`;
  },
  ordinal: sql`k.key`,
  listed: (ordinal) => sql`group_concat(${ordinal})`,
  asked: ({ index, isOnly }) => (isOnly ? sql`k.value` : sql`json_extract(k.value, ${sql.lit(`$[${index}]`)})`),
  // SQLite has no exact decimals; it writes what it holds with all digits that mean something.
  sum: ({ ref, storedAs }) => (storedAs === 'numeric' ? sql`json_group_array(cast(${ref} as text))` : sql`sum(${ref})`),
  ignoringCase: ({ ref }, asked) => sql`${ref} = ${asked} collate nocase`,
  otherThan: ({ ref }, asked) => sql`${ref} is not ${asked}`,
  shown: ({ ref }) => ref,
  // SQLITE_BUSY and SQLITE_LOCKED, with their extended codes.
  mayTryAgain: (error) => isOf(error, /^SQLITE_(BUSY|LOCKED)/, [5, 6]),
  // These may end it by themselves (sqlite.org/lang_transaction.html, 3).
  endsTransaction: (error) => isOf(error, /^SQLITE_(NOMEM|INTERRUPT|IOERR|FULL)/, [7, 9, 10, 13]),
  language: {
    adapter: () => new SqliteAdapter(),
    compiler: () => new SqliteQueryCompiler(),
    begin: () => ['begin'],
  },
  locks: sqliteLocks,
  violation,
  inspector: sqliteInspector,
  isAlwaysSerial: true,
};

/** Whether an error has one of some result codes, whatever extends them; drivers tell their names or their numbers. */
function isOf({ code, rawCode, errno, errcode }: Violated, names: RegExp, numbers: readonly number[]): boolean {
  return [code, rawCode, errno, errcode].some((each) =>
    typeof each === 'string' ? names.test(each) : numbers.includes(Number(each) & 0xff),
  );
}

/** Extended result codes (sqlite.org/rescode.html): UNIQUE, PRIMARY KEY, foreign key. */
const CODES = new Map<unknown, Violation['sort']>([
  [2067, 'unique'],
  ['SQLITE_CONSTRAINT_UNIQUE', 'unique'],
  [1555, 'unique'],
  ['SQLITE_CONSTRAINT_PRIMARYKEY', 'unique'],
  [787, 'known'],
  ['SQLITE_CONSTRAINT_FOREIGNKEY', 'known'],
  [275, 'other'],
  ['SQLITE_CONSTRAINT_CHECK', 'other'],
]);

const FAILED = 'constraint failed: ';

function violation(error: Violated): Violation | undefined {
  const sort = [error.code, error.rawCode, error.errno, error.errcode].map((code) => CODES.get(code)).find(Boolean);
  if (sort === undefined) return undefined;
  const told = String(error.message ?? '');
  // "UNIQUE constraint failed: owners.email, owners.marina", or an index over expressions by its name.
  const at = told.toLowerCase().indexOf(FAILED);
  if (at < 0) return { sort };
  const list = told.slice(at + FAILED.length);
  if (list.startsWith("index '") && list.endsWith("'")) return { sort, constraint: list.slice("index '".length, -1) };
  if (sort === 'other') return { sort, constraint: list };
  const columns = list.split(', ').map((column) => column.slice(column.indexOf('.') + 1));
  return { sort, told: list, table: list.slice(0, list.indexOf('.')), columns };
}

async function learn(db: Database, { name }: SqlTable): Promise<ColumnFacts> {
  const { rows } = await sql<{ name: string; type: string }>`select name as name, type as type from pragma_table_info(${name})`.execute(db);
  // Views and tables without them have none, and a column of that name would stand in for it.
  const numbered = await sql`select 1 from pragma_table_list where name = ${name} and type = 'table' and wr = 0`.execute(db);
  const hasRowNumbers = numbered.rows.length === 1 && !rows.some((column) => column.name.toLowerCase() === 'rowid');
  return Object.assign(new Map(rows.map((column) => [column.name, { type: column.type }])), { hasRowNumbers });
}
