import { sql } from 'kysely';
import type { Database } from '../tables/database.ts';

let made = 0;

/** Runs something inside a transaction so that nothing of it stays when it fails, and the transaction goes on. */
export async function inSavepoint<T>(transaction: Database, run: () => Promise<T>): Promise<T> {
  const name = sql.id(`jestril_${++made}`);
  await sql`savepoint ${name}`.execute(transaction);
  try {
    const result = await run();
    await sql`release savepoint ${name}`.execute(transaction);
    return result;
  } catch (error) {
    try {
      await sql`rollback to savepoint ${name}`.execute(transaction);
      await sql`release savepoint ${name}`.execute(transaction);
    } catch {
      // A deadlock has ended the transaction, and its savepoints with it; the error itself says so.
    }
    throw error;
  }
}
