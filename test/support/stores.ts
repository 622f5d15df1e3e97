import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { SqlOptions, SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { connect, type Db, recordsOf, type StoreName } from './connect.ts';

export type { Db };

// The databases that the tests run against: SQLite always; a server where the environment says that there is one.

/** One database, empty at first, for one test file. */
export interface TestStore {
  readonly db: Db;
  readonly records: (db: Db, options?: SqlOptions) => SqlRecords;
  /** Where another process finds it. */
  readonly address: string;
  readonly close: () => Promise<void>;
}

const isRequired = (process.env.JESTRIL_REQUIRE ?? '').split(',').includes('servers');
const addresses = { PostgreSQL: process.env.JESTRIL_POSTGRES, MariaDB: process.env.JESTRIL_MYSQL };

/** A suite for each database; those without a server are skipped, and say what they want. */
export function describeStores(suite: (open: () => Promise<TestStore>, name: StoreName) => void): void {
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
    records: recordsOf('SQLite'),
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
    records: recordsOf('PostgreSQL'),
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
    records: recordsOf('MariaDB'),
    address: url.href,
    async close() {
      await sql`drop database ${sql.id(name)}`.execute(db);
      await db.destroy();
    },
  };
}
