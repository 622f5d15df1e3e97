import type { Database } from '../tables/database.ts';
import { inSavepoint } from './savepoint.ts';

/** A row that a constraint of the database has refused. */
export interface RefusedRow<T> {
  /** Where it stands among the rows, from 0. */
  readonly index: number;
  readonly row: T;
  /** What the driver threw: `refusalOf(intake, error, …)` makes a verdict of it. */
  readonly error: unknown;
}

/**
 * Stores many rows with few statements. Where a constraint refuses one of them, which no database tells, halves are tried until
 * it is found: the others are stored.
 */
export async function storeRows<T>(
  db: Database,
  rows: readonly T[],
  store: (rows: readonly T[], transaction: Database) => Promise<unknown>,
  isRefusal: (error: unknown) => boolean,
): Promise<readonly RefusedRow<T>[]> {
  if (!db.isTransaction) return db.transaction().execute((transaction) => storeRows(transaction, rows, store, isRefusal));
  const refused: RefusedRow<T>[] = [];
  const attempt = async (from: number, to: number): Promise<void> => {
    if (from === to) return;
    try {
      await inSavepoint(db, () => store(rows.slice(from, to), db));
    } catch (error) {
      if (!isRefusal(error)) throw error;
      if (to - from === 1) {
        refused.push({ index: from, row: rows[from] as T, error });
        return;
      }
      const middle = (from + to) >> 1;
      await attempt(from, middle);
      await attempt(middle, to);
    }
  };
  await attempt(0, rows.length);
  return refused;
}
