import { PostgresAdapter, PostgresQueryCompiler, type RawBuilder, sql } from 'kysely';
import type { StoredAs } from '../../../core/declared/kind.ts';
import { type Client, type RecordsOver, sqlRecords } from '../store/records.ts';
import type { Database, SqlTable } from '../tables/database.ts';
import type { ColumnFacts, Dialect, SqlTerm, Violated, Violation } from '../tables/dialect.ts';
import type { SqlOptions } from '../tables/tables.ts';
import { arrayOf } from './array.ts';
import { columnIn, postgresInspector, regclass } from './inspector.ts';
import { postgresLocks } from './locks.ts';

/**
 * Records in PostgreSQL (12 and later) through Kysely: `new Kysely({ dialect: new PostgresDialect({ pool }) })`, or a
 * transaction of it.
 *
 * Keys are joined with their ordinal by the database itself, as values of the column's own type, so its own collation
 * decides what is equal. `ignoringCase` compares `lower(…)`, which wants an index on the same.
 *
 * @param options names of tables and columns that differ from those of the collections
 */
export const postgresRecords: RecordsOver = (client: Client<unknown>, options: SqlOptions = {}) =>
  sqlRecords(postgres, client, options) as never;

const postgres: Dialect = {
  values(terms, keys) {
    const asked = terms.filter(isAsked).map(({ index }) => index);
    return asked.length === 0 ? [arrayOf(keys.map(() => 1))] : asked.map((index) => arrayOf(keys.map((key) => key[index])));
  },
  keys(values, terms, table, known) {
    const asked = terms.filter(isAsked);
    if (asked.length === 0) return sql`unnest(${values[0]}::int[]) with ordinality as k(one, ordinal)`;
    const names = sql.join([...asked.map(({ index }) => sql.ref(`k${index}`)), sql.ref('ordinal')]);
    return sql`unnest(${sql.join(asked.map((term, at) => typed(term, values[at], table, known)))}) with ordinality as k(${names})`;
  },
  bounded: ({ source, table, matches, order, most }, columns) =>
    sql`select k.ordinal - 1 as ordinal, r.* from ${source} cross join lateral (select ${columns} from ${table} as t where ${matches}${order} limit ${most}) as r`,
  lockingRows: sql` for update of t`,
  ordinal: sql`k.ordinal - 1`,
  listed: (ordinal) => sql`string_agg((${ordinal})::text, ',')`,
  asked: ({ index }) => sql.ref(`k.k${index}`),
  sum: ({ ref }) => sql`sum(${ref})::text`,
  ignoringCase: ({ ref }, asked) => sql`lower(${ref}) = lower(${asked})`,
  otherThan: ({ ref }, asked) => sql`${ref} is distinct from ${asked}`,
  shown: ({ ref, storedAs }) => SHOWN[storedAs]?.(ref) ?? ref,
  cannotHold: (key) => key.some((value) => typeof value === 'string' && value.includes('\0')),
  // Class 22, data exception: text that is no value of the column's type, or a number beyond it; 23514 of a domain's check.
  isKeyError: (error) => /^(22|23514$)/.test(String((error as Violated | undefined)?.code)),
  cast(term, values, table, known) {
    if (!isAsked(term) || (NUMBERS[term.column.storedAs] && !keptAs(term, known))) return undefined;
    return sql`select ${typed(term, arrayOf(values), table, known)} is null as none`;
  },
  mayNotCast(term, known) {
    const { name, storedAs } = term.column;
    if (!isAsked(term) || storedAs === 'boolean') return false;
    return keptAs(term, known) !== undefined || (!NUMBERS[storedAs] && known.get(name)?.isText !== true);
  },
  learn,
  parts,
  // A serialisation failure, a deadlock, a lock that was not to be had.
  mayTryAgain: ({ code }) => code === '40001' || code === '40P01' || code === '55P03',
  // Besides the first two: the server ends the connection.
  endsTransaction: ({ code }) => /^(40001|40P01|08...|57P0.)$/.test(String(code)),
  isEndedByErrors: true,
  // Two rows that may not be alike, which is found out at the end; the name of the constraint stands in the error of COMMIT.
  seal: [
    'create temporary table jestril_refused (one int, constraint "a statement of this transaction failed: nothing is stored" unique (one) deferrable initially deferred) on commit drop',
    'insert into pg_temp.jestril_refused values (1), (1)',
  ],
  // A code of the system (`EPIPE`) has no digit, an SQLSTATE has one.
  isAnswer: ({ code }) => /^(?=.*\d)[0-9A-Z]{5}$/.test(String(code)),
  language: {
    adapter: () => new PostgresAdapter(),
    compiler: () => new PostgresQueryCompiler(),
    begin: (level) => [level === undefined ? 'begin' : `begin isolation level ${level}`],
  },
  locks: postgresLocks,
  // A list is compared with no single value.
  unfit({ name }, known) {
    const { type } = known.get(name) ?? {};
    return type?.endsWith('[]') ? `"${name}" is of type ${type}, which is compared with no single value.` : undefined;
  },
  violation,
  inspector: postgresInspector,
};

