import { type RawBuilder, sql } from 'kysely';
import type { StoredAs } from '../../../core/declared/kind.ts';
import { createExclusion, createUniqueIndex, qualified } from '../checking/creating.ts';
import { assignedIn } from '../tables/assigned-in.ts';
import type { Database, SqlColumn, SqlTable } from '../tables/database.ts';
import type { Exclusion, Inspector, Reference, TableFacts, UniqueKey } from '../tables/inspector.ts';
import { quoted } from '../tables/writing.ts';

export const postgresInspector: Inspector = {
  quote: quoted,
  describe,
  misfit,
  uniqueKeysOf,
  rowOf: (table, values) =>
    sql`jsonb_populate_record(null::${table.ref}, cast(${JSON.stringify(Object.fromEntries(values))} as jsonb)) as r`,
  createUnique: (table, need, nameOf, name) =>
    createUniqueIndex(table, need, nameOf, name, (column) => `lower(${quoted(column)})`, { hasPartial: true }),
  namesOnly: false,
  referencesOf,
  addsReferences: true,
  exclusionsOf,
  createExclusion,
  foldsCase,
  requirePresence: (table, column) => `alter table ${qualified(table, quoted)} alter column ${quoted(column)} set not null`,
};

async function describe(db: Database, table: SqlTable): Promise<TableFacts | undefined> {
  const { rows } = await sql<{ name: string; type: string; missing: boolean; kind: string; parted: boolean; inherited: boolean }>`
    select a.attname as name, format_type(a.atttypid, null) as type, not a.attnotnull as missing, c.relkind as kind,
      coalesce(a.attnum = any(p.partattrs::int2[]), false) as parted,
      c.relkind = 'r' and exists (select 1 from pg_inherits i where i.inhparent = c.oid) as inherited
    from pg_attribute a join pg_class c on c.oid = a.attrelid left join pg_partitioned_table p on p.partrelid = c.oid
    where a.attrelid = ${regclass(table)} and a.attnum > 0 and not a.attisdropped`.execute(db);
  if (rows.length === 0) return undefined;
  return {
    columns: new Map(rows.map(({ name, type, missing }) => [name, { type, mayBeMissing: missing }])),
    isView: rows.some(({ kind }) => kind === 'v' || kind === 'm' || kind === 'f'),
    partedBy: rows.filter(({ parted }) => parted).map(({ name }) => name),
    isInherited: rows.some(({ inherited }) => inherited),
    rewritten: await rewritten(db, table),
  };
}

/** Columns that functions of triggers assign before a row is stored. */
async function rewritten(db: Database, table: SqlTable): Promise<string[]> {
  const { rows } = await sql<{ body: string }>`
    select p.prosrc as body from pg_trigger t join pg_proc p on p.oid = t.tgfoid
    -- For each row (1), before (2), on insert (4) or update (16).
    where t.tgrelid = ${regclass(table)} and not t.tgisinternal and t.tgenabled <> 'D' and t.tgtype & 3 = 3 and t.tgtype & 20 > 0`.execute(
    db,
  );
  return rows.flatMap(({ body }) => assignedIn(body));
}

async function foldsCase(db: Database, table: SqlTable, column: string): Promise<boolean> {
  const { rows } = await sql<{ folds: boolean }>`
    select not coalesce(l.collisdeterministic, true) or format_type(a.atttypid, null) = 'citext' as folds
    from pg_attribute a left join pg_collation l on l.oid = a.attcollation
    where a.attrelid = ${regclass(table)} and a.attname = ${column}`.execute(db);
  return rows[0]?.folds === true;
}

const NUMERIC = /^(smallint|integer|bigint|numeric|real|double precision)$/;
/** The types of columns that keep it. */
const TYPES: { readonly [S in StoredAs]?: RegExp } = {
  text: /^(text|character)/,
  integer: NUMERIC,
  real: NUMERIC,
  numeric: /^(smallint|integer|bigint|numeric)$/,
  boolean: /^boolean$/,
  date: /^(date|timestamp|text|character)/,
  timestamp: /^timestamp/,
  time: /^time /,
};

/** A domain, or a type of the application's own, may hold anything. */
const BUILT_IN = new RegExp(`${NUMERIC.source}|^(boolean|date|timestamp.*|time .*|text|character.*|json|jsonb|bytea)$`);

function misfit({ storedAs, name }: SqlColumn, type: string): string | undefined {
  const fitting = TYPES[storedAs];
  if (!fitting || !BUILT_IN.test(type) || fitting.test(type)) return undefined;
  return `"${name}" is of type ${type}, and they take it for ${storedAs}.`;
}

