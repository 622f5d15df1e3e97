import { type RawBuilder, sql } from 'kysely';
import type { UniqueNeed } from '../../../core/stored/records.ts';
import { createUniqueIndex, qualified, selected } from '../checking/creating.ts';
import { assignedIn } from '../tables/assigned-in.ts';
import type { Database, SqlTable } from '../tables/database.ts';
import type { ColumnFacts } from '../tables/dialect.ts';
import type { Inspector, Reference, TableFacts, UniqueKey } from '../tables/inspector.ts';
import { namesIn } from '../tables/names-in.ts';
import { backquoted } from './writing.ts';

export const mysqlInspector: Inspector = {
  quote: backquoted,
  describe,
  uniqueKeysOf,
  rowOf: (_table, values) => selected(values),
  createUnique,
  namesOnly: true,
  referencesOf,
  async enforcing(db) {
    const { rows } = await sql<{ on: unknown }>`select @@foreign_key_checks as ${sql.ref('on')}`.execute(db);
    return Number(rows[0]?.on) === 1 ? undefined : 'set foreign_key_checks = 1';
  },
  addsReferences: true,
  foldsCase: async (db, table, column) => foldsCase((await learn(db, table)).get(column)?.collation),
};

/** A key takes letters of either case for the same where its column does; elsewhere a column of its own has them in one case. */
function createUnique(
  table: string,
  need: UniqueNeed,
  nameOf: (column: string) => string,
  name: string,
  folds: (column: string) => boolean,
): string {
  const made = need.ignoringCase.filter((column) => !folds(column));
  const nameOfKey = (column: string) => (made.includes(column) ? `${nameOf(column)}_folded` : nameOf(column));
  const key = createUniqueIndex(table, need, nameOfKey, name, backquoted, { hasPartial: false, quote: backquoted });
  if (made.length === 0) return key;
  const alter = `alter table ${qualified(table, backquoted)} `;
  const columns = made.map(
    (column) => `add column ${backquoted(nameOfKey(column))} varchar(255) as (lower(${backquoted(nameOf(column))}))`,
  );
  const create = `create unique index ${backquoted(name)} on ${qualified(table, backquoted)}`;
  const added = key.startsWith(alter) ? key.slice(alter.length) : `add unique key ${backquoted(name)}${key.slice(create.length)}`;
  return `${alter}${[...columns, added].join(', ')}`;
}

function schemaOf({ schema }: SqlTable): RawBuilder<unknown> {
  return schema === undefined ? sql`database()` : sql`${schema}`;
}

export function foldsCase(collation: string | undefined): boolean {
  return collation?.endsWith('_ci') ?? false;
}

/** Types and collations, which keys are given to be compared as the column is. */
export async function learn(db: Database, table: SqlTable): Promise<ColumnFacts> {
  const { rows } = await sql<{
    name: string;
    collation: string | null;
    length: number | string | null;
    type: string;
    digits: number | string | null;
    isCut: unknown;
    engine: string | null;
    backslashes: unknown;
  }>`
    select column_name as name, collation_name as collation, character_maximum_length as length, lower(data_type) as ${sql.ref('type')},
      coalesce(datetime_precision, numeric_scale) as digits,
      (version() like '%MariaDB%' and @@sql_mode not like '%TIME_ROUND_FRACTIONAL%') as ${sql.ref('isCut')},
      @@sql_mode like '%NO_BACKSLASH_ESCAPES%' as backslashes,
      (select e.engine from information_schema.engines e join information_schema.tables t on t.engine = e.engine
        where t.table_schema = c.table_schema and t.table_name = c.table_name and e.transactions <> 'YES') as engine
    from information_schema.columns c where table_schema = ${schemaOf(table)} and table_name = ${table.name}`.execute(db);
  const { engine, backslashes } = rows[0] ?? {};
  const facts = new Map(
    rows
      .filter(({ collation }) => collation === null || /^\w+$/.test(collation))
      .map(({ name, collation, length, type, digits, isCut }) => [
        name,
        {
          type,
          isRough: type === 'float',
          ...(collation !== null && { collation }),
          ...(length !== null && { length: Number(length) }),
          ...(digits !== null && { digits: Number(digits), isCut: Number(isCut) === 1 }),
        },
      ]),
  );
  return Object.assign(facts, { ...(engine && { engine }), takesBackslashes: Number(backslashes) === 1 });
}

