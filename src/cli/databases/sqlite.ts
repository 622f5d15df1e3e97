import { resolve } from 'node:path';
import type { SqliteDatabase } from 'kysely';
import type { Database } from '../../records/sql/tables/database.ts';
import { packageOf } from '../basics/package-of.ts';
import { asJson, type DatabaseSort } from './sort.ts';

export const sqlite: DatabaseSort = {
  shown: 'file.db',
  isFile: true,
  isAddress: (text) => text.startsWith('sqlite://') || /\.(db|sqlite3?)$/i.test(text),

  /** Opens a file, or makes it. */
  async open(address) {
    const file = fileOf(address);
    const { Kysely, SqliteDialect } = await packageOf<typeof import('kysely')>('kysely', file);
    const { default: Sqlite } = await packageOf<{ readonly default: new (file: string) => SqliteDatabase }>('libsql', file);
    const { sqliteRecords } = await import('../../records/sql/index.ts');
    const db: Database = new Kysely({ dialect: new SqliteDialect({ database: withKeptStatements(new Sqlite(file)) }) });
    return { db, records: sqliteRecords(db) };
  },

  inspector: async () => (await import('../../records/sql/sqlite/inspector.ts')).sqliteInspector,

  async columnsOf(own, db, { name }) {
    const { rows } = await own<{ name: string; type: string; notnull: number; filled: string | null; pk: number }>`
      select name as name, type as type, "notnull" as "notnull", dflt_value as filled, pk as pk from pragma_table_info(${name})`.execute(
      db,
    );
    return rows.map(({ name: column, type, notnull, filled, pk }) => ({
      name: column,
      type: type.toLowerCase(),
      isNeeded: notnull === 1 || pk > 0,
      isFilled: filled !== null || (pk === 1 && /^integer$/i.test(type) && rows.filter((row) => row.pk > 0).length === 1),
      isKey: pk > 0,
      options: [],
    }));
  },

  written: (value) => (typeof value === 'boolean' ? Number(value) : asJson(value)),
  longText: 'text',
};

/** The file that an address names. */
export function fileOf(address: string): string {
  return resolve(address.replace(/^sqlite:\/\//, ''));
}

/** Statements that are kept at most. */
const MOST_KEPT = 100;

/** A database that prepares each statement once: what one holds, its parameters among it, is not seen by whoever collects garbage. */
function withKeptStatements(database: SqliteDatabase): SqliteDatabase {
  const kept = new Map<string, ReturnType<SqliteDatabase['prepare']>>();
  return {
    prepare(text) {
      const statement = kept.get(text) ?? database.prepare(text);
      if (kept.size >= MOST_KEPT) kept.clear();
      kept.set(text, statement);
      return statement;
    },
    close: () => database.close(),
  };
}
