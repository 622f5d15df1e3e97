import { mysqlRecords, postgresRecords, sqliteRecords } from 'jestril/sql';
import { Kysely, type LogEvent, MysqlDialect, PostgresDialect, SqliteDialect } from 'kysely';
import Database from 'libsql';
import { createPool } from 'mysql2';
import pg from 'pg';

export type StoreName = 'SQLite' | 'PostgreSQL' | 'MariaDB';

// biome-ignore lint/suspicious/noExplicitAny: tables of a test
export type Db = Kysely<any>;

/** Connects to a database that is there. */
export function connect(name: StoreName, address: string, connections = 4, log?: (event: LogEvent) => void): Db {
  switch (name) {
    case 'SQLite': {
      const database = new Database(address);
      for (const pragma of ['journal_mode = wal', 'busy_timeout = 10000', 'foreign_keys = on']) database.exec(`pragma ${pragma}`);
      return new Kysely({ ...(log && { log }), dialect: new SqliteDialect({ database: database as never }) });
    }
    case 'PostgreSQL': {
      const pool = new pg.Pool({ connectionString: address, max: connections });
      // A connection that breaks is replaced, and what it was asked is rejected; without these the process would end.
      pool.on('error', () => undefined);
      pool.on('connect', (client) => client.on('error', () => undefined));
      return new Kysely({ ...(log && { log }), dialect: new PostgresDialect({ pool }) });
    }
    case 'MariaDB':
      return new Kysely({
        ...(log && { log }),
        dialect: new MysqlDialect({ pool: createPool({ uri: address, connectionLimit: connections }) as never }),
      });
  }
}

export const recordsOf = (name: StoreName) => ({ SQLite: sqliteRecords, PostgreSQL: postgresRecords, MariaDB: mysqlRecords })[name];
