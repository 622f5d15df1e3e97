import type { RawBuilder } from 'kysely';
import type { Answer, Question } from '../../../core/stored/records.ts';
import type { Database } from '../tables/database.ts';
import type { Dialect, Key, SqlTerm } from '../tables/dialect.ts';
import { inSavepoint } from './savepoint.ts';
import type { Shared } from './shared.ts';
import { type Asked, namedIn } from './statements.ts';
import { type FoundRow, type KeyAnswer, WANTS } from './wants.ts';

/** Keys in one query. Gains flatten out at this number, and statements stay small. */
const KEYS_A_QUERY = 1250;

/** Keys in one query where each has a select of its own. */
const KEYS_APART = 100;

const NONE: ReadonlySet<number> = new Set();

/**
 * Asks one question, in as many statements as it needs.
 *
 * @param named the database as the application has it: its plugins say what tables and columns are called
 * @param isQuick a key that cannot be cast makes it fail: whoever asks undoes that, and asks again
 */
export async function ask(
  dialect: Dialect,
  named: Database,
  shared: Shared,
  { isLocked, ...rest }: Question,
  signal: AbortSignal,
  isQuick = false,
): Promise<Answer> {
  // What plugins would do to names has been done once they stand in a statement.
  const db = named.withoutPlugins();
  // Outside a transaction a lock would hold nothing, and somebody who may only read could not have it.
  const question: Question = isLocked && db.isTransaction ? { ...rest, isLocked } : rest;
  const table = shared.names.tableOf(named, question.collection);
  const known = await shared.factsOf(db, table);
  if (db.isTransaction && known.engine !== undefined)
    throw new Error(
      `The table "${table.name}" is kept by ${known.engine}, which knows no transactions; have it kept by an engine that does.`,
    );
  const asked: Asked = { ...namedIn(named, shared.names, question), question, table, known };
  const asking = new SqlAsking(dialect, db, shared, asked, signal, isQuick);
  const parts: Promise<Answers>[] = [];
  const size = question.most !== undefined && dialect.apart ? KEYS_APART : KEYS_A_QUERY;
  for (let start = 0; start < question.keys.length; start += size) {
    const part = asking.part(question.keys.slice(start, start + size));
    if (db.isTransaction) await part;
    parts.push(part);
  }
  const [first, ...others] = await Promise.all(parts);
  return (others.length === 0 ? (first ?? []) : [first, ...others].flat(1)) as Answer;
}

type Answers = KeyAnswer[];

class SqlAsking {
  readonly #dialect: Dialect;
  readonly #db: Database;
  readonly #shared: Shared;
  readonly #asked: Asked;
  readonly #signal: AbortSignal;
  readonly #isQuick: boolean;

  constructor(dialect: Dialect, db: Database, shared: Shared, asked: Asked, signal: AbortSignal, isQuick: boolean) {
    this.#dialect = dialect;
    this.#db = db;
    this.#shared = shared;
    this.#asked = asked;
    this.#signal = signal;
    this.#isQuick = isQuick;
  }

  /** The answers to some keys; none of them is for a key that the database could never hold. */
  async part(keys: readonly Key[]): Promise<Answers> {
    const { question, terms, known } = this.#asked;
    const { cannotHold, mayNotCast } = this.#dialect;
    const answers: Answers = keys.map(() => WANTS[question.want].none());
    const indexes = [...keys.keys()].filter((index) => !cannotHold?.(keys[index] as Key));
    // In a transaction an error would end it: what may fail is tried beforehand.
    const isTried = this.#db.isTransaction && !this.#isQuick && mayNotCast !== undefined && terms.some((term) => mayNotCast(term, known));
    const uncast = isTried ? await this.#uncast(indexes.map((index) => keys[index] as Key)) : NONE;
    const sound = indexes.filter((_, at) => !uncast.has(at));
    await this.#fill(answers, keys, sound, isTried);
    return answers;
  }

