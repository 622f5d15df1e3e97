import { MysqlAdapter, MysqlQueryCompiler, type RawBuilder, sql } from 'kysely';
import type { StoredAs } from '../../../core/declared/kind.ts';
import { type Client, type RecordsOver, sqlRecords } from '../store/records.ts';
import type { SqlColumn } from '../tables/database.ts';
import type { ColumnFact, ColumnFacts, Dialect, SqlTerm, Violated, Violation } from '../tables/dialect.ts';
import { namesIn } from '../tables/names-in.ts';
import type { SqlOptions } from '../tables/tables.ts';
import { foldsCase, learn, mysqlInspector } from './inspector.ts';
import { mysqlLocks } from './locks.ts';

/**
 * Records in MariaDB (10.6 and later) or MySQL (8 and later) through Kysely: `new Kysely({ dialect: new MysqlDialect({ pool }) })`,
 * or a transaction of it (better: `records.in(transaction)`, which does not ask again for what is known of the tables).
 *
 * Keys are joined with their ordinal by the database itself, in the column's own collation. `DATETIME` columns of moments
 * are taken to hold UTC, `TIMESTAMP` columns are compared by their seconds, whatever the zone of the session.
 *
 * @param options names of tables and columns that differ from those of the collections
 */
export const mysqlRecords: RecordsOver = (client: Client<unknown>, options: SqlOptions = {}) => sqlRecords(mysql, client, options) as never;

const mysql: Dialect = {
  learn,
  values(terms, keys, known) {
    const forms = terms.map(({ column, is }) => {
      if (column.storedAs !== 'timestamp') return undefined;
      return isTimestamp(column, known) ? secondsBy(is === 'equal' ? known.get(column.name) : undefined) : inUtc;
    });
    const asked = forms.some(Boolean) ? keys.map((key) => key.map((value, at) => forms[at]?.(String(value)) ?? value)) : keys;
    // Bytes are written without any escape.
    return [known.takesBackslashes ? Buffer.from(JSON.stringify(asked)) : JSON.stringify(asked)];
  },
  compared: (column, known) => (isTimestamp(column, known) ? sql`unix_timestamp(${column.ref})` : undefined),
  keys([all], terms, _table, known) {
    const columns = terms.map(
      ({ column, is, index }) => sql`${sql.ref(`k${index}`)} ${typeOf(column, is, known)} path ${sql.lit(`$[${index}]`)}`,
    );
    return sql`json_table(${textOf(all, known)}, '$[*]' columns (${sql.join([sql`ordinal for ordinality`, ...columns])})) as k`;
  },
  // MariaDB makes a join of `exists`, and reads the whole table for it where many rows are alike.
  isThere: (rows) => sql`(${rows} limit 1) is not null`,
  apart: ({ column, is, index }, key, known) =>
    sql`(select k.k from json_table(${textOf(key, known)}, '$' columns (k ${typeOf(column, is, known)} path ${sql.lit(`$[0][${index}]`)})) as k)`,
  lockingRows: sql` for update`,
  ordinal: sql`k.ordinal - 1`,
  listed: (ordinal) => sql`replace(substring(cast(json_arrayagg(${ordinal}) as char), 2), ']', '')`,
  asked: ({ index }) => sql.ref(`k.k${index}`),
  sum: ({ ref }) => sql`cast(sum(${ref}) as char)`,
  // A collation that folds case does so by itself, and can use an index.
  ignoringCase: ({ name, ref }, asked, known) =>
    foldsCase(known.get(name)?.collation) ? sql`${ref} = ${asked}` : sql`lower(${ref}) = lower(${asked})`,
  otherThan: ({ ref }, asked) => sql`not (${ref} <=> ${asked})`,
  shown: (column, known) =>
    isTimestamp(column, known)
      ? sql`date_format(timestampadd(microsecond, unix_timestamp(${column.ref}) * 1000000, '1970-01-01'), '%Y-%m-%dT%H:%i:%s.%fZ')`
      : (SHOWN[column.storedAs]?.(column.ref) ?? column.ref),
  // A deadlock, a lock that was not to be had in time, a row that has changed since it was read.
  mayTryAgain: ({ errno }) => errno === 1213 || errno === 1205 || errno === 1020,
  endsTransaction: ({ errno }) => errno === 1213 || errno === 1020 || errno === 1927,
  // Nothing else makes COMMIT fail; what came before is gone with the connection.
  seal: ['kill connection_id()'],
  isAnswer: ({ errno }) => Number(errno) >= 1000,
  language: {
    adapter: () => new MysqlAdapter(),
    compiler: () => new MysqlQueryCompiler(),
    begin: (level) => [...(level === undefined ? [] : [`set transaction isolation level ${level}`]), 'begin'],
  },
  locks: mysqlLocks,
  violation,
  unfit,
  inspector: mysqlInspector,
};

