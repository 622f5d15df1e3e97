import { sql as sqlOf } from 'drizzle-orm';
import { drizzle } from 'drizzle-orm/node-postgres';
import { collection, intake, rule, text, unique, whole } from 'jestril';
import { describeRecords } from 'jestril/jest';
import { mysqlRecords, postgresRecords, type RunStatement, type SqlClient, type SqlRecords, sqliteRecords } from 'jestril/sql';
import knexOf from 'knex';
import Database from 'libsql';
import { createPool } from 'mysql2/promise';
import pg from 'pg';
import { DataSource, type QueryRunner } from 'typeorm';

// Every client by a few lines (docs/clients.md): what it answers, races, and transactions that fail, on a real database.

const POSTGRES = process.env.JESTRIL_POSTGRES ?? '';
const MYSQL = process.env.JESTRIL_MYSQL ?? '';

interface Opened {
  readonly client: SqlClient<unknown>;
  readonly language: 'postgres' | 'mysql' | 'sqlite';
  readonly close: () => Promise<unknown>;
  /** What sends a statement on what a connection lends. */
  readonly through?: (own: never) => RunStatement;
  /** The application's own transaction, with its own client. */
  readonly transaction: <T>(work: (run: RunStatement) => Promise<T>) => Promise<T>;
}

/** A transaction by statements, for clients that leave it to the application. */
async function byStatements<T>(run: RunStatement, work: (run: RunStatement) => Promise<T>): Promise<T> {
  await run('begin', []);
  try {
    const done = await work(run);
    await run('commit', []);
    return done;
  } catch (error) {
    await run('rollback', []).catch(() => undefined);
    throw error;
  }
}

const openPool = () => {
  const pool = new pg.Pool({ connectionString: POSTGRES, max: 8 });
  pool.on('error', () => undefined);
  return pool;
};