/** The column of an index's expression: `email`, `"Email"`, `lower(email)`, `lower((email)::text)`. */
export function columnIn(expression: string): string {
  const inner = /^\w+\(\(?(.+?)\)?(::[\w ]+)?\)$/.exec(expression)?.[1] ?? expression;
  return inner.replace(/^"(.*)"$/, '$1').replaceAll('""', '"');
}

export function regclass({ schema, name }: SqlTable): RawBuilder<unknown> {
  const full = schema === undefined ? quoted(name) : `${quoted(schema)}.${quoted(name)}`;
  return sql`to_regclass(${full})`;
}

async function uniqueKeysOf(db: Database, table: SqlTable): Promise<UniqueKey[]> {
  const { rows } = await sql<{ name: string; within: string | null; expressions: string[]; folding: boolean[]; narrower: boolean[] }>`
    select c.relname as name, pg_get_expr(i.indpred, i.indrelid) as within,
      array(select pg_get_indexdef(i.indexrelid, n, true) from generate_series(1, i.indnkeyatts) n) as expressions,
      array(select not coalesce(l.collisdeterministic, true) or coalesce(a.atttypid::regtype::text = 'citext', false)
        from generate_series(1, i.indnkeyatts) n
        left join pg_collation l on l.oid = i.indcollation[n - 1]
        left join pg_attribute a on a.attrelid = i.indrelid and a.attnum = i.indkey[n - 1] order by n) as folding,
      array(select coalesce(not own.collisdeterministic and own.oid <> i.indcollation[n - 1], false)
        from generate_series(1, i.indnkeyatts) n
        left join pg_attribute a on a.attrelid = i.indrelid and a.attnum = i.indkey[n - 1]
        left join pg_collation own on own.oid = a.attcollation order by n) as narrower
    from pg_index i join pg_class c on c.oid = i.indexrelid
    -- One that is still being built, or is looked at when the transaction ends, refuses nothing in time.
    where i.indisunique and i.indisvalid and i.indisready and i.indimmediate and i.indrelid = ${regclass(table)}`.execute(db);
  return rows.map(({ name, within, expressions, folding, narrower }) => ({
    name,
    ...(within !== null && { within }),
    columns: expressions.map((expression, at) => ({
      name: columnIn(expression),
      ignoresCase: folding[at] === true || expression.startsWith('lower('),
      ...(narrower[at] === true && { isNarrower: true }),
    })),
  }));
}

async function referencesOf(db: Database, table: SqlTable): Promise<Reference[]> {
  const names = (relation: RawBuilder<unknown>, numbers: RawBuilder<unknown>) =>
    sql`array(select a.attname::text from unnest(${numbers}) with ordinality as k(n, at) join pg_attribute a on a.attrelid = ${relation} and a.attnum = k.n order by k.at)`;
  const { rows } = await sql<{ table: string; columns: string[]; referred: string[] }>`
    select c.relname as table, ${names(sql`f.conrelid`, sql`f.conkey`)} as columns, ${names(sql`f.confrelid`, sql`f.confkey`)} as referred
    from pg_constraint f join pg_class c on c.oid = f.confrelid
    -- One that is looked at when the transaction ends refuses nothing in time.
    where f.contype = 'f' and not f.condeferred
      -- Triggers keep a reference, and somebody may have switched them off.
      and not exists (select 1 from pg_trigger t where t.tgconstraint = f.oid and t.tgenabled = 'D') and f.conrelid = ${regclass(table)}`.execute(
    db,
  );
  return rows;
}

async function exclusionsOf(db: Database, table: SqlTable): Promise<Exclusion[]> {
  const { rows } = await sql<{ within: string | null; expressions: string[]; operators: string[] }>`
    select pg_get_expr(i.indpred, i.indrelid) as within,
      array(select pg_get_indexdef(i.indexrelid, n, true) from generate_series(1, i.indnkeyatts) n) as expressions,
      array(select o.oprname::text from unnest(x.conexclop) with ordinality as e(operator, at) join pg_operator o on o.oid = e.operator order by e.at) as operators
    from pg_constraint x join pg_index i on i.indexrelid = x.conindid
    where x.contype = 'x' and not x.condeferred and i.indisvalid and x.conrelid = ${regclass(table)}`.execute(db);
  return rows.flatMap(({ within, expressions, operators }): Exclusion[] => {
    const ranges = expressions.filter((_, at) => operators[at] === '&&');
    const alike = expressions.filter((_, at) => operators[at] === '=');
    const [range] = ranges;
    if (range === undefined || ranges.length + alike.length !== expressions.length) return [];
    // A range of days or numbers has its end left out unless it says otherwise.
    return [{ alike: alike.map(columnIn), range: ranges.join(), touching: /'\[\]'/.test(range), ...(within !== null && { within }) }];
  });
}
