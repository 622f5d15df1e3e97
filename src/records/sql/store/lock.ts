import { sql } from 'kysely';
import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
import { isPassing } from './errors.ts';

// Locks by name, taken before a transaction begins: what it reads is then what the one before it has stored.

const lines = new WeakMap<object, Map<string, Promise<unknown>>>();

/** How long somebody waits in a line. */
export interface Waiting {
  /** Milliseconds at most. */
  readonly within: number;
  readonly signal: AbortSignal | undefined;
}

/** Others held the lock for longer than somebody would wait. */
export const TOO_LONG = Symbol('too long');

/** Whether anybody of this process holds a name, or waits for it. */
export function hasLine(db: Database, name: string): boolean {
  return lines.get(db)?.has(name) === true;
}

/** Waits in this process first, so that those who wait hold no connection; who came first goes first. */
export async function inLine<T>(
  db: Database,
  names: readonly string[],
  { within, signal }: Waiting,
  run: (within: number) => Promise<T>,
): Promise<T | typeof TOO_LONG> {
  const line = lines.get(db) ?? new Map<string, Promise<unknown>>();
  lines.set(db, line);
  let leave = () => {};
  const mine = new Promise<void>((resolve) => {
    leave = resolve;
  });
  // All places are taken at once, so no two can wait for each other; who leaves without a turn lets the next one wait for those before.
  const before = Promise.all(names.map((name) => line.get(name)));
  const place = Promise.all([before, mine]);
  for (const name of names) line.set(name, place);
  void place.then(() => {
    for (const name of names) if (line.get(name) === place) line.delete(name);
  });
  const since = performance.now();
  try {
    if (!(await isReady(before, within, signal))) return TOO_LONG;
    return await run(within - (performance.now() - since));
  } finally {
    leave();
  }
}

/** Milliseconds that a timer can hold, and a database can wait (some 25 days). */
const LONGEST_TIMER = 2 ** 31 - 1;

async function isReady(before: Promise<unknown>, within: number, signal: AbortSignal | undefined): Promise<boolean> {
  signal?.throwIfAborted();
  let end = () => {};
  const given = new Promise<boolean>((resolve, reject) => {
    const timer = setTimeout(() => resolve(false), Math.min(within, LONGEST_TIMER));
    const abort = () => reject(signal?.reason);
    signal?.addEventListener('abort', abort, { once: true });
    end = () => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', abort);
    };
  });
  return Promise.race([before.then(() => true), given]).finally(end);
}

/** Databases behind a pooler that lends connections for single transactions: no lock of a connection can be given back there. */
const pooled = new WeakSet<object>();

/** What is held among processes, and how long it is waited for. */
export interface Lock {
  readonly names: readonly string[];
  /** Milliseconds to wait for others at most. */
  readonly within: number;
  /** It spares others a detour, and what follows is run without it, too. */
  readonly isPolite: boolean;
}

/** The same among processes, on one connection from the lock to its release. */
export async function locked<T>(
  dialect: Dialect,
  db: Database,
  { names, within, isPolite }: Lock,
  run: (connection: Database) => Promise<T>,
): Promise<T> {
  const { locks } = dialect;
  if ((names.length === 0 && !locks.isNeeded) || (isPolite && pooled.has(db))) return run(db);
  return db.connection().execute(async (connection) => {
    const release = async () => {
      try {
        return await locks.release(names, connection);
      } catch {
        // What cannot be given back goes with its connection.
        if (locks.cut)
          await sql
            .raw(locks.cut)
            .execute(connection)
            .catch(() => undefined);
        return true;
      }
    };
    try {
      await locks.take(names, connection, Math.min(within, LONGEST_TIMER));
    } catch (error) {
      // Some of the names may have been had.
      await release();
      if (isPolite && isPassing(dialect, error)) return run(connection);
      throw error;
    }
    try {
      return await run(connection);
    } finally {
      if (!(await release()) && !pooled.has(db)) {
        pooled.add(db);
        process.emitWarning(NOT_HELD);
      }
    }
  });
}
const NOT_HELD =
  'A lock that serially took could not be given back: a pooler that lends connections for single transactions stands between, and may keep it. Connect past it, or let it lend connections for whole sessions.';