const CLIENTS: { readonly [name: string]: () => Promise<Opened> | Opened } = {
  pg() {
    const pool = openPool();
    const over =
      (at: pg.Pool | pg.PoolClient): RunStatement =>
      async (statement, values) =>
        (await at.query(statement, [...values])).rows;
    const connection = async <T>(use: (run: RunStatement, own: pg.PoolClient) => Promise<T>) => {
      const own = await pool.connect();
      return use(over(own), own).finally(() => own.release());
    };
    return {
      client: { run: over(pool), connection: connection as never },
      through: over,
      language: 'postgres',
      close: () => pool.end(),
      transaction: (work) => connection((run) => byStatements(run, work)),
    };
  },
  mysql2() {
    const pool = createPool({ uri: MYSQL, connectionLimit: 8 });
    const connection = async <T>(use: (run: RunStatement) => Promise<T>) => {
      const own = await pool.getConnection();
      return use(async (statement, values) => (await own.query(statement, [...values]))[0] as object[]).finally(() => own.release());
    };
    return {
      client: { run: async (statement, values) => (await pool.query(statement, [...values]))[0] as object[], connection },
      language: 'mysql',
      close: () => pool.end(),
      transaction: (work) => connection((run) => byStatements(run, work)),
    };
  },
  libsql() {
    const database = new Database(':memory:');
    const run: RunStatement = async (statement, values) => {
      const prepared = database.prepare(statement);
      if (prepared.reader) return prepared.all(...(values as never[])) as object[];
      prepared.run(...(values as never[]));
      return [];
    };
    // One connection for all: who wants it for a transaction waits for those before.
    let before: Promise<unknown> = Promise.resolve();
    const connection = <T>(use: (run: RunStatement) => Promise<T>): Promise<T> => {
      const mine = before.then(() => use(run));
      before = mine.catch(() => undefined);
      return mine;
    };
    return {
      client: { run, connection },
      language: 'sqlite',
      close: async () => database.close(),
      transaction: (work) => connection((own) => byStatements(own, work)),
    };
  },
  knex() {
    const knex = knexOf({ client: 'pg', connection: POSTGRES, pool: { min: 0, max: 8 } });
    // Knex has a placeholder of its own.
    const over =
      (at: Pick<typeof knex, 'raw'>): RunStatement =>
      async (statement, values) =>
        (await at.raw(statement.replaceAll('?', '\\?').replaceAll(/\$\d+/g, '?'), [...values] as never)).rows;
    const connection = async <T>(use: (run: RunStatement) => Promise<T>) => {
      const own = await knex.client.acquireConnection();
      return use(async (statement, values) => (await own.query(statement, [...values])).rows).finally(() =>
        knex.client.releaseConnection(own),
      );
    };
    return {
      client: { run: over(knex), connection },
      language: 'postgres',
      close: () => knex.destroy(),
      transaction: (work) => knex.transaction((own) => work(over(own))) as never,
    };
  },
  drizzle() {
    const pool = openPool();
    const db = drizzle(pool);
    const statementOf = (statement: string, values: readonly unknown[]) =>
      sqlOf.join(
        statement.split(/\$\d+/).flatMap((part, at) => (at === 0 ? [sqlOf.raw(part)] : [sqlOf`${values[at - 1]}`, sqlOf.raw(part)])),
      );
    const over =
      (at: Pick<typeof db, 'execute'>): RunStatement =>
      async (statement, values) =>
        (await at.execute(statementOf(statement, values))).rows as object[];
    const connection = async <T>(use: (run: RunStatement, own: unknown) => Promise<T>) => {
      const client = await pool.connect();
      const own = drizzle(client);
      return use(over(own), own).finally(() => client.release());
    };
    return {
      client: { run: over(db), connection: connection as never },
      through: over,
      language: 'postgres',
      close: () => pool.end(),
      transaction: (work) => db.transaction((own) => work(over(own))),
    };
  },
  async typeorm() {
    const source = await new DataSource({ type: 'postgres', url: POSTGRES, extra: { max: 8 } }).initialize();
    const over =
      (at: { query(statement: string, values: unknown[]): Promise<unknown> }): RunStatement =>
      async (statement, values) => {
        const rows = await at.query(statement, [...values]);
        return Array.isArray(rows) ? rows : [];
      };
    const connection = async <T>(use: (run: RunStatement, own: QueryRunner) => Promise<T>) => {
      const own = source.createQueryRunner();
      await own.connect();
      return use(over(own), own).finally(() => own.release());
    };
    return {
      client: { run: over(source), connection: connection as never },
      through: over,
      language: 'postgres',
      close: () => source.destroy(),
      transaction: (work) => source.transaction((own) => work(over(own))),
    };
  },
  // A client with raw statements and transactions that it opens by itself, and no connection to lend.
  'of transactions alone'() {
    const pool = openPool();
    const over = (at: pg.Pool | pg.PoolClient) => ({
      $queryRawUnsafe: async (statement: string, ...values: unknown[]) => (await at.query(statement, values)).rows as object[],
    });
    const client = {
      ...over(pool),
      async $transaction<T>(work: (own: ReturnType<typeof over>) => Promise<T>): Promise<T> {
        const own = await pool.connect();
        try {
          await own.query('begin');
          const done = await work(over(own));
          await own.query('commit');
          return done;
        } catch (error) {
          await own.query('rollback');
          throw error;
        } finally {
          own.release();
        }
      },
    };
    const run: (own: ReturnType<typeof over>) => RunStatement = (own) => (statement, values) => own.$queryRawUnsafe(statement, ...values);
    return {
      client: { run: run(client) },
      language: 'postgres',
      close: () => pool.end(),
      transaction: (work) => client.$transaction((own) => work(run(own))),
    };
  },
};

