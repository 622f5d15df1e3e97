import { sql } from 'kysely';
import { createUniqueIndex, selected } from '../checking/creating.ts';
import type { Database, SqlTable } from '../tables/database.ts';
import type { Inspector, KeyColumn, Reference, TableFacts, UniqueKey } from '../tables/inspector.ts';
import { quoted } from '../tables/writing.ts';

export const sqliteInspector: Inspector = {
  quote: quoted,
  describe,
  uniqueKeysOf,
  rowOf: (_table, values) => selected(values),
  createUnique: (table, need, nameOf, name) =>
    createUniqueIndex(table, need, nameOf, name, (column) => `${quoted(column)} collate nocase`, { hasPartial: true }),
  namesOnly: false,
  referencesOf,
  async enforcing(db) {
    const { rows } = await sql<{ foreign_keys: number }>`pragma foreign_keys`.execute(db);
    return rows[0]?.foreign_keys === 1 ? undefined : 'pragma foreign_keys = on';
  },
  // SQLite declares foreign keys where a table is made.
  addsReferences: false,
  foldsCase: async (db, { name }, column) => (await collationOf(db, name, column)) === 'nocase',
};

async function describe(db: Database, { name }: SqlTable): Promise<TableFacts | undefined> {
  const { rows } = await sql<{ name: string; type: string; notnull: number; pk: number; kind: string }>`
    select c.name as name, c.type as type, c."notnull" as "notnull", c.pk as pk, l.type as kind
    from pragma_table_info(${name}) as c join pragma_table_list(${name}) as l`.execute(db);
  if (rows.length === 0) return undefined;
  return {
    columns: new Map(rows.map((row) => [row.name, { type: row.type, mayBeMissing: row.notnull === 0 && row.pk === 0 }])),
    isView: rows.some(({ kind }) => kind === 'view'),
    partedBy: [],
  };
}

async function referencesOf(db: Database, { name }: SqlTable): Promise<Reference[]> {
  const { rows } = await sql<{ id: number; table: string; from: string; to: string | null }>`
    select id as "id", "table" as "table", "from" as "from", "to" as "to" from pragma_foreign_key_list(${name}) order by id, seq`.execute(
    db,
  );
  const references = new Map<number, Reference>();
  for (const { id, table, from, to } of rows) {
    const known = references.get(id);
    references.set(id, {
      table,
      columns: [...(known?.columns ?? []), from],
      referred: [...(known?.referred ?? []), ...(to === null ? [] : [to])],
    });
  }
  return [...references.values()];
}

async function uniqueKeysOf(db: Database, { name }: SqlTable): Promise<UniqueKey[]> {
  const { rows } = await sql<{ index: string; partial: number; made: string | null; column: string | null; collation: string }>`
    select l.name as "index", l.partial as "partial", m.sql as "made", x.name as "column", x.coll as "collation"
    from pragma_index_list(${name}) as l join pragma_index_xinfo(l.name) as x left join sqlite_master as m on m.name = l.name
    where l."unique" = 1 and x."key" = 1 order by l.seq, x.seqno`.execute(db);
  const keys = new Map<string, UniqueKey>();
  const collations = new Map<string, string>();
  for (const { column } of rows)
    if (column !== null && !collations.has(column)) collations.set(column, await collationOf(db, name, column));
  for (const { index, partial, made, column, collation } of rows) {
    const key = keys.get(index) ?? { name: index, columns: [], ...(partial === 1 && { within: predicateIn(made ?? '') }) };
    keys.set(index, {
      ...key,
      columns: [...key.columns, keyColumn(column ?? '', collation.toLowerCase(), collations.get(column ?? '') ?? 'binary')],
    });
  }
  // A whole-number key is the row's own number, and stands in no index.
  const primary = await sql<{ name: string }>`select name as name from pragma_table_info(${name}) where pk > 0`.execute(db);
  const own = primary.rows.map((row) => ({ name: row.name, ignoresCase: false }));
  return own.length > 0 ? [...keys.values(), { name: 'primary key', columns: own }] : [...keys.values()];
}

function keyColumn(name: string, collation: string, own: string): KeyColumn {
  return { name, ignoresCase: collation === 'nocase', ...(own !== 'binary' && own !== collation && { isNarrower: true }) };
}

/** No pragma tells a column's collation; how it compares does. */
async function collationOf(db: Database, table: string, column: string): Promise<string> {
  const values = sql`(select ${sql.ref(column)} as v from ${sql.table(table)} where 0 union all select 'a')`;
  const { rows } = await sql<{ nocase: number; rtrim: number }>`select v = 'A' as nocase, v = 'a ' as rtrim from ${values}`.execute(db);
  return rows[0]?.nocase === 1 ? 'nocase' : rows[0]?.rtrim === 1 ? 'rtrim' : 'binary';
}

/** SQLite keeps the predicate of an index in the statement that made it only. One that is not found there is a promise of nothing. */
function predicateIn(statement: string): string {
  const at = statement.search(/\)\s*where\s/i);
  return at < 0 ? 'false' : statement.slice(at + 1).replace(/^\s*where/i, '');
}
