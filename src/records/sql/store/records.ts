import type { Undecided } from '../../../core/races/undecided.ts';
import type { Answer, Conflict, Question, Records, Scope } from '../../../core/stored/records.ts';
import { gapsIn } from '../checking/gaps.ts';
import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
import { Names, type SqlOptions } from '../tables/tables.ts';
import { answersIn } from './answers.ts';
import { ask } from './asking.ts';
import { databaseOf, isClient, ownOf, type RunStatement, type SqlClient, transactionOf } from './client.ts';
import { errorsIn, isPassing } from './errors.ts';
import { inSavepoint } from './savepoint.ts';
import { type SerialOptions, serially } from './serially.ts';
import { Shared } from './shared.ts';
import { type RefusedRow, storeRows } from './store-rows.ts';
import { connectionOf, watched } from './watched.ts';

/** What records are in: Kysely, or any client in a few lines. */
export type Client<X> = Database | SqlClient<X>;

/** Makes records over Kysely, or over any client. */
export interface RecordsOver {
  (db: Database, options?: SqlOptions): SqlRecords;
  <X = RunStatement>(client: SqlClient<X>, options?: SqlOptions): SqlRecords<X>;
}

/**
 * Records in a database.
 *
 * `X` is what the application stores through, inside a transaction that is begun here.
 */
export interface SqlRecords<X = Database> extends Records {
  /** The same records, of collections with a `scope` only the rows with these values. */
  within(scope: Scope): SqlRecords<X>;
  /**
   * The same records as a transaction of the application sees them; what was learnt of the tables is shared.
   *
   * @param options `isSerial`: the transaction is serialisable, and the application tries it again where it is refused for what others have
   *   stored; then rules that count are stored by, too
   * @param transaction that of Kysely, or of another client what sends a statement in it
   */
  in(transaction: Database | RunStatement, options?: { readonly isSerial?: boolean }): SqlRecords<X>;
  /**
   * Judges and stores in one transaction, so that every rule about records holds however many do so at once: "at most three open
   * bookings", too. It is serialisable, and tried again when the database refuses it for what others have stored, whatever the function
   * makes of that; beyond `attempts` the verdict is `undecided` (`contended`). What it gives back was true at the commit.
   *
   * @param run calls `judgeAndStore`, `amendAndStore` or the like with the records it is given, and stores through the transaction.
   *   It may be called several times, and must do nothing else
   */
  serially<T>(run: (records: SqlRecords<X>, transaction: X) => Promise<T>, options?: SerialOptions): Promise<T | Undecided>;
  /**
   * Stores many rows in one transaction (or in that of `in`), with as few calls of `store` as can be, and tells which of them a
   * constraint has refused; the others are stored. Any other error is thrown, and then nothing is.
   *
   * @param store is given some of the rows, in their order; what it has stored is undone before it is given fewer
   */
  storeRows<T>(rows: readonly T[], store: (rows: readonly T[], transaction: X) => Promise<unknown>): Promise<readonly RefusedRow<T>[]>;
  /** Whether an error says that others were in the way, so that the same may succeed when it is tried again. */
  mayTryAgain(error: unknown): boolean;
  conflictOf(error: unknown): Conflict | undefined;
  gaps: NonNullable<Records['gaps']>;
}

export function sqlRecords(dialect: Dialect, client: Client<unknown>, options: SqlOptions): SqlRecords {
  const db = isClient(client) ? databaseOf(client, dialect.language) : client;
  return recordsOf(
    dialect,
    db,
    new Shared(dialect, new Names(options), options.answers),
    dialect.isAlwaysSerial === true && db.isTransaction,
  );
}