const TYPES: { readonly [S in StoredAs]?: RawBuilder<unknown> } = {
  integer: sql`bigint`,
  real: sql`double`,
  numeric: sql`decimal(65, 30)`,
  boolean: sql`tinyint`,
  date: sql`date`,
  timestamp: sql`datetime(3)`,
  time: sql`time`,
};

/** What keys are handed over as. */
function textOf(all: unknown, { takesBackslashes }: ColumnFacts): RawBuilder<unknown> {
  return takesBackslashes ? sql`convert(${all} using utf8mb4)` : sql`${all}`;
}

/** Characters of a key that is kept as one of fixed length, where the column does not say how many it holds. */
const LONGEST_KEY = 2000;

/** The type of a key. Text has the collation of its column, or the two could not be compared. */
function typeOf({ storedAs, name }: SqlColumn, is: SqlTerm['is'], known: ColumnFacts): RawBuilder<unknown> {
  if (storedAs === 'timestamp' && known.get(name)?.type === 'timestamp') return sql`decimal(20, 6)`;
  const type = (is === 'equal' && keptAs(storedAs, known.get(name))) || TYPES[storedAs];
  if (type) return type;
  const { collation, length = LONGEST_KEY, type: own } = known.get(name) ?? {};
  // A key longer than the column becomes nothing (null on error): it equals no row, but it has a place in the order.
  const isShort = length <= LONGEST_KEY && (is === 'equal' || is === 'ignoringCase');
  // A CHAR lets go of the blanks at its end, and so must the key, or a collation that counts blanks would find another row.
  const text = isShort ? sql`${sql.raw(own === 'char' ? 'char' : 'varchar')}(${sql.lit(length)})` : sql`longtext`;
  return collation === undefined
    ? sql`${text} character set utf8mb4`
    : sql`${text} character set ${sql.raw(charsetOf(collation))} collate ${sql.raw(collation)}`;
}

/** What a column makes of a value that it would store, but for its size: what is too large for it must not become its largest. */
function keptAs(storedAs: StoredAs, { type = '', digits }: ColumnFact = {}): RawBuilder<unknown> | undefined {
  if (type === 'float' && storedAs !== 'integer') return sql`float`;
  if (digits === undefined) return undefined;
  if (storedAs === 'timestamp') return sql`datetime(${sql.lit(digits)})`;
  if (storedAs === 'time') return sql`time(${sql.lit(digits)})`;
  return storedAs === 'numeric' || storedAs === 'real' ? sql`decimal(65, ${sql.lit(digits)})` : undefined;
}

function charsetOf(collation: string): string {
  return collation === 'binary' ? 'binary' : (collation.split('_')[0] as string);
}

/** A TIMESTAMP is shown in the zone of the session, and compared by it: its seconds since 1970 are the same in all. */
function isTimestamp({ storedAs, name }: SqlColumn, known: ColumnFacts): boolean {
  return storedAs === 'timestamp' && known.get(name)?.type === 'timestamp';
}

/** Seconds since 1970, as a column of some precision would keep them. */
function secondsBy({ digits = 3, isCut = false }: ColumnFact = {}): (moment: string) => string {
  const unit = 10 ** (3 - Math.min(digits, 3));
  return (moment) => {
    const parts = Date.parse(moment) / unit;
    return (((isCut ? Math.floor(parts) : Math.round(parts)) * unit) / 1000).toFixed(3);
  };
}

/** `2031-05-01T09:30:00.000Z` as a DATETIME in UTC. */
function inUtc(moment: string): string {
  return moment.replace('T', ' ').replace('Z', '');
}

const NUMBERS = /^(tinyint|smallint|mediumint|int|bigint|decimal|float|double|bit|year)$/;
/** The types that hold it. Anything else would be converted: a text that is no number equals 0 then. */
const HOLD: { readonly [S in StoredAs]?: RegExp } = {
  integer: NUMBERS,
  real: NUMBERS,
  numeric: /^(tinyint|smallint|mediumint|int|bigint|decimal|year)$/,
  boolean: /^(tinyint|smallint|mediumint|int|bigint|bit)$/,
  date: /^(date|datetime)$/,
  timestamp: /^(datetime|timestamp)$/,
  time: /^time$/,
};
const NO_TEXT = new RegExp(`${NUMBERS.source}|^(date|datetime|timestamp|time)$`);

