import { type RawBuilder, sql } from 'kysely';
import { columnsFrom, createUniqueIndex, quoted } from './creating.ts';
import type { ColumnFacts, Database, Dialect, Key, SqlTable, SqlTerm, UniqueKey, Violated, Violation } from './dialect.ts';
import { type SqlRecords, sqlRecords } from './records.ts';
import type { SqlOptions } from './tables.ts';

/**
 * Records in PostgreSQL (12 and later) through Kysely: `new Kysely({ dialect: new PostgresDialect({ pool }) })`, or a
 * transaction of it.
 *
 * Keys are joined with their ordinal by the database itself, as values of the column's own type, so its own collation
 * decides what is equal. `ignoringCase` compares `lower(…)`, which wants an index on the same.
 *
 * @param options names of tables and columns that differ from those of the collections
 */
export const postgresRecords = (db: Database, options: SqlOptions = {}): SqlRecords => sqlRecords(postgres, db, options);

const postgres: Dialect = {
  values(terms, keys) {
    const asked = terms.filter(isAsked).map(({ index }) => index);
    return asked.length === 0 ? [arrayOf(keys.map(() => 1))] : asked.map((index) => arrayOf(keys.map((key) => key[index])));
  },
  keys(values, terms, table) {
    const asked = terms.filter(isAsked);
    if (asked.length === 0) return sql`unnest(${values[0]}::int[]) with ordinality as k(one, ordinal)`;
    const names = sql.join([...asked.map(({ index }) => sql.ref(`k${index}`)), sql.ref('ordinal')]);
    return sql`unnest(${sql.join(asked.map((term, at) => typed(term, values[at], table)))}) with ordinality as k(${names})`;
  },
  ordinal: sql`k.ordinal - 1`,
  listed: (ordinal) => sql`string_agg((${ordinal})::text, ',')`,
  asked: ({ index }) => sql.ref(`k.k${index}`),
  sum: ({ ref }) => sql`sum(${ref})::text`,
  ignoringCase: ({ ref }, asked) => sql`lower(${ref}) = lower(${asked})`,
  otherThan: ({ ref }, asked) => sql`${ref} is distinct from ${asked}`,
  shown: ({ ref, kind }) => SHOWN[kind]?.(ref) ?? ref,
  cannotHold: (key) => key.some((value) => typeof value === 'string' && value.includes('\0')),
  // Class 22, data exception: text that is no value of the column's type, or a number beyond it; 23514 of a domain's check.
  isKeyError: (error) => /^(22|23514$)/.test(String((error as Violated | undefined)?.code)),
  cast(term, values, table) {
    const { column } = term;
    if (!isAsked(term) || NUMBERS[column.kind]) return undefined;
    return sql`select coalesce(${arrayOf(values)}, array(select ${column.ref} from ${table.ref} as t limit 0)) is null as none`;
  },
  mayNotCast: (term, known) =>
    isAsked(term) && !NUMBERS[term.column.kind] && term.column.kind !== 'flag' && known.get(term.column.name)?.isText !== true,
  learn,
  // A serialisation failure, a deadlock, a lock that was not to be had.
  mayTryAgain: ({ code }) => code === '40001' || code === '40P01' || code === '55P03',
  violation,
  columnsOf: (db, table) =>
    columnsFrom(sql`select attname as name from pg_attribute where attrelid = ${regclass(table)} and attnum > 0 and not attisdropped`, db),
  uniqueKeysOf,
  rowOf: (table, values) =>
    sql`jsonb_populate_record(null::${table.ref}, cast(${JSON.stringify(Object.fromEntries(values))} as jsonb)) as r`,
  createUnique: (table, need, nameOf, name) =>
    createUniqueIndex(table, need, nameOf, name, (column) => `lower(${quoted(column)})`, { hasPartial: true }),
  namesOnly: false,
};

/** Which columns hold text, that any key is a value of. */
async function learn(db: Database, table: SqlTable): Promise<ColumnFacts> {
  const { rows } = await sql<{ name: string; isText: boolean }>`
    select attname as name, atttypid in ('text'::regtype, 'varchar'::regtype, 'bpchar'::regtype, 'name'::regtype)
      or format_type(atttypid, null) = 'citext' as ${sql.ref('isText')}
    from pg_attribute where attrelid = ${regclass(table)} and attnum > 0 and not attisdropped`.execute(db);
  return new Map(rows.map(({ name, isText }) => [name, { isText }]));
}

/** Whether a term has a key at all. */
function isAsked({ is, than }: SqlTerm): boolean {
  return is !== 'missing' && !than;
}

const NUMBERS: { readonly [kind: string]: RawBuilder<unknown> } = {
  whole: sql`bigint`,
  decimal: sql`numeric`,
  exact: sql`numeric`,
};

/** The text of an array (PostgreSQL documentation, 8.15.6). */
function arrayOf(values: readonly (Key[number] | undefined)[]): string {
  return `{${values.map(literal).join()}}`;
}

