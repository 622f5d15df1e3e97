import { sql } from 'kysely';
import { fault, nearest } from '../../core/fault.ts';
import type { SqlColumn, SqlTable } from './dialect.ts';

/** Where a collection is kept, when its table or columns have other names. */
export interface TableNames {
  /** Defaults to the collection's name; `schema.table` for one in a schema. */
  readonly table?: string;
  /** Column of the collection to column of the table. Those left out keep their names. */
  readonly columns?: { readonly [column: string]: string };
}

export interface SqlOptions {
  /** Names in the database, by collection; a text is the name of the table. */
  readonly tables?: { readonly [collection: string]: TableNames | string };
}

/** The options with every table's names as an object; a fault for what is no name. */
export function namesIn({ tables = {}, ...rest }: SqlOptions): KnownOptions {
  const known = Object.entries(tables).map(([collection, names]): [string, TableNames] => {
    const where = `The option "tables", "${collection}"`;
    if (typeof names === 'string') return [collection, { table: names }];
    if (typeof names !== 'object' || names === null) fault(`${where}: it has to be the name of a table, or { table: …, columns: { … } }.`);
    for (const name of Object.keys(names))
      if (name !== 'table' && name !== 'columns') fault(`${where}: there is no option "${name}"; ${nearest(name, ['table', 'columns'])}`);
    return [collection, names];
  });
  return { ...rest, tables: Object.fromEntries(known) };
}

export interface KnownOptions {
  readonly tables: { readonly [collection: string]: TableNames };
}

/** The table of a collection, quoted as an identifier. */
export function tableOf({ tables }: KnownOptions, collection: string): SqlTable {
  const name = tables[collection]?.table ?? collection;
  const dot = name.indexOf('.');
  return dot < 0
    ? { schema: undefined, name, ref: sql.table(name) }
    : { schema: name.slice(0, dot), name: name.slice(dot + 1), ref: sql.table(name) };
}

export function columnName({ tables }: KnownOptions, collection: string, column: string): string {
  return tables[collection]?.columns?.[column] ?? column;
}

/** A column of a collection's table, qualified with the alias `t`. */
export function columnOf(options: KnownOptions, collection: string, column: string, kind: string): SqlColumn {
  const name = columnName(options, collection, column);
  return { name, kind, ref: sql.ref(`t.${name}`) };
}

/** The collections kept in a table: those that say so, and the one of its name. */
export function collectionsIn({ tables }: KnownOptions, table: string): string[] {
  const bare = (name: string) => name.slice(name.indexOf('.') + 1);
  const told = Object.keys(tables).filter((collection) => bare(tables[collection]?.table ?? collection) === table);
  return told.includes(table) || tables[table]?.table !== undefined ? told : [...told, table];
}

/** The collection's word for a column of its table. */
export function columnIn({ tables }: KnownOptions, collections: readonly string[], name: string): string {
  for (const collection of collections) {
    for (const [column, there] of Object.entries(tables[collection]?.columns ?? {})) if (there === name) return column;
  }
  return name;
}
