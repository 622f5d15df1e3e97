import {
  CompiledQuery,
  type DatabaseConnection,
  type Driver,
  Kysely,
  type Dialect as KyselyDialect,
  Transaction,
  type TransactionSettings,
} from 'kysely';
import { fault } from '../../../core/basics/fault.ts';
import type { Database } from '../tables/database.ts';
import type { Language } from '../tables/dialect.ts';

/** Sends one statement with the values of its places (`$1` in PostgreSQL, `?` elsewhere), and gives its rows. */
export type RunStatement = (statement: string, values: readonly unknown[]) => Promise<readonly object[]>;

/**
 * Whatever client an application has, in a few lines: statements are made here, and sent there.
 *
 * `X` is what the application stores through, inside a transaction that is begun here.
 */
export interface SqlClient<X = RunStatement> {
  readonly run: RunStatement;
  /**
   * Lends one connection until the promise of `use` is settled, which transactions and locks need: with what sends on it, and with what
   * the application itself stores through on it, where that is something else.
   */
  readonly connection?: <T>(use: (run: RunStatement, own?: X) => Promise<T>) => Promise<T>;
}

/** A database over any client. */
export function databaseOf<X>(client: SqlClient<X>, language: Language): Database {
  const db: Database = new Kysely({ dialect: dialectOf(new ClientDriver(client as SqlClient<unknown>, language), language) });
  if (!client.connection) lendless.add(db);
  return db;
}
const lendless = new WeakSet<Database>();

/** @throws Fault for a client that lends no connection: neither a lock nor a transaction could be held */
export function needsConnection(db: Database): void {
  if (lendless.has(db)) fault('A transaction needs one connection: give the client `connection`, which lends one, beside `run`.');
}

/** A transaction that the application has begun with its own client. */
export function transactionOf(run: RunStatement, language: Language): Database {
  const driver = new ClientDriver({ run }, language);
  const dialect = dialectOf(driver, language);
  const config = { dialect };
  return new Transaction({ config, driver, dialect, executor: new Kysely(config).getExecutor() } as never);
}

export function isClient(value: object): value is SqlClient<unknown> {
  return 'run' in value && typeof value.run === 'function' && !('getExecutor' in value);
}

/** Whether the transaction of a connection is ended by the application, where nobody here sees it. */
export function isForeign(connection: DatabaseConnection): boolean {
  return connection instanceof ClientConnection && connection.release === undefined;
}

/** What the application stores through on a connection that it lends; `undefined` where that is Kysely itself. */
export function ownOf(connection: DatabaseConnection): unknown {
  return connection instanceof ClientConnection ? connection.own : undefined;
}

function dialectOf(driver: Driver, { adapter, compiler }: Language): KyselyDialect {
  return {
    createAdapter: adapter,
    createDriver: () => driver,
    createQueryCompiler: compiler,
    // What there is of tables is asked by statements.
    createIntrospector: () => fault('Records over a client have no introspection.'),
  };
}

class ClientConnection implements DatabaseConnection {
  readonly #run: RunStatement;
  readonly own: unknown;
  readonly release: (() => void) | undefined;

  constructor(run: RunStatement, own: unknown = run, release?: () => void) {
    this.#run = run;
    this.own = own;
    this.release = release;
  }

  async executeQuery<R>({ sql, parameters }: CompiledQuery): Promise<{ rows: R[] }> {
    return { rows: (await this.#run(sql, parameters)) as R[] };
  }

  // biome-ignore lint/correctness/useYield: nothing is streamed
  async *streamQuery(): AsyncIterableIterator<never> {
    fault('Records over a client stream nothing.');
  }
}

class ClientDriver implements Driver {
  readonly #client: SqlClient<unknown>;
  readonly #language: Language;
  readonly #only: ClientConnection;

  constructor(client: SqlClient<unknown>, language: Language) {
    this.#client = client;
    this.#language = language;
    this.#only = new ClientConnection(client.run);
  }

  async init(): Promise<void> {}
  async destroy(): Promise<void> {}

  async acquireConnection(): Promise<DatabaseConnection> {
    const { connection } = this.#client;
    if (!connection) return this.#only;
    return new Promise((resolve, reject) => {
      connection((run, own) => new Promise<void>((release) => resolve(new ClientConnection(run, own, release)))).catch(reject);
    });
  }

  async releaseConnection(connection: DatabaseConnection): Promise<void> {
    (connection as ClientConnection).release?.();
  }

  async beginTransaction(connection: DatabaseConnection, { isolationLevel }: TransactionSettings): Promise<void> {
    for (const statement of this.#language.begin(isolationLevel)) await connection.executeQuery(CompiledQuery.raw(statement));
  }

  async commitTransaction(connection: DatabaseConnection): Promise<void> {
    await connection.executeQuery(CompiledQuery.raw('commit'));
  }

  async rollbackTransaction(connection: DatabaseConnection): Promise<void> {
    await connection.executeQuery(CompiledQuery.raw('rollback'));
  }
}
