import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
import { needsConnection } from './client.ts';
import { isPassing } from './errors.ts';
import { Savepoint } from './savepoint.ts';
import { watched } from './watched.ts';

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
 * it is found: the others are stored. Where 40 of 1,000 are refused `store` is called some 280 times.
 */
export async function storeRows<T>(
  dialect: Dialect,
  db: Database,
  rows: readonly T[],
  store: (rows: readonly T[], transaction: Database) => Promise<unknown>,
  isRefusal: (error: unknown) => boolean,
): Promise<readonly RefusedRow<T>[]> {
  needsConnection(db);
  if (!db.isTransaction) return db.transaction().execute((transaction) => storeRows(dialect, transaction, rows, store, isRefusal));
  const state = await watched(dialect, db);
  state.goOn();
  const refused: RefusedRow<T>[] = [];
  const savepoint = new Savepoint(db);
  await savepoint.set();
  /** What refused some rows; `undefined` when they are stored. */
  const attempt = async (from: number, to: number): Promise<{ readonly error: unknown } | undefined> => {
    try {
      await store(rows.slice(from, to), db);
      await savepoint.set();
      return undefined;
    } catch (error) {
      await savepoint.undo();
      if (isPassing(dialect, error)) state.end(error);
      await state.sealed();
      if (state.ended || !isRefusal(error)) throw error;
      return { error };
    }
  };
  // Steps grow while all goes well; after a refusal they are as long as it was far.
  let step = rows.length;
  for (let from = 0; from < rows.length; ) {
    const start = from;
    let to = Math.min(rows.length, from + step);
    let failed = await attempt(from, to);
    if (!failed) {
      from = to;
      step *= 2;
      continue;
    }
    // What is refused as a whole has its first refused row in one half, and those before it are stored on the way.
    let isAlone = to - from === 1;
    while (to - from > 1) {
      const middle = (from + to) >> 1;
      const half = await attempt(from, middle);
      if (half) {
        failed = half;
        to = middle;
      } else from = middle;
      isAlone = half !== undefined && to - from === 1;
    }
    // The last one left may have been told of by nobody.
    if (!isAlone) failed = await attempt(from, from + 1);
    if (failed) refused.push({ index: from, row: rows[from] as T, error: failed.error });
    from++;
    step = Math.max(1, from - start);
  }
  await savepoint.release();
  return refused;
}
