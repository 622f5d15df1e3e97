import { type AliasNode, createQueryId, type IdentifierNode, type RawNode, sql, type TableNode } from 'kysely';
import { fault, nearest } from '../../../core/basics/fault.ts';
import type { StoredAs } from '../../../core/declared/kind.ts';
import type { Database, SqlColumn, SqlTable } from './database.ts';

/** Where a collection is kept, when its table or columns have other names. */
export interface TableNames {
  /** Defaults to the collection's name; `schema.table` for one in a schema. */
  readonly table?: string;
  /** Column of the collection to column of the table. Those left out keep their names. */
  readonly columns?: { readonly [column: string]: string };
}

/** Where collections are kept, when their tables have other names. */
export interface SqlOptions {
  /** Names in the database, by collection; a text is the name of the table. */
  readonly tables?: { readonly [collection: string]: TableNames | string };
  /** The table of the answers that `once` gives again, `schema.table` for one in a schema. Defaults to `jestril_answers`. */
  readonly answers?: string;
}

/** The names of collections in the database: those that the options give, as the plugins of the database write them. */
export class Names {
  readonly #given: { readonly [collection: string]: TableNames };
  readonly #tables = new Map<string, SqlTable>();
  readonly #columns = new Map<string, string>();

  /** @throws Fault for an option that is no name */
  constructor({ tables = {} }: SqlOptions) {
    this.#given = Object.fromEntries(Object.entries(tables).map(([collection, names]) => [collection, tableNames(collection, names)]));
  }

  /** The table of a collection, quoted as an identifier. */
  tableOf(db: Database, collection: string): SqlTable {
    const known = this.#tables.get(collection) ?? transformed(db, this.#given[collection]?.table ?? collection);
    this.#tables.set(collection, known);
    return known;
  }

  /** The table of a collection with its schema, as a person writes it. */
  fullName(db: Database, collection: string): string {
    const { schema, name } = this.tableOf(db, collection);
    return schema === undefined ? name : `${schema}.${name}`;
  }

  columnName(db: Database, collection: string, column: string): string {
    const key = `${collection}\n${column}`;
    const known = this.#columns.get(key) ?? transformedColumn(db, this.#given[collection]?.columns?.[column] ?? column);
    this.#columns.set(key, known);
    return known;
  }

  /** A column of a collection's table, qualified with the alias `t`. */
  columnOf(db: Database, collection: string, column: string, storedAs: StoredAs = 'any'): SqlColumn {
    const name = this.columnName(db, collection, column);
    return { name, storedAs, ref: sql`t.${sql.id(name)}` };
  }

  /** The collections kept in a table: those that say so, those that were asked of it, and the one of its name. */
  collectionsIn(db: Database, table: string): string[] {
    for (const collection of Object.keys(this.#given)) this.tableOf(db, collection);
    const told = [...this.#tables].filter(([, { name }]) => name === table).map(([collection]) => collection);
    return told.includes(table) || this.#tables.has(table) ? told : [...told, table];
  }

  /** The collection's word for a column of its table. */
  columnIn(db: Database, collections: readonly string[] | undefined, name: string): string {
    for (const collection of collections ?? Object.keys(this.#given)) {
      for (const column of Object.keys(this.#given[collection]?.columns ?? {})) this.columnName(db, collection, column);
      for (const [key, there] of this.#columns) {
        const [of, column] = key.split('\n') as [string, string];
        if (of === collection && there === name) return column;
      }
    }
    return name;
  }
}

function tableNames(collection: string, names: unknown): TableNames {
  const where = `The option "tables", "${collection}"`;
  if (typeof names === 'string') return { table: names };
  if (typeof names !== 'object' || names === null) fault(`${where}: it has to be the name of a table, or { table: …, columns: { … } }.`);
  for (const name of Object.keys(names))
    if (name !== 'table' && name !== 'columns') fault(`${where}: there is no option "${name}"; ${nearest(name, ['table', 'columns'])}`);
  return names;
}

/** A query of the application's own would go through these plugins; ours take the names that come out (`withSchema`, …). */
function transformed(db: Database, given: string): SqlTable {
  const { from } = db.getExecutor().transformQuery(db.selectFrom(given).toOperationNode(), createQueryId());
  const node = from?.froms[0];
  if (node?.kind !== 'TableNode') return namedTable(given);
  const { schema, identifier } = (node as TableNode).table;
  return { schema: schema?.name, name: identifier.name, ref: schema ? sql.id(schema.name, identifier.name) : sql.id(identifier.name) };
}

function namedTable(given: string): SqlTable {
  const dot = given.indexOf('.');
  return { schema: dot < 0 ? undefined : given.slice(0, dot), name: given.slice(dot + 1), ref: sql.table(given) };
}

function transformedColumn(db: Database, given: string): string {
  const query = db.selectFrom('t').select(sql.id(given).as('c'));
  const { selections } = db.getExecutor().transformQuery(query.toOperationNode(), createQueryId());
  // `sql.id` keeps dots and blanks of a name as they are.
  const alias = selections?.[0]?.selection as AliasNode | undefined;
  const identifier = (alias?.node as RawNode | undefined)?.parameters[0] as IdentifierNode | undefined;
  return identifier?.kind === 'IdentifierNode' ? identifier.name : given;
}
