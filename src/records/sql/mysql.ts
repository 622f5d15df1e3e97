import { type RawBuilder, sql } from 'kysely';
import { columnsFrom, createUniqueIndex, selected } from './creating.ts';
import type { ColumnFacts, Database, Dialect, SqlColumn, SqlTable, SqlTerm, UniqueKey, Violated, Violation } from './dialect.ts';
import { type SqlRecords, sqlRecords } from './records.ts';
import type { SqlOptions } from './tables.ts';

/**
 * Records in MariaDB (10.6 and later) or MySQL (8 and later) through Kysely: `new Kysely({ dialect: new MysqlDialect({ pool }) })`,
 * or a transaction of it (better: `records.in(transaction)`, which does not ask again for what is known of the tables).
 *
 * Keys are joined with their ordinal by the database itself, in the column's own collation. `DATETIME` columns of moments
 * are taken to hold UTC, `TIMESTAMP` columns are compared by their seconds, whatever the zone of the session.
 *
 * @param options names of tables and columns that differ from those of the collections
 */
export const mysqlRecords = (db: Database, options: SqlOptions = {}): SqlRecords => sqlRecords(mysql, db, options);

const mysql: Dialect = {
  learn,
  values(terms, keys, known) {
    const forms = terms.map(({ column }) => (column.kind !== 'moment' ? undefined : isTimestamp(column, known) ? secondsOf : inUtc));
    const asked = forms.some(Boolean) ? keys.map((key) => key.map((value, at) => forms[at]?.(String(value)) ?? value)) : keys;
    return [JSON.stringify(asked)];
  },
  compared: (column, known) => (isTimestamp(column, known) ? sql`unix_timestamp(${column.ref})` : undefined),
  keys([all], terms, _table, known) {
    const columns = terms.map(
      ({ column, is, index }) => sql`${sql.ref(`k${index}`)} ${typeOf(column, is, known)} path ${sql.lit(`$[${index}]`)}`,
    );
    return sql`json_table(${all}, '$[*]' columns (${sql.join([sql`ordinal for ordinality`, ...columns])})) as k`;
  },
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
      : (SHOWN[column.kind]?.(column.ref) ?? column.ref),
  // A deadlock, a lock that was not to be had in time, a row that has changed since it was read.
  mayTryAgain: ({ errno }) => errno === 1213 || errno === 1205 || errno === 1020,
  violation,
  columnsOf: (db, table) =>
    columnsFrom(
      sql`select column_name as name from information_schema.columns where table_schema = ${schemaOf(table)} and table_name = ${table.name}`,
      db,
    ),
  uniqueKeysOf,
  rowOf: (_table, values) => selected(values),
  createUnique: (table, need, nameOf, name) =>
    createUniqueIndex(table, need, nameOf, name, backquoted, { hasPartial: false, quote: backquoted }),
  namesOnly: true,
};

const backquoted = (name: string): string => `\`${name.replaceAll('`', '``')}\``;

function schemaOf({ schema }: SqlTable): RawBuilder<unknown> {
  return schema === undefined ? sql`database()` : sql`${schema}`;
}

function foldsCase(collation: string | undefined): boolean {
  return collation?.endsWith('_ci') ?? false;
}

const TYPES: { readonly [kind: string]: RawBuilder<unknown> } = {
  whole: sql`bigint`,
  decimal: sql`double`,
  exact: sql`decimal(65, 30)`,
  flag: sql`tinyint`,
  day: sql`date`,
  moment: sql`datetime(3)`,
  time: sql`time`,
};

/** Characters of a key that is kept as one of fixed length, where the column does not say how many it holds. */
const LONGEST_KEY = 2000;

/** The type of a key. Text has the collation of its column, or the two could not be compared. */
function typeOf({ kind, name }: SqlColumn, is: SqlTerm['is'], known: ColumnFacts): RawBuilder<unknown> {
  if (kind === 'moment' && known.get(name)?.type === 'timestamp') return sql`decimal(20, 6)`;
  const type = TYPES[kind];
  if (type) return type;
  const { collation, length = LONGEST_KEY } = known.get(name) ?? {};
  // A key longer than the column becomes nothing (null on error): it equals no row, but it has a place in the order.
  const isShort = length <= LONGEST_KEY && (is === 'equal' || is === 'ignoringCase');
  const text = isShort ? sql`varchar(${sql.lit(length)})` : sql`longtext`;
  return collation === undefined
    ? sql`${text} character set utf8mb4`
    : sql`${text} character set ${sql.raw(charsetOf(collation))} collate ${sql.raw(collation)}`;
}