function unfit({ storedAs, name }: SqlColumn, known: ColumnFacts): string | undefined {
  const type = known.get(name)?.type;
  if (type === undefined || (storedAs === 'text' ? !NO_TEXT.test(type) : HOLD[storedAs]?.test(type) !== false)) return undefined;
  return `"${name}" is of type ${type}, which is not compared as ${storedAs}; give it another type, or declare the column as what it holds.`;
}

// What the driver makes of these types depends on its settings; text does not.
const SHOWN: { readonly [S in StoredAs]?: (ref: RawBuilder<unknown>) => RawBuilder<unknown> } = {
  date: (ref) => sql`date_format(${ref}, '%Y-%m-%d')`,
  timestamp: (ref) => sql`date_format(${ref}, '%Y-%m-%dT%H:%i:%s.%fZ')`,
  numeric: (ref) => sql`cast(${ref} as char)`,
  boolean: (ref) => sql`${ref} + 0`,
};

/** Error numbers (MySQL and MariaDB reference manuals): duplicate entry, no referenced row, check constraint. */
const CODES = new Map<unknown, Violation['sort']>([
  [1062, 'unique'],
  [1452, 'known'],
  [3819, 'other'],
  [4025, 'other'],
]);

function violation(error: Violated): Violation | undefined {
  const sort = CODES.get(error.errno);
  if (sort === undefined) return undefined;
  const told = String(error.sqlMessage ?? error.message ?? '');
  if (sort === 'unique') return duplicate(told, error.sql);
  if (sort === 'other') {
    // "CONSTRAINT `name` failed for …" (MariaDB), "Check constraint 'name' is violated." (MySQL)
    const constraint = namesIn(told, "'`")[0];
    return { sort, ...(constraint !== undefined && { constraint }) };
  }
  // "… (`db`.`table`, CONSTRAINT `name` FOREIGN KEY (`column`) REFERENCES `other` (`id`))"; the words are SQL in every language.
  const [before = '', after = ''] = cutAt(told, ' FOREIGN KEY ');
  const [keys = '', refers = ''] = cutAt(after, ' REFERENCES ');
  const [table, constraint] = namesIn(before).slice(-2);
  const refersTo = namesIn(cutAt(refers, ' (')[0] ?? '').at(-1);
  if (table === undefined || constraint === undefined || refersTo === undefined) return { sort };
  return { sort, constraint, table, columns: namesIn(keys), refersTo };
}

function cutAt(text: string, mark: string): [string, string?] {
  const at = text.indexOf(mark);
  return at < 0 ? [text] : [text.slice(0, at), text.slice(at + mark.length)];
}

/**
 * "Duplicate entry 'x' for key 'owners.email'", in whichever language: the key is named last, and where nobody chose its name, it is
 * called as its column. MariaDB leaves out the table, which the statement names.
 */
function duplicate(told: string, statement: unknown): Violation {
  // The entry is somebody else's text and may hold quotation marks; the name comes last.
  const end = told.lastIndexOf("'");
  const start = told.lastIndexOf("'", end - 1) + 1;
  if (start <= 0 || end <= start) return { sort: 'unique' };
  const key = told.slice(start, end);
  const dot = key.indexOf('.');
  const name = key.slice(dot + 1);
  const table = dot < 0 ? tableIn(String(statement ?? '')) : key.slice(0, dot);
  const where = table === undefined ? {} : { table };
  return name === 'PRIMARY' ? { sort: 'unique', ...where, ofKey: true } : { sort: 'unique', ...where, constraint: name, columns: [name] };
}

/** The table that a statement writes to: `insert into \`db\`.\`owners\` …`, `update owners set …`. */
function tableIn(statement: string): string | undefined {
  const head = /^\s{0,20}(?:insert|replace|update)(?:\s(?:low_priority|delayed|high_priority|ignore|into))*\s/i.exec(
    statement.slice(0, 200),
  )?.[0];
  if (head === undefined) return undefined;
  const rest = statement.slice(head.length);
  const name = /^(?:`(?:[^`]|``)*`|[\p{L}\p{N}_$]+)(?:\.(?:`(?:[^`]|``)*`|[\p{L}\p{N}_$]+))?/u.exec(rest)?.[0];
  if (name === undefined) return undefined;
  const parts = namesIn(name);
  return parts.length > 0 ? parts.at(-1) : name.split('.').at(-1);
}