const TYPES: { readonly [kind: string]: string | { readonly [language in Opened['language']]: string } } = {
  text: 'text',
  whole: 'integer',
  decimal: 'double precision',
  exact: 'numeric(12, 3)',
  flag: 'boolean',
  day: { postgres: 'date', mysql: 'date', sqlite: 'text' },
  moment: { postgres: 'timestamptz', mysql: 'datetime(3)', sqlite: 'text' },
  'time-of-day': { postgres: 'time', mysql: 'time', sqlite: 'text' },
};
const RECORDS = { postgres: postgresRecords, mysql: mysqlRecords, sqlite: sqliteRecords };

/** As the driver of a database wants it: SQLite knows no booleans, and a DATETIME no letters. */
function valueFor(language: Opened['language'], kind: string | undefined, raw: unknown): unknown {
  if (language === 'sqlite' && typeof raw === 'boolean') return Number(raw);
  return language === 'mysql' && kind === 'moment' && typeof raw === 'string' ? raw.replace('T', ' ').replace('Z', '') : raw;
}

let opened = 0;
for (const [name, open] of Object.entries(CLIENTS))
  (name === 'libsql' || (POSTGRES && MYSQL) ? describe : describe.skip)(name, () => {
    describeRecords('as it answers', async (tables) => {
      const { client, language, close } = await open();
      const schema = `clients_${process.pid}_${process.env.JEST_WORKER_ID ?? 0}_${opened++}`;
      const quoted = (word: string) => (language === 'mysql' ? `\`${word}\`` : `"${word}"`);
      const full = (table: string) => (language === 'sqlite' ? quoted(table) : `${schema}.${quoted(table)}`);
      if (language !== 'sqlite')
        await client.run(language === 'mysql' ? `create database ${schema} character set utf8mb4` : `create schema ${schema}`, []);
      for (const [table, { columns, rows }] of Object.entries(tables)) {
        const made = Object.entries(columns).map(([column, { kind }]) => {
          const type = TYPES[kind] as (typeof TYPES)[string];
          return `${quoted(column)} ${typeof type === 'string' ? type : type[language]}`;
        });
        await client.run(`create table ${full(table)} (${made.join()})`, []);
        for (const row of rows) {
          const values = Object.entries(row).map(([column, raw]) => valueFor(language, columns[column]?.kind, raw));
          const marks = values.map((_, at) => (language === 'postgres' ? `$${at + 1}` : '?'));
          await client.run(`insert into ${full(table)} (${Object.keys(row).map(quoted).join()}) values (${marks.join()})`, values);
        }
      }
      const options =
        language === 'sqlite' ? {} : { tables: Object.fromEntries(Object.keys(tables).map((table) => [table, `${schema}.${table}`])) };
      return {
        records: RECORDS[language](client, options),
        close: async () => {
          if (language !== 'sqlite')
            await client.run(language === 'mysql' ? `drop database ${schema}` : `drop schema ${schema} cascade`, []);
          await close();
        },
      };
    });

    describe('transactions', () => {
      let all: Opened;
      let records: SqlRecords<unknown>;
      const table = `three_${opened++}_${process.pid}`;
      const rows = collection(table, { id: whole, owner: text, title: text }, { key: 'id' });
      const few = rule(
        'test/few',
        { owner: text },
        { looksUp: { n: rows.count({ owner: 'owner' }) }, holds: (_, { n }) => n < 3, message: 'x', blames: 'owner' },
      );
      const fields = { owner: text('O'), title: text('T') };
      const form = intake('form', fields, { storedIn: rows, rules: [few({ owner: 'owner' }), unique(rows, { title: 'title' })] });
      const plain = intake('plain', fields, { storedIn: rows, rules: [unique(rows, { title: 'title' })] });
      const marks = () => (all.language === 'postgres' ? ['$1', '$2'] : ['?', '?']);
      const insert = (run: RunStatement) => (value: { owner: string; title: string }) =>
        run(`insert into ${table} (owner, title) values (${marks().join()})`, [value.owner, value.title]);
      const titles = async () =>
        ((await all.client.run(`select title from ${table} order by title`, [])) as { title: string }[]).map(({ title }) => title);
      beforeAll(async () => {
        all = await open();
        const id = { postgres: 'serial', mysql: 'int auto_increment', sqlite: 'integer' }[all.language];
        await all.client.run(
          `create table ${table} (id ${id} primary key, owner varchar(9) not null, title varchar(20) not null unique)`,
          [],
        );
        records = RECORDS[all.language](all.client) as SqlRecords<unknown>;
      });
      beforeEach(() => all.client.run(`delete from ${table}`, []));
      afterAll(async () => {
        await all.client.run(`drop table ${table}`, []);
        await all.close();
      });

      test('at most three, twenty at once, two rows a run', async () => {
        const told: string[] = [];
        const book = async (at: number) => {
          const verdicts = await records.serially(async (inside, own) => {
            expect(own).toBeDefined();
            const run = all.through?.(own as never) ?? (own as RunStatement);
            const first = await form.judgeAndStore(
              { owner: `o${at % 4}`, title: `${at}a` },
              { records: inside, within: 60_000 },
              insert(run),
            );
            return [
              first,
              await form.judgeAndStore({ owner: `o${(at + 1) % 4}`, title: `${at}b` }, { records: inside, within: 60_000 }, insert(run)),
            ];
          });
          if (Array.isArray(verdicts)) for (const each of verdicts) if (each.outcome === 'accepted') told.push(each.value.title);
        };
        if (!all.client.connection) {
          await expect(book(0)).rejects.toThrow('A transaction needs one connection');
          return;
        }
        await Promise.all(Array.from({ length: 20 }, (_, at) => book(at)));
        expect(await titles()).toEqual(told.sort());
        expect(told).toHaveLength(12);
      });

      test('the own transaction of the application: its verdicts, and a constraint that refuses', async () => {
        const outcomes = await all.transaction(async (run) => {
          const inside = records.in(run);
          const told: string[] = [];
          for (const title of ['x', 'x', 'y'])
            told.push((await plain.judgeAndStore({ owner: 'z', title }, { records: inside }, insert(run))).outcome);
          // What the rule has not seen the constraint refuses, and the transaction goes on.
          const lost = await plain.judgeAndStore({ owner: 'z', title: 'w' }, { records: inside }, () =>
            insert(run)({ owner: 'z', title: 'x' }),
          );
          return [...told, lost.outcome === 'rejected' && lost.findings[0]?.rule];
        });
        expect([outcomes, await titles()]).toEqual([
          ['accepted', 'rejected', 'accepted', 'unique'],
          ['x', 'y'],
        ]);
      });

      test('two of them in a deadlock, swallowed: the database refuses the commit of one', async () => {
        // Of SQLite there is one connection.
        if (all.language === 'sqlite') return;
        for (const side of [0, 1]) await insert(all.client.run)({ owner: 'y', title: `row ${side}` });
        const meet: (() => void)[] = [];
        const both = [0, 1].map((side) => new Promise<void>((resolve) => (meet[side] = resolve)));
        const touch = (run: RunStatement, side: number) =>
          run(`update ${table} set owner = owner where title in (${marks()[0]})`, [`row ${side}`]);
        const ends = await Promise.allSettled(
          [0, 1].map((side) =>
            all.transaction(async (run) => {
              const inside = records.in(run);
              await touch(run, side);
              meet[side]?.();
              await both[1 - side];
              await plain
                .judgeAndStore({ owner: `z${side}`, title: `t${side}` }, { records: inside }, async (value) => {
                  await insert(run)(value);
                  await touch(run, 1 - side);
                })
                .catch(() => undefined);
            }),
          ),
        );
        expect(ends.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
        expect((await titles()).filter((title) => title.startsWith('t'))).toHaveLength(1);
      });
    });
  });
