import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { mysqlRecords, postgresRecords, type SqlRecords, sqliteRecords } from 'jestril/sql';
import { Kysely, MysqlDialect, PostgresDialect, SqliteDialect, sql } from 'kysely';
import Database from 'libsql';
import { createPool } from 'mysql2';
import pg from 'pg';

// The databases that the tests run against: SQLite always; a server where the environment says that there is one.

// biome-ignore lint/suspicious/noExplicitAny: tables of a test
export type Db = Kysely<any>;

/** One database, empty at first, for one test file. */
export interface TestStore {
  readonly db: Db;
  readonly records: (db: Db, options?: Parameters<typeof sqliteRecords>[1]) => SqlRecords;
  /** Where another process finds it. */
  readonly address: string;
  readonly close: () => Promise<void>;
}

export type StoreName = 'SQLite' | 'PostgreSQL' | 'MariaDB';

const isRequired = (process.env.JESTRIL_REQUIRE ?? '').split(',').includes('servers');
const addresses = { PostgreSQL: process.env.JESTRIL_POSTGRES, MariaDB: process.env.JESTRIL_MYSQL };

/** A suite for each database; those without a server are skipped, and say what they want. */
export function describeStores(suite: (open: (folder?: string) => Promise<TestStore>, name: StoreName) => void): void {
  describe('SQLite', () => suite(openSqlite, 'SQLite'));
  for (const [name, address] of Object.entries(addresses) as ['PostgreSQL' | 'MariaDB', string | undefined][]) {
    const open = name === 'PostgreSQL' ? openPostgres : openMariadb;
    if (address || isRequired) describe(name, () => suite(() => open(address ?? ''), name));
    else
      describe.skip(`${name} (set JESTRIL_${name === 'MariaDB' ? 'MYSQL' : 'POSTGRES'} to a server's address)`, () =>
        suite(() => open(''), name));
  }
}

async function openSqlite(): Promise<TestStore> {
  const folder = mkdtempSync(join(tmpdir(), 'jestril-'));
  const address = join(folder, 'store.sqlite');
  const db = connect('SQLite', address);
  return {
    db,
    records: sqliteRecords,
    address,
    async close() {
      await db.destroy();
      rmSync(folder, { recursive: true });
    },
  };
}

let opened = 0;
const nextName = () => `jestril_test_${process.pid}_${process.env.JEST_WORKER_ID ?? 0}_${opened++}`;

async function openPostgres(server: string): Promise<TestStore> {
  const name = nextName();
  const url = new URL(server);
  url.searchParams.set('options', `-c search_path=${name}`);
  const db = connect('PostgreSQL', url.href);
  await sql`create schema ${sql.id(name)}`.execute(db);
  return {
    db,
    records: postgresRecords,
    address: url.href,
    async close() {
      await sql`drop schema ${sql.id(name)} cascade`.execute(db);
      await db.destroy();
    },
  };
}

async function openMariadb(server: string): Promise<TestStore> {
  const name = nextName();
  const url = new URL(server);
  const before = connect('MariaDB', url.href);
  await sql`create database ${sql.id(name)} character set utf8mb4`.execute(before);
  await before.destroy();
  url.pathname = `/${name}`;
  const db = connect('MariaDB', url.href);
  return {
    db,
    records: mysqlRecords,
    address: url.href,
    async close() {
      await sql`drop database ${sql.id(name)}`.execute(db);
      await db.destroy();
    },
  };
}

/** Connects to a database that is there. */
export function connect(name: StoreName, address: string, connections = 4): Db {
  switch (name) {
    case 'SQLite': {
      const database = new Database(address);
      database.exec('pragma journal_mode = wal');
      database.exec('pragma busy_timeout = 10000');
      database.exec('pragma foreign_keys = on');
      return new Kysely({ dialect: new SqliteDialect({ database: database as never }) });
    }
    case 'PostgreSQL': {
      const pool = new pg.Pool({ connectionString: address, max: connections });
      // A connection that breaks while nobody uses it is replaced.
      pool.on('error', () => undefined);
      return new Kysely({ dialect: new PostgresDialect({ pool }) });
    }
    case 'MariaDB':
      return new Kysely({ dialect: new MysqlDialect({ pool: createPool({ uri: address, connectionLimit: connections }) as never }) });
  }
}