  /** @param isTried whether every one of these keys is known to be a value of its column's type */
  async #fill(answers: Answers, keys: readonly Key[], indexes: readonly number[], isTried: boolean): Promise<void> {
    if (indexes.length === 0) return;
    this.#signal.throwIfAborted();
    const part = indexes.length === keys.length ? keys : indexes.map((index) => keys[index] as Key);
    const { question, table } = this.#asked;
    try {
      const rows = await this.#rows(question, part);
      const { read, isListed } = WANTS[question.want];
      const found = isListed ? (await this.#ordinals(rows[0], part)).map((ordinal): FoundRow => ({ ordinal })) : rows;
      for (const row of found) {
        const index = indexes[Number(row.ordinal)] as number;
        answers[index] = read(row, answers[index] as KeyAnswer, question);
      }
    } catch (error) {
      this.#shared.forget(table);
      if (isTried || this.#isQuick || !this.#dialect.isKeyError?.(error)) throw error;
      // The transaction is over, unless a savepoint undoes it.
      if (this.#db.isTransaction && this.#dialect.isEndedByErrors) throw error;
      const uncast = await this.#uncast(part);
      if (uncast.size === 0) throw error;
      // A key that is no value of its column's type equals no row; the others are asked without it.
      const others = indexes.filter((_, at) => !uncast.has(at));
      await this.#fill(answers, keys, others, true);
    }
  }

  async #rows(question: Question, keys: readonly Key[]): Promise<readonly FoundRow[]> {
    const statement = this.#shared.statements.of(this.#db, { ...this.#asked, question }, keys);
    return (await this.#connected((db) => db.executeQuery<FoundRow>(statement))).rows;
  }

  /** Nobody waits any more for an answer that was aborted while the pool had no connection: then the database is not asked at all. */
  #connected<T>(run: (db: Database) => Promise<T>): Promise<T> {
    if (this.#db.isTransaction) return run(this.#db);
    return this.#db.connection().execute((connection) => {
      this.#signal.throwIfAborted();
      return run(connection);
    });
  }

  /** The keys for which there is a row; asked one row each where the list of them has been cut. */
  async #ordinals(row: FoundRow | undefined, keys: readonly Key[]): Promise<number[]> {
    const ordinals = ordinalsIn(row);
    if (isWhole(ordinals, row)) return ordinals;
    const rows = await this.#rows({ ...this.#asked.question, want: 'count' }, keys);
    return rows.map(({ ordinal }) => Number(ordinal));
  }

  /**
   * Which keys cannot be cast to their columns' types. None, when that is not why a question failed.
   *
   * @throws the database's error when a constant of the rule, or a flag, cannot be cast: then the rule does not fit the table
   */
  async #uncast(keys: readonly Key[]): Promise<ReadonlySet<number>> {
    const uncast = new Set<number>();
    for (const term of this.#asked.terms) {
      const cast = (indexes: readonly number[]) =>
        this.#dialect.cast?.(
          term,
          indexes.map((at) => (keys[at] as Key)[term.index] as Key[number]),
          this.#asked.table,
          this.#asked.known,
        );
      if (!cast([])) continue;
      // Where nothing at all can be cast, the keys are not at fault.
      const control = await this.#rejects(cast([]));
      if (control) throw control;
      const find = async (indexes: readonly number[]): Promise<void> => {
        const error = indexes.length === 0 ? undefined : await this.#rejects(cast(indexes));
        if (!error) return;
        if (term.isFixed || term.column.storedAs === 'boolean' || !this.#dialect.isKeyError?.(error) || !isEquality(term.is)) throw error;
        if (indexes.length === 1) {
          uncast.add(indexes[0] as number);
          return;
        }
        const middle = indexes.length >> 1;
        await find(indexes.slice(0, middle));
        await find(indexes.slice(middle));
      };
      await find([...keys.keys()]);
    }
    return uncast;
  }

  /** The error of a statement that only tries something; a transaction goes on after it. */
  async #rejects(statement: RawBuilder<unknown> | undefined): Promise<unknown> {
    if (!statement) return undefined;
    try {
      await this.#connected((db) => (db.isTransaction ? inSavepoint(db, () => statement.execute(db)) : statement.execute(db)));
      return undefined;
    } catch (error) {
      return error;
    }
  }
}

/** Whether a value that is none of the column's type simply equals no row. */
function isEquality(is: SqlTerm['is']): boolean {
  return is === 'equal' || is === 'ignoringCase';
}

/** One list instead of a row for each key: most of the time of a large question is spent on reading rows. */
function ordinalsIn(row: FoundRow | undefined): number[] {
  const list = row?.list;
  return typeof list === 'string' && list !== '' ? list.split(',').map(Number) : [];
}

/** Whether a list is whole: a session may cut long ones (`group_concat_max_len`), even within its last number. */
function isWhole(ordinals: readonly number[], row: FoundRow | undefined): boolean {
  return ordinals.length === Number(row?.found ?? 0) && ordinals.reduce((sum, ordinal) => sum + ordinal, 0) === Number(row?.total ?? 0);
}
