import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import type { SqliteDatabase } from 'kysely';
import type { SqlRecords } from '../../records/sql/records.ts';
import type { Database } from '../../records/sql/tables/database.ts';
import { Misuse } from '../basics/misuse.ts';
import { packageOf } from '../basics/package-of.ts';

/** A database, opened with the driver that the application has installed. */
export interface OpenedDatabase {
  readonly dialect: 'postgres' | 'mysql' | 'sqlite';
  readonly db: Database;
  readonly records: SqlRecords;
  close(): Promise<void>;
}

const SQLITE_FILE = /\.(db|sqlite3?)$/i;

/** Whether a text names a database rather than a file of data. */
export function isDatabase(path: string): boolean {
  return /^(postgres(ql)?|mysql|mariadb|sqlite):\/\//.test(path) || SQLITE_FILE.test(path);
}

/** Opens `postgres://…`, `mysql://…` or an SQLite file, with Kysely. */
export async function databaseAt(url: string): Promise<OpenedDatabase> {
  const { Kysely, MysqlDialect, PostgresDialect } = await packageOf<typeof import('kysely')>('kysely', withoutPassword(url));
  const sql = await import('../../records/sql/index.ts');
  if (/^postgres(ql)?:/.test(url)) {
    const { default: pg } = await packageOf<{ readonly default: typeof import('pg') }>('pg', withoutPassword(url));
    const pool = new pg.Pool({ connectionString: url, max: 4 });
    // A connection that breaks while nobody uses it is no reason to end: the next question opens another, or says that it cannot.
    pool.on('error', () => undefined);
    const db = new Kysely<never>({ dialect: new PostgresDialect({ pool }) }) as unknown as Database;
    return opened('postgres', db, sql.postgresRecords(db), url);
  }
  if (/^(mysql|mariadb):/.test(url)) {
    const { createPool } = await packageOf<typeof import('mysql2')>('mysql2', withoutPassword(url));
    const pool = createPool({ uri: url.replace(/^mariadb:/, 'mysql:'), connectionLimit: 4, dateStrings: true });
    const db = new Kysely<never>({ dialect: new MysqlDialect({ pool: pool as never }) }) as unknown as Database;
    return opened('mysql', db, sql.mysqlRecords(db), url);
  }
  const file = resolve(url.replace(/^sqlite:\/\//, ''));
  if (!existsSync(file)) throw new Misuse(`There is no file ${url}.`);
  return sqliteAt(file);
}

/** Opens an SQLite file, or makes it. */
export async function sqliteAt(file: string): Promise<OpenedDatabase> {
  const { Kysely, SqliteDialect } = await packageOf<typeof import('kysely')>('kysely', file);
  const { default: Sqlite } = await packageOf<{ readonly default: new (file: string) => SqliteDatabase }>('libsql', file);
  const { sqliteRecords } = await import('../../records/sql/index.ts');
  const db = new Kysely<never>({ dialect: new SqliteDialect({ database: withKeptStatements(new Sqlite(file)) }) }) as unknown as Database;
  return opened('sqlite', db, sqliteRecords(db), file);
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

async function opened(dialect: OpenedDatabase['dialect'], db: Database, records: SqlRecords, url: string): Promise<OpenedDatabase> {
  try {
    const { sql } = await packageOf<typeof import('kysely')>('kysely', withoutPassword(url));
    await sql`select 1`.execute(db);
  } catch (cause) {
    await db.destroy();
    throw new Misuse(`${withoutPassword(url)} cannot be opened: ${(cause as Error).message || (cause as { code?: string }).code}.`);
  }
  return { dialect, db, records, close: () => db.destroy() };
}

/** An address as it may be shown. */
export function withoutPassword(url: string): string {
  return url.replace(/^([a-z]+:\/\/[^:@/]*):[^@]*@/, '$1@');
}
