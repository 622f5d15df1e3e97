import { fault } from '../../../core/basics/fault.ts';
import type { Unsettled, Verdict } from '../../../core/basics/verdict.ts';
import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
import { errorsIn } from './errors.ts';

// Any rule about records holds for all that is judged and stored this way: each attempt is one serialisable transaction, so that
// the database refuses what could not have happened one after another, and what it refuses is tried again.

/** Attempts when the caller says nothing. */
const ATTEMPTS = 50;
/** Milliseconds between attempts at most. */
const LONGEST_PAUSE = 250;

/** How often, and for how long, storing is tried again. */
export interface SerialOptions {
  /** How often it is tried before the verdict is `undecided` (`contended`). Defaults to 50. */
  readonly attempts?: number;
}

/** What is given back where others were in the way each time. */
export type Undecided = Extract<Verdict<unknown>, { readonly outcome: 'undecided' }>;

export async function serially<T>(
  dialect: Dialect,
  db: Database,
  run: (transaction: Database) => Promise<T>,
  { attempts = ATTEMPTS }: SerialOptions,
): Promise<T | Undecided> {
  if (db.isTransaction) fault('serially begins its own transaction, and was given records of one; call it on those of the database.');
  if (!(Number.isInteger(attempts) && attempts > 0)) fault(`serially: attempts ${attempts} is not a number of attempts.`);
  let last: unknown;
  for (let attempt = 0; attempt < attempts; attempt++) {
    if (attempt > 0) await pause(attempt);
    try {
      return await begin(dialect, db).execute(async (transaction) => {
        const result = await run(transaction);
        // A question that the database refused has left a verdict open: the transaction is over all the same.
        const passing = causesOf(result).find((cause) => mayTryAgain(dialect, cause));
        if (passing) throw passing;
        return result;
      });
    } catch (error) {
      if (!mayTryAgain(dialect, error)) throw error;
      last = error;
    }
  }
  return contended(attempts, last);
}

function begin(dialect: Dialect, db: Database) {
  const transaction = db.transaction();
  return dialect.isAlwaysSerial ? transaction : transaction.setIsolationLevel('serializable');
}

function causesOf(result: unknown): unknown[] {
  const { unsettled } = (result ?? {}) as { readonly unsettled?: readonly Unsettled[] };
  return Array.isArray(unsettled) ? unsettled.map(({ cause }: Unsettled) => cause) : [];
}

export function mayTryAgain(dialect: Dialect, error: unknown): boolean {
  return errorsIn(error).some(dialect.mayTryAgain);
}

/** Not all at once again. */
function pause(attempt: number): Promise<void> {
  const milliseconds = Math.random() * Math.min(LONGEST_PAUSE, 4 * 2 ** Math.min(attempt, 10));
  return new Promise((resolve) => setTimeout(resolve, milliseconds));
}

function contended(attempts: number, last: unknown): Undecided {
  const open: Unsettled = { rule: 'contended', use: 'contended', places: [], severity: 'error', why: 'contended' };
  const cause = new Error(`Others were storing at the same time in each of ${attempts} attempts.`, { cause: last });
  return { outcome: 'undecided', warnings: [], unsettled: [Object.defineProperty(open, 'cause', { value: cause, enumerable: false })] };
}