/** @param isSerial whether they are those of a serialisable transaction */
function recordsOf(dialect: Dialect, db: Database, shared: Shared, isSerial: boolean, scope?: Scope): SqlRecords {
  const { names } = shared;
  return {
    ...(scope && { scope }),
    isSerial,
    ...(db.isTransaction && { answers: answersIn(dialect, db, shared.answers) }),
    within: (inner) => recordsOf(dialect, db, shared, isSerial, { ...scope, ...inner }),
    async ask(questions, signal) {
      const answerTo = (question: Question, isQuick?: boolean) => ask(dialect, db, shared, question, signal, isQuick);
      // Where there is a table too few, the questions to others have their answers.
      if (!db.isTransaction) return Promise.all(questions.map((question) => answerTo(question).catch(asError)));
      return askInside(dialect, db, questions, answerTo);
    },
    async orUndone(store) {
      if (!db.isTransaction) return store();
      const state = await watched(dialect, db);
      state.goOn();
      return inSavepoint(db, async () => store()).catch(async (error) => {
        if (isPassing(dialect, error)) state.end(error);
        await state.sealed();
        throw error;
      });
    },
    in(transaction, { isSerial: isTold = dialect.isAlwaysSerial === true } = {}) {
      const own = typeof transaction === 'function' ? transactionOf(transaction, dialect.language) : transaction;
      return recordsOf(dialect, own, shared, isTold, scope);
    },
    serially: (run, options = {}) =>
      serially(
        dialect,
        db,
        async (transaction) => run(recordsOf(dialect, transaction, shared, true, scope), await throughIn(transaction)),
        options,
      ),
    storeRows: (rows, store) =>
      storeRows(
        dialect,
        db,
        rows,
        async (some, transaction) => store(some, await throughIn(transaction)),
        (error) => conflictOf(dialect, db, shared, error) !== undefined,
      ),
    mayTryAgain: (error) => isPassing(dialect, error),
    conflictOf: (error) => conflictOf(dialect, db, shared, error),
    gaps: (needs) => gapsIn(dialect, db, names, needs),
  };
}

/**
 * A transaction has one connection, so its questions follow one another. One that failed is undone where it would end the transaction
 * (PostgreSQL), and leaves open what asked it alone; what nobody can undo ends the transaction for all.
 */
async function askInside(
  dialect: Dialect,
  db: Database,
  questions: readonly Question[],
  answerTo: (question: Question, isQuick: boolean) => Promise<Answer>,
): Promise<Answer[]> {
  const state = await watched(dialect, db);
  state.goOn();
  const all = async (isQuick: boolean) => {
    const answers: Answer[] = [];
    for (const question of questions) answers.push(await answerTo(question, isQuick));
    return answers;
  };
  try {
    if (!dialect.isEndedByErrors) return await all(false);
    if (!state.isCareful) return await all(true);
    return await inSavepoint(db, () => all(true)).catch((error) => {
      if (state.ended || !dialect.isKeyError?.(error)) throw error;
      return inSavepoint(db, () => all(false));
    });
  } catch (error) {
    if (isPassing(dialect, error) || (dialect.isEndedByErrors && !state.isCareful)) state.end(error);
    await state.sealed();
    throw error;
  }
}

/** What the application stores through: Kysely, or its own client on the connection that it has lent. */
async function throughIn(transaction: Database): Promise<Database> {
  return (ownOf(await connectionOf(transaction)) as Database | undefined) ?? transaction;
}

function asError(cause: unknown): Error {
  return cause instanceof Error ? cause : new Error(String(cause));
}

function conflictOf(dialect: Dialect, db: Database, shared: Shared, error: unknown): Conflict | undefined {
  const { names } = shared;
  for (const each of errorsIn(error)) {
    const violation = dialect.violation(each);
    if (!violation) continue;
    const { table, columns, refersTo, ...others } = violation;
    const collections = table === undefined ? undefined : names.collectionsIn(db, shared.wholeOf(table));
    return {
      ...others,
      ...(collections && { collections }),
      ...(columns && { columns: columns.map((name) => names.columnIn(db, collections, name)) }),
      ...(refersTo !== undefined && { refersTo: names.collectionsIn(db, shared.wholeOf(refersTo)) }),
    };
  }
  return undefined;
}
