import { sql } from 'kysely';
import { nearest } from '../../core/basics/fault.ts';
import type { StoredAs } from '../../core/declared/kind.ts';
import type { ToldKind } from '../../core/declared/told-kind.ts';
import { readFrom } from '../../core/kinds/told.ts';
import type { SqlTable } from '../../records/sql/tables/database.ts';
import type { Reference, UniqueKey } from '../../records/sql/tables/inspector.ts';
import { Misuse } from '../basics/misuse.ts';
import type { ColumnFacts, OpenedDatabase } from '../databases/sort.ts';

/** What a table declares. */
export interface TableFound {
  readonly table: SqlTable;
  readonly columns: readonly ColumnFacts[];
  readonly unique: readonly UniqueKey[];
  readonly references: readonly Reference[];
}

/** @throws Misuse when there is no such table */
export async function tableIn({ sort, db }: OpenedDatabase, named: string): Promise<TableFound> {
  const dot = named.indexOf('.');
  const schema = dot < 0 ? undefined : named.slice(0, dot);
  const name = named.slice(dot + 1);
  const table: SqlTable = { schema, name, ref: schema === undefined ? sql.id(name) : sql.id(schema, name) };
  const columns = await sort.columnsOf(sql, db, table);
  if (columns.length === 0) {
    const tables = await db.introspection.getTables();
    throw new Misuse(
      `There is no table ${named}; ${nearest(
        named,
        tables.map((each) => each.name),
      )}`,
    );
  }
  const inspector = await sort.inspector();
  return { table, columns, unique: await inspector.uniqueKeysOf(db, table), references: await inspector.referencesOf(db, table) };
}

/** What columns keep, by the types that databases name. Of several values at once, and of what is not known here, there is no kind. */
const STORED: readonly (readonly [type: RegExp, storedAs?: StoredAs])[] = [
  [/\[\]$|range$|^set\b/],
  [/^(bool|boolean|tinyint\(1\))/, 'boolean'],
  [/^(big|small|medium|tiny)?int(eger)?\b|^int\d|serial|^year/, 'integer'],
  [/^(numeric|decimal|dec\b|money)/, 'numeric'],
  [/^(real|double|float)/, 'real'],
  [/^(timestamp|datetime)/, 'timestamp'],
  [/^date/, 'date'],
  [/^time/, 'time'],
  [/^json/, 'json'],
  // SQLite has columns without a type.
  [/char|text|clob|string|^(enum|uuid|name|inet6?|cidr|macaddr8?)\b|^$/, 'text'],
];

/** The kind of a column by its type, where there is one. */
export function kindOfType(type: string): ToldKind | undefined {
  const storedAs = STORED.find(([pattern]) => pattern.test(type))?.[1];
  return storedAs && readFrom(storedAs);
}
