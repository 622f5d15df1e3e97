import { CompiledQuery, type DatabaseConnection } from 'kysely';
import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
import { isForeign } from './client.ts';
import { errorsIn, isAnswered } from './errors.ts';

// A transaction that its database has ended goes on answering: PostgreSQL takes COMMIT for ROLLBACK and says nothing, MariaDB stores what
// follows a deadlock as if there were no transaction. So whatever passes through its connection is watched until it ends.

/** What became of a transaction so far. */
export class Watched {
  /** Why it can only be undone. */
  ended: { readonly error: unknown } | undefined;
  /** The first statement that failed; a savepoint may have undone it. */
  failed: unknown;
  /** Whoever asks in it. */
  readonly users = new Set<Database>();
  /** Questions are asked so that one that fails can be undone. Without it they take fewer statements, and a failure ends all. */
  isCareful = true;
  /** Of a transaction whose COMMIT is the application's own: makes the database itself refuse it. */
  seal: (() => Promise<unknown>) | undefined;
  #sealing: Promise<unknown> | undefined;

  /** Once what was tried has been undone. */
  async sealed(): Promise<void> {
    if (!this.ended || !this.seal) return;
    this.#sealing ??= this.seal().catch(() => undefined);
    await this.#sealing;
  }

  end(error: unknown): void {
    this.ended ??= { error };
  }

  /** @throws when nothing of the transaction can be stored any more */
  goOn(): void {
    if (this.ended) throw this.refusal;
  }

  get refusal(): Error {
    return new Error('A question or statement of this transaction has failed, so nothing of it is stored; begin another.', {
      cause: this.ended?.error ?? this.failed,
    });
  }
}

/** The answer to COMMIT was lost: nobody knows whether the transaction is stored. */
export class InDoubt extends Error {
  override readonly name = 'InDoubt';

  constructor(cause: unknown) {
    super('The answer to COMMIT was lost, so what this transaction stored may be there or not; look before you try again.', { cause });
  }
}

const watching = new WeakMap<DatabaseConnection, Watched>();
/** Transactions that are over: their connections are lent to others by now. */
const over = new WeakSet<Database>();

/** The connection that a transaction, or a part of one, has to itself. */
export function connectionOf(db: Database): Promise<DatabaseConnection> {
  return db.getExecutor().provideConnection(async (own) => own);
}

/** The state of an open transaction, whoever began it; from here on it cannot commit when it has failed. */
export async function watched(dialect: Dialect, transaction: Database): Promise<Watched> {
  if (over.has(transaction)) throw new Error('The transaction of these records is over; ask those of the database, or of another.');
  const connection = await connectionOf(transaction);
  const known = watching.get(connection);
  known?.users.add(transaction);
  if (known) return known;
  const state = new Watched();
  state.users.add(transaction);
  const finish = () => {
    watching.delete(connection);
    for (const user of state.users) over.add(user);
  };
  watching.set(connection, state);
  const leave = replaced(connection, 'executeQuery', (send) => {
    if (isForeign(connection))
      state.seal = async () => {
        const all = async (statements: readonly string[]) => {
          for (const statement of statements) await send(CompiledQuery.raw(statement));
        };
        // Who may not have it refused has it broken: a COMMIT that goes through would tell of what is gone.
        await all(dialect.seal ?? []).catch(() => all([dialect.locks.cut ?? []].flat()));
      };
    let inDoubt: InDoubt | undefined;
    const end = async (query: CompiledQuery) => {
      finish();
      leave();
      try {
        return await send(query);
      } catch (error) {
        throw inDoubt ?? error;
      }
    };
    const commit = async (query: CompiledQuery) => {
      // Only a transaction in which something failed is asked whether it is still one.
      if (state.failed !== undefined && dialect.isEndedByErrors)
        await send(CompiledQuery.raw('select 1')).catch(() => state.end(state.failed));
      state.goOn();
      try {
        const done = await send(query);
        finish();
        leave();
        return done;
      } catch (error) {
        // A rollback follows, on a connection that may be gone: what it says must not stand in the place of this.
        inDoubt = isAnswered(dialect, error) ? undefined : new InDoubt(error);
        state.end(error);
        throw inDoubt ?? error;
      }
    };
    return async (query) => {
      const word = query.sql.length < LONGEST_END ? query.sql.trim().toLowerCase() : '';
      if (word === 'rollback') return end(query) as never;
      if (word === 'commit') return commit(query) as never;
      if (!query.sql.startsWith('rollback to savepoint')) state.goOn();
      try {
        return (await send(query)) as never;
      } catch (error) {
        state.failed ??= error;
        if (!isAnswered(dialect, error) || errorsIn(error).some(dialect.endsTransaction)) state.end(error);
        throw error;
      }
    };
  });
  return state;
}
const LONGEST_END = 20;

/**
 * Puts something in the place of a method of a connection.
 *
 * @returns puts back what was there
 */
export function replaced<M extends 'executeQuery'>(
  connection: DatabaseConnection,
  method: M,
  by: (own: DatabaseConnection[M]) => DatabaseConnection[M],
): () => void {
  const before = Object.getOwnPropertyDescriptor(connection, method);
  connection[method] = by(connection[method].bind(connection) as DatabaseConnection[M]);
  return () => {
    if (before) Object.defineProperty(connection, method, before);
    else Reflect.deleteProperty(connection, method);
  };
}