/** The types of columns, those of domains as what they are made of, and which of them hold text, that any key is a value of. */
async function learn(db: Database, table: SqlTable): Promise<ColumnFacts> {
  const { rows } = await sql<{ name: string; isText: boolean; type: string; digits: number | null }>`
    select attname as name, format_type(typed.oid, null) as type, typed.oid in ('text'::regtype, 'varchar'::regtype, 'bpchar'::regtype, 'name'::regtype)
      or format_type(typed.oid, null) = 'citext' as ${sql.ref('isText')},
      case when format_type(typed.oid, typmod) ~ '^numeric\\(' then (((typmod - 4) & 2047) # 1024) - 1024
        when format_type(typed.oid, typmod) ~ '^time(stamp)?\\(' then typmod end as digits
    from pg_attribute join pg_type own on own.oid = atttypid
      join lateral (select case when own.typtype = 'd' then own.typbasetype else own.oid end as oid,
        case when own.typtype = 'd' then own.typtypmod else atttypmod end as typmod) typed on true
    where attrelid = ${regclass(table)} and attnum > 0 and not attisdropped`.execute(db);
  return new Map(
    rows.map(({ name, isText, type, digits }) => [name, { isText, type, isRough: type === 'real', ...(digits !== null && { digits }) }]),
  );
}

/** A row of a partitioned table is refused by the partition. */
async function parts(db: Database): Promise<ReadonlyMap<string, string>> {
  const { rows } = await sql<{ part: string; whole: string }>`
    select p.relname as part, w.relname as whole from pg_class p join pg_class w on w.oid = pg_partition_root(p.oid)
    where p.relispartition and p.relkind in ('r', 'p')`.execute(db);
  return new Map(rows.map(({ part, whole }) => [part, whole]));
}

/** Whether a term has a key at all. */
function isAsked({ is, than }: SqlTerm): boolean {
  return is !== 'missing' && !than;
}

const NUMBERS: { readonly [S in StoredAs]?: RawBuilder<unknown> } = {
  integer: sql`bigint`,
  real: sql`numeric`,
  numeric: sql`numeric`,
};

/** Types that make another value of what they store, where the column says no precision. */
const ROUNDS = /^(real|smallint|integer|bigint)$/;

/** What a column makes of a value that it would store: one that equals another afterwards is looked for as that. */
function keptAs({ column: { name, storedAs }, is }: SqlTerm, known: ColumnFacts): RawBuilder<unknown> | undefined {
  const { type = '', digits } = known.get(name) ?? {};
  if (storedAs === 'integer' || is !== 'equal' || (digits === undefined && !ROUNDS.test(type))) return undefined;
  // The digits before the point are no limit of a key: what is too large for its column equals no row.
  const kept = digits === undefined ? type : type === 'numeric' ? `numeric(1000,${digits})` : type.replace(/^\w+/, `$&(${digits})`);
  return NUMBERS[storedAs] ? sql`numeric[]::${sql.raw(kept)}[]` : sql`${sql.raw(kept)}[]`;
}

