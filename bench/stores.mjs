// The databases of the benches: an SQLite file among the temporary files; JESTRIL_POSTGRES and JESTRIL_MYSQL (postgres://…, mysql://…)
// name servers, in which a schema `jestril_bench` is filled once.
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { mysqlRecords, postgresRecords, sqliteRecords } from 'jestril/sql';
import { Kysely, MysqlDialect, PostgresDialect, SqliteDialect } from 'kysely';
import Database from 'libsql';
import { createPool } from 'mysql2';
import pg from 'pg';

/** @param run takes the database's name, Kysely (with its `dialect`), how records are made, and a prepared query with `?` for its values */
export async function eachStore(run) {
  await withSqlite(run);
  if (process.env.JESTRIL_POSTGRES) await withPostgres(run);
  else console.log('PostgreSQL  not measured: set JESTRIL_POSTGRES');
  if (process.env.JESTRIL_MYSQL) await withMysql(run);
  else console.log('MariaDB     not measured: set JESTRIL_MYSQL');
}

async function withSqlite(run) {
  const database = new Database(join(tmpdir(), 'jestril-bench.sqlite'));
  const dialect = new SqliteDialect({ database });
  const db = Object.assign(new Kysely({ dialect }), { dialect });
  const prepared = new Map();
  await run('SQLite', db, sqliteRecords, async (text, ...values) => {
    if (!prepared.has(text)) prepared.set(text, database.prepare(text));
    return prepared.get(text).all(...values);
  });
  database.close();
}

async function withPostgres(run) {
  const url = new URL(process.env.JESTRIL_POSTGRES);
  url.searchParams.set('options', '-c search_path=jestril_bench');
  const pool = new pg.Pool({ connectionString: url.href, max: 4 });
  await pool.query('create schema if not exists jestril_bench');
  const dialect = new PostgresDialect({ pool });
  const db = Object.assign(new Kysely({ dialect }), { dialect });
  const client = await pool.connect();
  const numbered = (text) => {
    let at = 0;
    return text.replaceAll('?', () => `$${++at}`);
  };
  const names = new Map();
  await run('PostgreSQL', db, postgresRecords, async (text, ...values) => {
    if (!names.has(text)) names.set(text, `q${names.size}`);
    return (await client.query({ name: names.get(text), text: numbered(text), values })).rows;
  });
  client.release();
  await pool.end();
}

async function withMysql(run) {
  const url = new URL(process.env.JESTRIL_MYSQL);
  const before = createPool({ uri: url.href }).promise();
  await before.query('create database if not exists jestril_bench character set utf8mb4');
  await before.end();
  url.pathname = '/jestril_bench';
  const pool = createPool({ uri: url.href, connectionLimit: 4 });
  const dialect = new MysqlDialect({ pool });
  const db = Object.assign(new Kysely({ dialect }), { dialect });
  const connection = await pool.promise().getConnection();
  await run('MariaDB', db, mysqlRecords, async (text, ...values) => (await connection.execute(text, values))[0]);
  connection.release();
  await pool.promise().end();
}
