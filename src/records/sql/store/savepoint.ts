import { sql } from 'kysely';
import type { Database } from '../tables/database.ts';

let made = 0;

/** Runs something inside a transaction so that nothing of it stays when it fails, and the transaction goes on. */
export async function inSavepoint<T>(transaction: Database, run: () => Promise<T>): Promise<T> {
  const savepoint = new Savepoint(transaction);
  await savepoint.set();
  try {
    const result = await run();
    await savepoint.release();
    return result;
  } catch (error) {
    await savepoint.undo();
    await savepoint.release().catch(() => undefined);
    throw error;
  }
}

/** A place in a transaction to go back to, which moves on. */
export class Savepoint {
  readonly #transaction: Database;
  readonly #name = sql.id(`jestril_${++made}`);
  #isSet = false;

  constructor(transaction: Database) {
    this.#transaction = transaction;
  }

  /** From here on. */
  async set(): Promise<void> {
    // One of the same name hides the one before, and both would be kept to the end.
    if (this.#isSet) await this.release();
    await sql`savepoint ${this.#name}`.execute(this.#transaction);
    this.#isSet = true;
  }

  async undo(): Promise<void> {
    try {
      await sql`rollback to savepoint ${this.#name}`.execute(this.#transaction);
    } catch {
      // A deadlock has ended the transaction, and its savepoints with it; the error itself says so.
    }
  }

  async release(): Promise<void> {
    await sql`release savepoint ${this.#name}`.execute(this.#transaction);
    this.#isSet = false;
  }
}
