import { fault } from '../../../core/basics/fault.ts';
import { type Undecided, undecided } from '../../../core/races/undecided.ts';
import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
import { needsConnection } from './client.ts';
import { isPassing } from './errors.ts';
import { hasLine, inLine, type Lock, locked, TOO_LONG } from './lock.ts';
import { InDoubt, type Watched, watched } from './watched.ts';

// Any rule about records holds for all that is judged and stored this way: each attempt is one serialisable transaction, so that
// the database refuses what could not have happened one after another, and what it refuses is tried again. A lock saves attempts
// and decides nothing: what two locks keep apart by mistake, the database still refuses.

/** Attempts when the caller says nothing. */
const ATTEMPTS = 50;
/** Milliseconds between attempts at most. */
const LONGEST_PAUSE = 250;
/** Milliseconds to wait for a lock when the caller says nothing. */
const LONGEST_WAIT = 60_000;
/** Where those stand in line who were in each other's way. */
const CONTENDED = 'jestril contended';
/** Milliseconds that they wait for other processes at most: standing in line spares attempts, and is not needed. */
const POLITE = 5000;

/** How often, and for how long, storing is tried again. */
export interface SerialOptions {
  /** How often it is tried before the verdict is `undecided` (`contended`). Defaults to 50. */
  readonly attempts?: number;
  /**
   * Those with a name in common wait for each other in line, in every process, before their transactions begin: the values that rules count
   * by (`locksFor(intake, submission)`), or texts of one's own.
   */
  readonly lock?: string | readonly string[];
  /** Milliseconds to wait for a lock before the verdict is `undecided` (`contended`). Defaults to 60,000. */
  readonly within?: number;
  /** Ends the waiting: then its reason is thrown. */
  readonly signal?: AbortSignal;
}

export async function serially<T>(
  dialect: Dialect,
  db: Database,
  run: (transaction: Database) => Promise<T>,
  { attempts: most = ATTEMPTS, lock = [], within = LONGEST_WAIT, signal }: SerialOptions,
): Promise<T | Undecided> {
  if (db.isTransaction) fault('serially begins its own transaction, and was given records of one; call it on those of the database.');
  needsConnection(db);
  if (!(Number.isInteger(most) && most > 0)) fault(`serially: attempts ${most} is not a number of attempts.`);
  if (!(within > 0)) fault(`serially: within ${within} is not a number of milliseconds.`);
  const names = [...new Set([lock].flat())].sort();
  const attempts = new Attempts(dialect, most, run);
  const { isNeeded } = dialect.locks;
  const own = (left: number): Lock => ({ names, within: left, isPolite: false });
  // Where some stand in line, whoever comes stands behind them: newcomers, who are quicker, would be in their way again and again.
  const first = async () => {
    if (hasLine(db, CONTENDED)) return undefined;
    if (names.length === 0 && !isNeeded) return attempts.once(db);
    return inLine(db, names, { within, signal }, (left) => locked(dialect, db, own(left), (connection) => attempts.once(connection)));
  };
  const others = () =>
    inLine(db, [...names, CONTENDED], { within, signal }, (left) =>
      locked(dialect, db, own(left), (connection) => {
        const behind: Lock = { names: isNeeded ? [] : [CONTENDED], within: POLITE, isPolite: true };
        return isNeeded ? attempts.untilDone(connection) : locked(dialect, connection, behind, (held) => attempts.untilDone(held));
      }),
    );
  try {
    const done = (await first()) ?? (await others());
    if (done === TOO_LONG) return contended(`Others held the lock for ${within} ms.`, undefined);
    return done ? done.result : contended(`Others were storing at the same time in each of ${most} attempts.`, attempts.last);
  } catch (error) {
    if (isPassing(dialect, error)) return contended(`Others held the lock for ${within} ms.`, error);
    throw error;
  }
}

interface Done<T> {
  readonly result: T;
}

class Attempts<T> {
  /** What was in the way of the last one. */
  last: unknown;
  #made = 0;
  /** A question failed for another reason than others: it is asked so that this can be undone. */
  #isCareful = false;
  readonly #dialect: Dialect;
  readonly #most: number;
  readonly #run: (transaction: Database) => Promise<T>;

  constructor(dialect: Dialect, most: number, run: (transaction: Database) => Promise<T>) {
    this.#dialect = dialect;
    this.#most = most;
    this.#run = run;
  }

  async untilDone(db: Database): Promise<Done<T> | undefined> {
    while (this.#made < this.#most) {
      if (this.#made > 1) await pause(this.#made);
      const done = await this.once(db);
      if (done) return done;
    }
    return undefined;
  }

  /** One attempt; `undefined` when others were in the way. What the function gives back is told only of a transaction that committed. */
  async once(db: Database): Promise<Done<T> | undefined> {
    this.#made++;
    let state: Watched | undefined;
    try {
      const result = await this.#begin(db).execute(async (transaction) => {
        state = await watched(this.#dialect, transaction);
        state.isCareful = this.#isCareful;
        return this.#run(transaction);
      });
      return { result };
    } catch (error) {
      if (error instanceof InDoubt) throw error;
      const cause = endOf(state)?.error ?? error;
      this.last = cause;
      if (isPassing(this.#dialect, cause)) return undefined;
      // Asked quickly, a question that failed has ended all; asked with care, its failure may be its own.
      if (!endOf(state) || this.#isCareful || !this.#dialect.isEndedByErrors) throw error;
      this.#isCareful = true;
      this.#made--;
      return this.once(db);
    }
  }

  #begin(db: Database) {
    const transaction = db.transaction();
    return this.#dialect.isAlwaysSerial ? transaction : transaction.setIsolationLevel('serializable');
  }
}

// A function of its own, since what the compiler sees does not change it.
function endOf(state: Watched | undefined): Watched['ended'] {
  return state?.ended;
}

/** Not all at once again. */
function pause(attempt: number): Promise<void> {
  const milliseconds = Math.random() * Math.min(LONGEST_PAUSE, 4 * 2 ** Math.min(attempt, 10));
  return new Promise((resolve) => setTimeout(resolve, milliseconds));
}

function contended(told: string, last: unknown): Undecided {
  return undecided('contended', 'contended', new Error(told, { cause: last }));
}