async function describe(db: Database, table: SqlTable): Promise<TableFacts | undefined> {
  const { rows } = await sql<{ name: string; type: string; missing: string; kind: string; engine: string | null }>`
    select c.column_name as name, lower(c.data_type) as ${sql.ref('type')}, c.is_nullable as missing, t.table_type as kind,
      (select e.engine from information_schema.engines e where e.engine = t.engine and e.transactions <> 'YES') as engine
    from information_schema.columns c join information_schema.tables t on t.table_schema = c.table_schema and t.table_name = c.table_name
    where c.table_schema = ${schemaOf(table)} and c.table_name = ${table.name}`.execute(db);
  if (rows.length === 0) return undefined;
  return {
    columns: new Map(rows.map(({ name, type, missing }) => [name, { type, mayBeMissing: missing === 'YES' }])),
    isView: rows.some(({ kind }) => kind.includes('VIEW')),
    partedBy: await partedBy(db, table),
    ...(rows[0]?.engine && { engine: rows[0].engine }),
    rewritten: await rewritten(db, table),
  };
}

/** Columns that triggers assign before a row is stored. */
async function rewritten(db: Database, table: SqlTable): Promise<string[]> {
  const { rows } = await sql<{ body: string }>`
    select action_statement as body from information_schema.triggers
    where event_object_schema = ${schemaOf(table)} and event_object_table = ${table.name} and action_timing = 'BEFORE'
      and event_manipulation in ('INSERT', 'UPDATE')`.execute(db);
  return rows.flatMap(({ body }) => assignedIn(body));
}

/** Columns named by the expressions that part the table. */
async function partedBy(db: Database, table: SqlTable): Promise<string[]> {
  const { rows } = await sql<{ expression: string | null }>`
    select distinct concat_ws(',', partition_expression, subpartition_expression) as expression from information_schema.partitions
    where table_schema = ${schemaOf(table)} and table_name = ${table.name} and partition_name is not null`.execute(db);
  return rows.flatMap(({ expression }) => namesIn(expression ?? ''));
}

async function referencesOf(db: Database, table: SqlTable): Promise<Reference[]> {
  const { rows } = await sql<{ key: string; column: string; table: string; referred: string }>`
    select constraint_name as ${sql.ref('key')}, column_name as ${sql.ref('column')}, referenced_table_name as ${sql.ref('table')},
      referenced_column_name as referred from information_schema.key_column_usage
    where referenced_table_name is not null and table_schema = ${schemaOf(table)} and table_name = ${table.name}
    order by constraint_name, ordinal_position`.execute(db);
  const references = new Map<string, Reference>();
  for (const { key, column, table: other, referred } of rows) {
    const known = references.get(key);
    references.set(key, {
      table: other,
      columns: [...(known?.columns ?? []), column],
      referred: [...(known?.referred ?? []), referred],
    });
  }
  return [...references.values()];
}

/** A column that has another one in lower case. */
const FOLDED = /^\(?(?:lower|lcase)\(`([^`]+)`\)\)?$/i;

async function uniqueKeysOf(db: Database, table: SqlTable): Promise<UniqueKey[]> {
  const { rows } = await sql<{ index: string; column: string | null; made: string | null; cut: number | string | null }>`
    select s.index_name as ${sql.ref('index')}, s.column_name as ${sql.ref('column')}, c.generation_expression as made, s.sub_part as cut
    from information_schema.statistics s left join information_schema.columns c
      on c.table_schema = s.table_schema and c.table_name = s.table_name and c.column_name = s.column_name
    where s.non_unique = 0 and s.table_schema = ${schemaOf(table)} and s.table_name = ${table.name}
    order by s.index_name, s.seq_in_index`.execute(db);
  const known = await learn(db, table);
  const keys = new Map<string, UniqueKey>();
  for (const { index, column, made, cut } of rows) {
    const name = column ?? '';
    const key = keys.get(index) ?? { name: index, columns: [] };
    const folded = FOLDED.exec(made ?? '')?.[1];
    const own = folded === undefined ? { name, ignoresCase: foldsCase(known.get(name)?.collation) } : { name: folded, ignoresCase: true };
    const more = { ...(made && folded === undefined && { within: `(${made}) is not null` }), ...(cut !== null && { isCut: true }) };
    keys.set(index, { ...key, columns: [...key.columns, { ...own, ...more }] });
  }
  return [...keys.values()];
}
