import { type RawBuilder, sql } from 'kysely';

/** Where a collection is kept, when its table or columns have other names. */
export interface TableNames {
  /** Defaults to the collection's name; `schema.table` for one in a schema. */
  readonly table?: string;
  /** Column of the collection to column of the table. Those left out keep their names. */
  readonly columns?: { readonly [column: string]: string };
}

export interface SqlOptions {
  /** Names in the database, by collection. */
  readonly tables?: { readonly [collection: string]: TableNames };
}

/** The table of a collection, quoted as an identifier. */
export function tableOf({ tables }: SqlOptions, collection: string): RawBuilder<unknown> {
  return sql.table(tables?.[collection]?.table ?? collection);
}

/** A column of a collection's table, qualified with the alias `t`. */
export function columnOf({ tables }: SqlOptions, collection: string, column: string): RawBuilder<unknown> {
  return sql.ref(`t.${tables?.[collection]?.columns?.[column] ?? column}`);
}