function charsetOf(collation: string): string {
  return collation === 'binary' ? 'binary' : (collation.split('_')[0] as string);
}

async function learn(db: Database, table: SqlTable): Promise<ColumnFacts> {
  const { rows } = await sql<{ name: string; collation: string | null; length: number | string | null; type: string }>`
    select column_name as name, collation_name as collation, character_maximum_length as length, lower(data_type) as ${sql.ref('type')}
    from information_schema.columns where table_schema = ${schemaOf(table)} and table_name = ${table.name}`.execute(db);
  return new Map(
    rows
      .filter(({ collation }) => collation === null || /^\w+$/.test(collation))
      .map(({ name, collation, length, type }) => [
        name,
        { type, ...(collation !== null && { collation }), ...(length !== null && { length: Number(length) }) },
      ]),
  );
}

/** A TIMESTAMP is shown in the zone of the session, and compared by it: its seconds since 1970 are the same in all. */
function isTimestamp({ kind, name }: SqlColumn, known: ColumnFacts): boolean {
  return kind === 'moment' && known.get(name)?.type === 'timestamp';
}

function secondsOf(moment: string): string {
  return (Date.parse(moment) / 1000).toFixed(3);
}

/** `2031-05-01T09:30:00.000Z` as a DATETIME in UTC. */
function inUtc(moment: string): string {
  return moment.replace('T', ' ').replace('Z', '');
}

// What the driver makes of these types depends on its settings; text does not.
const SHOWN: { readonly [kind: string]: (ref: RawBuilder<unknown>) => RawBuilder<unknown> } = {
  day: (ref) => sql`date_format(${ref}, '%Y-%m-%d')`,
  moment: (ref) => sql`date_format(${ref}, '%Y-%m-%dT%H:%i:%s.%fZ')`,
  exact: (ref) => sql`cast(${ref} as char)`,
  flag: (ref) => sql`${ref} + 0`,
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
  if (sort === 'unique') return duplicate(told);
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

/** The names in a message, each between two of the same quotation marks; a doubled mark stands for itself. */
function namesIn(told: string, marks = '`'): string[] {
  const names: string[] = [];
  for (let at = 0; at < told.length; at++) {
    const mark = told[at] as string;
    if (!marks.includes(mark)) continue;
    let name = '';
    for (at++; at < told.length; at++) {
      if (told[at] !== mark) name += told[at];
      else if (told[at + 1] === mark) name += told[at++];
      else break;
    }
    names.push(name);
  }
  return names;
}

/** "Duplicate entry 'x' for key 'owners.email'": only a name, which is the column's where nobody chose another. */
function duplicate(told: string): Violation {
  // The entry is somebody else's text and may hold the same words; the name comes last.
  const at = told.lastIndexOf(" '");
  if (at < 0 || !told.endsWith("'")) return { sort: 'unique' };
  const key = told.slice(at + 2, -1);
  const dot = key.indexOf('.');
  const name = key.slice(dot + 1);
  const table = dot < 0 ? {} : { table: key.slice(0, dot) };
  return name === 'PRIMARY' ? { sort: 'unique', ...table, ofKey: true } : { sort: 'unique', ...table, constraint: name, columns: [name] };
}

async function uniqueKeysOf(db: Database, table: SqlTable): Promise<UniqueKey[]> {
  const { rows } = await sql<{ index: string; column: string | null; made: string | null }>`
    select s.index_name as ${sql.ref('index')}, s.column_name as ${sql.ref('column')}, c.generation_expression as made
    from information_schema.statistics s left join information_schema.columns c
      on c.table_schema = s.table_schema and c.table_name = s.table_name and c.column_name = s.column_name
    where s.non_unique = 0 and s.table_schema = ${schemaOf(table)} and s.table_name = ${table.name}
    order by s.index_name, s.seq_in_index`.execute(db);
  const known = await learn(db, table);
  const keys = new Map<string, UniqueKey>();
  for (const { index, column, made } of rows) {
    const name = column ?? '';
    const key = keys.get(index) ?? { name: index, columns: [] };
    keys.set(index, {
      ...key,
      columns: [
        ...key.columns,
        { name, ignoresCase: foldsCase(known.get(name)?.collation), ...(made && { within: `(${made}) is not null` }) },
      ],
    });
  }
  return [...keys.values()];
}