function literal(value: Key[number] | undefined): string {
  return typeof value === 'string' ? `"${/["\\]/.test(value) ? value.replaceAll(/["\\]/g, '\\$&') : value}"` : String(value);
}

/** An array of the type that numbers fit, or of the column's own, which the empty query tells. */
function typed({ column }: SqlTerm, values: unknown, table: SqlTable): RawBuilder<unknown> {
  const type = NUMBERS[column.kind];
  if (type) return sql`${values}::${type}[]`;
  return sql`coalesce(${values}, array(select ${column.ref} from ${table.ref} as t limit 0))`;
}

// What drivers make of these types depends on their settings; text does not.
const SHOWN: { readonly [kind: string]: (ref: RawBuilder<unknown>) => RawBuilder<unknown> } = {
  day: (ref) => sql`to_char(${ref}::date, 'YYYY-MM-DD')`,
  // ISO 8601, whatever DateStyle and TimeZone of the session are: with its offset, or (`timestamp`) without one, which is UTC.
  moment: (ref) => sql`to_json(${ref}) #>> '{}'`,
  exact: (ref) => sql`${ref}::text`,
};

/** SQLSTATE (PostgreSQL documentation, appendix A). */
const CODES: { readonly [code: string]: Violation['sort'] } = {
  23505: 'unique',
  23503: 'known',
  '23P01': 'overlap',
  23514: 'other',
};

function violation({ code, constraint, table, detail }: Violated): Violation | undefined {
  const sort = CODES[String(code)];
  if (sort === undefined) return undefined;
  const told = String(detail ?? '');
  // A row that is still referred to was to be deleted, or its key changed: no reference is missing.
  if (sort === 'known' && told.includes('still referenced')) return undefined;
  // "Key (lower(email), marina)=(…) already exists.": the columns stand in the first parentheses, whatever the language. The
  // values are somebody else's text, of any length.
  const from = told.indexOf('(') + 1;
  const to = told.indexOf(')=(', from);
  const list = from > 0 && to > 0 ? told.slice(from, to) : undefined;
  const refersTo = sort === 'known' ? lastQuoted(told) : undefined;
  return {
    sort,
    ...(typeof constraint === 'string' && { constraint }),
    ...(typeof table === 'string' && { table }),
    ...(list !== undefined && { columns: partsOf(list).map(columnIn) }),
    ...(refersTo !== undefined && { refersTo }),
  };
}

/** The last name in quotation marks, of whichever language: `… is not present in table "owners".` */
function lastQuoted(told: string): string | undefined {
  const MARKS = '"»«„“”\'';
  let end = told.length - 1;
  while (end >= 0 && !MARKS.includes(told[end] as string)) end--;
  let start = end - 1;
  while (start >= 0 && !MARKS.includes(told[start] as string)) start--;
  return start < 0 ? undefined : told.slice(start + 1, end);
}

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

/** The column of an index's expression: `email`, `"Email"`, `lower(email)`, `lower((email)::text)`. */
function columnIn(expression: string): string {
  const inner = /^\w+\(\(?(.+?)\)?(::[\w ]+)?\)$/.exec(expression)?.[1] ?? expression;
  return inner.replace(/^"(.*)"$/, '$1').replaceAll('""', '"');
}

function regclass({ schema, name }: SqlTable): RawBuilder<unknown> {
  const full = schema === undefined ? quoted(name) : `${quoted(schema)}.${quoted(name)}`;
  return sql`to_regclass(${full})`;
}

async function uniqueKeysOf(db: Database, table: SqlTable): Promise<UniqueKey[]> {
  const { rows } = await sql<{ name: string; within: string | null; expressions: string[]; folding: boolean[] }>`
    select c.relname as name, pg_get_expr(i.indpred, i.indrelid) as within,
      array(select pg_get_indexdef(i.indexrelid, n, true) from generate_series(1, i.indnkeyatts) n) as expressions,
      array(select not coalesce(l.collisdeterministic, true) or coalesce(a.atttypid::regtype::text = 'citext', false)
        from generate_series(1, i.indnkeyatts) n
        left join pg_collation l on l.oid = i.indcollation[n - 1]
        left join pg_attribute a on a.attrelid = i.indrelid and a.attnum = i.indkey[n - 1]) as folding
    from pg_index i join pg_class c on c.oid = i.indexrelid
    -- One that is still being built, or is looked at when the transaction ends, refuses nothing in time.
    where i.indisunique and i.indisvalid and i.indisready and i.indimmediate and i.indrelid = ${regclass(table)}`.execute(db);
  return rows.map(({ name, within, expressions, folding }) => ({
    name,
    ...(within !== null && { within }),
    columns: expressions.map((expression, at) => ({
      name: columnIn(expression),
      ignoresCase: folding[at] === true || expression.startsWith('lower('),
    })),
  }));
}