/** An array of the type that numbers fit, or of the column's own, which an empty query tells where nobody else does. */
function typed(term: SqlTerm, values: unknown, table: SqlTable, known: ColumnFacts): RawBuilder<unknown> {
  const { storedAs, name, ref } = term.column;
  const number = NUMBERS[storedAs];
  const type = known.get(name)?.type;
  const kept = keptAs(term, known) ?? (number ? sql`${number}[]` : type === undefined ? undefined : sql`${sql.raw(type)}[]`);
  return kept ? sql`${values}::${kept}` : sql`coalesce(${values}, array(select ${ref} from ${table.ref} as t limit 0))`;
}

// What drivers make of these types depends on their settings; text does not.
const SHOWN: { readonly [S in StoredAs]?: (ref: RawBuilder<unknown>) => RawBuilder<unknown> } = {
  date: (ref) => sql`to_char(${ref}::date, 'YYYY-MM-DD')`,
  // ISO 8601, whatever DateStyle and TimeZone of the session are: with its offset, or (`timestamp`) without one, which is UTC.
  timestamp: (ref) => sql`to_json(${ref}) #>> '{}'`,
  numeric: (ref) => sql`${ref}::text`,
};

/** SQLSTATE (PostgreSQL documentation, appendix A). */
const CODES: { readonly [code: string]: Violation['sort'] } = {
  23505: 'unique',
  23503: 'known',
  '23P01': 'overlap',
  23514: 'other',
};

function violation({ code, constraint, table, detail, message }: Violated): Violation | undefined {
  const sort = CODES[String(code)];
  if (sort === undefined) return undefined;
  const told = String(detail ?? '');
  // A row that is still referred to was to be deleted, or its key changed: no reference is missing. In whichever language, the
  // sentence then names three things (its table, the constraint, the table that refers), and two otherwise.
  if (sort === 'known' && quotedIn(String(message ?? '')).length > 2) return undefined;
  // "Key (lower(email), marina)=(…) already exists.": the columns stand in the first parentheses, whatever the language. The
  // values are somebody else's text, of any length.
  const from = told.indexOf('(') + 1;
  const to = told.indexOf(')=(', from);
  const list = from > 0 && to > 0 ? told.slice(from, to) : undefined;
  const refersTo = sort === 'known' ? quotedIn(told.slice(told.lastIndexOf(')'))).at(-1) : undefined;
  return {
    sort,
    ...(typeof constraint === 'string' && { constraint }),
    ...(typeof table === 'string' && { table }),
    ...(list !== undefined && { columns: partsOf(list).map(columnIn) }),
    ...(refersTo !== undefined && { refersTo }),
  };
}

/** Names in the quotation marks of whichever language: `"owners"`, `»owners«`, `« owners »`. A mark within a name is not told apart. */
function quotedIn(told: string): string[] {
  const names: string[] = [];
  let start = -1;
  for (let at = 0; at < told.length; at++) {
    if (!MARKS.includes(told[at] as string)) continue;
    if (start >= 0) names.push(told.slice(start, at).trim());
    start = start >= 0 ? -1 : at + 1;
  }
  return names;
}
const MARKS = '"»«„“”「」『』';

/** Splits at the commas that stand in no parentheses. */
function partsOf(list: string): string[] {
  const parts: string[] = [''];
  let depth = 0;
  for (const letter of list) {
    if (letter === '(') depth++;
    if (letter === ')') depth--;
    if (letter === ',' && depth === 0) parts.push('');
    else parts[parts.length - 1] += letter;
  }
  return parts.map((part) => part.trim());
}
