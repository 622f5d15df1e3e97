import type { RawBuilder } from 'kysely';
import type { Answer, Conflict, Question, Records, StoredRow } from '../../core/stored/records.ts';
import type { ColumnFacts, Database, Dialect, Key, SqlTable, SqlTerm, Violated } from './dialect.ts';
import { gapsIn } from './gaps.ts';
import { inSavepoint } from './savepoint.ts';
import { mayTryAgain, type SerialOptions, serially, type Undecided } from './serially.ts';
import { Statements, termsOf } from './statements.ts';
import { Names, type SqlOptions } from './tables.ts';

/** Keys in one query. Gains flatten out at this number, and statements stay small. */
const KEYS_A_QUERY = 1250;

/** Records in a database. */
export interface SqlRecords extends Records {
  /** The same records as a transaction of the application sees them; what was learnt of the tables is shared. */
  in(transaction: Database): SqlRecords;
  /**
   * Judges and stores in one transaction, so that every rule about records holds however many do so at once: "at most three open
   * bookings", too. It is serialisable, and tried again when the database refuses it for what others have stored; beyond
   * `attempts` the verdict is `undecided` (`contended`).
   *
   * @param run calls `judgeAndStore`, `amendAndStore` or the like with the records it is given, and stores through the transaction.
   *   It may be called several times, and must do nothing else
   */
  serially<T>(run: (records: SqlRecords, transaction: Database) => Promise<T>, options?: SerialOptions): Promise<T | Undecided>;
  /** Whether an error says that others were in the way, so that the same may succeed when it is tried again. */
  mayTryAgain(error: unknown): boolean;
  conflictOf(error: unknown): Conflict | undefined;
  gaps: NonNullable<Records['gaps']>;
}

/** Milliseconds after which what was learnt of a table is learnt again: tables change while applications run. */
const LEARNT_FOR = 600_000;

/** What the records of a database and of its transactions have in common. */
class Shared {
  /** What was learnt of tables, by name, so that it is asked once. */
  readonly #learnt = new Map<string, { readonly until: number; readonly facts: Promise<ColumnFacts> }>();
  readonly #dialect: Dialect;
  readonly names: Names;
  statements: Statements;

  constructor(dialect: Dialect, names: Names) {
    this.#dialect = dialect;
    this.names = names;
    this.statements = new Statements(dialect, names);
  }

  factsOf(db: Database, table: SqlTable, learn: NonNullable<Dialect['learn']>): Promise<ColumnFacts> {
    const name = nameOf(table);
    const known = this.#learnt.get(name);
    if (known && known.until > Date.now()) return known.facts;
    if (known) this.forget(table);
    const facts = learn(db, table);
    this.#learnt.set(name, { until: Date.now() + LEARNT_FOR, facts });
    // What could not be learnt is asked again.
    facts.catch(() => this.forget(table));
    return facts;
  }

  /** A question failed: the table may be another by now, and statements were made for what it was. */
  forget(table: SqlTable): void {
    if (this.#learnt.delete(nameOf(table))) this.statements = new Statements(this.#dialect, this.names);
  }
}

function nameOf({ schema, name }: SqlTable): string {
  return `${schema ?? ''}.${name}`;
}

export function sqlRecords(dialect: Dialect, db: Database, options: SqlOptions): SqlRecords {
  return recordsOf(dialect, db, new Shared(dialect, new Names(options)));
}

function recordsOf(dialect: Dialect, db: Database, shared: Shared): SqlRecords {
  const { names } = shared;
  const bare = db.withoutPlugins();
  const asking = new Asking(dialect, db, bare, shared);
  return {
    async ask(questions, signal) {
      if (!db.isTransaction) return Promise.all(questions.map((question) => asking.answer(question, signal)));
      // A transaction has one connection: what one question tries in a savepoint must not meet another.
      const answers: Answer[] = [];
      for (const question of questions) answers.push(await asking.answer(question, signal));
      return answers;
    },
    orUndone: async (store) => (db.isTransaction ? inSavepoint(db, async () => store()) : store()),
    in: (transaction) => recordsOf(dialect, transaction, shared),
    serially: (run, options = {}) =>
      serially(dialect, db, (transaction) => run(recordsOf(dialect, transaction, shared), transaction), options),
    mayTryAgain: (error) => mayTryAgain(dialect, error),
    conflictOf: (error) => conflictOf(dialect, db, names, error),
    gaps: (needs) => gapsIn(dialect, bare, db, names, needs),
  };
}

const NOTHING_KNOWN: ColumnFacts = new Map();
const NONE: ReadonlySet<number> = new Set();

class Asking {
  constructor(
    readonly dialect: Dialect,
    /** As the application has it: its plugins say what tables and columns are called. */
    readonly named: Database,
    readonly db: Database,
    readonly shared: Shared,
  ) {}

  async answer(question: Question, signal: AbortSignal): Promise<Answer> {
    const table = this.shared.names.tableOf(this.named, question.collection);
    const known = await this.#known(table);
    const parts: Promise<(StoredRow[] | number)[]>[] = [];
    for (let start = 0; start < question.keys.length; start += KEYS_A_QUERY) {
      const part = this.#part(question, question.keys.slice(start, start + KEYS_A_QUERY), table, known, signal);
      if (this.db.isTransaction) await part;
      parts.push(part);
    }
    const [first, ...others] = await Promise.all(parts);
    return (others.length === 0 ? (first ?? []) : [first, ...others].flat(1)) as Answer;
  }

  /** The keys for which there is a row; asked one row each where the list of them has been cut. */
  async #ordinals(
    row: FoundRow | undefined,
    question: Question,
    part: readonly Key[],
    table: SqlTable,
    known: ColumnFacts,
  ): Promise<number[]> {
    const ordinals = ordinalsIn(row);
    if (isWhole(ordinals, row)) return ordinals;
    const counted: Question = { ...question, want: 'count' };
    const { rows } = await this.db.executeQuery<FoundRow>(this.shared.statements.of(this.named, counted, part, table, known));
    return rows.map(({ ordinal }) => Number(ordinal));
  }

  #known(table: SqlTable): Promise<ColumnFacts> | ColumnFacts {
    const { learn } = this.dialect;
    return learn ? this.shared.factsOf(this.db, table, learn) : NOTHING_KNOWN;
  }

  /** The answers to some keys; none of them is for a key that the database could never hold. */
  async #part(question: Question, keys: readonly Key[], table: SqlTable, known: ColumnFacts, signal: AbortSignal) {
    const answers: (StoredRow[] | number)[] = keys.map(() => (question.want === 'rows' ? [] : 0));
    const { cannotHold } = this.dialect;
    const asked: number[] = [];
    for (const [index, key] of keys.entries()) if (!cannotHold?.(key)) asked.push(index);
    const { mayNotCast } = this.dialect;
    // In a transaction an error would end it: what may fail is tried beforehand.
    const isTried =
      this.db.isTransaction && mayNotCast && termsOf(this.named, this.shared.names, question).some((term) => mayNotCast(term, known));
    const uncast = isTried
      ? await this.#uncast(
          question,
          asked.map((index) => keys[index] as Key),
          table,
        )
      : NONE;
    await this.#fill(
      question,
      keys,
      asked.filter((_, at) => !uncast.has(at)),
      answers,
      table,
      known,
      signal,
      isTried === true,
    );
    return answers;
  }

  async #fill(
    question: Question,
    keys: readonly Key[],
    asked: readonly number[],
    answers: (StoredRow[] | number)[],
    table: SqlTable,
    known: ColumnFacts,
    signal: AbortSignal,
    isChecked = false,
  ): Promise<void> {
    if (asked.length === 0) return;
    if (signal.aborted) throw signal.reason;
    const part = asked.length === keys.length ? keys : asked.map((index) => keys[index] as Key);
    try {
      const { rows } = await this.db.executeQuery<FoundRow>(this.shared.statements.of(this.named, question, part, table, known));
      if (question.want === 'exists') {
        for (const ordinal of await this.#ordinals(rows[0], question, part, table, known)) answers[asked[ordinal] as number] = 1;
      } else for (const row of rows) collect(question, answers, asked[Number(row.ordinal)] as number, row);
    } catch (error) {
      this.shared.forget(table);
      if (isChecked || !this.dialect.isKeyError?.(error)) throw error;
      const uncast = await this.#uncast(question, part, table);
      if (uncast.size === 0) throw error;
      // A key that is no value of its column's type equals no row; the others are asked without it.
      const others = asked.filter((_, at) => !uncast.has(at));
      await this.#fill(question, keys, others, answers, table, known, signal, true);
    }
  }

  /**
   * Which keys cannot be cast to their columns' types. None, when that is not why a question failed.
   *
   * @throws the database's error when a constant of the rule, or a flag, cannot be cast: then the rule does not fit the table
   */
  async #uncast(question: Question, keys: readonly Key[], table: SqlTable): Promise<ReadonlySet<number>> {
    const uncast = new Set<number>();
    for (const term of termsOf(this.named, this.shared.names, question)) {
      const cast = (indexes: readonly number[]) =>
        this.dialect.cast?.(
          term,
          indexes.map((at) => (keys[at] as Key)[term.index] as Key[number]),
          table,
        );
      if (!cast([])) continue;
      // Where nothing at all can be cast, the keys are not at fault.
      const control = await this.#rejects(cast([]));
      if (control) throw control;
      const find = async (indexes: readonly number[]): Promise<void> => {
        const error = indexes.length === 0 ? undefined : await this.#rejects(cast(indexes));
        if (!error) return;
        if (term.isFixed || term.column.kind === 'flag' || !this.dialect.isKeyError?.(error) || !isEquality(term.is)) throw error;
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
    const run = () => statement.execute(this.db);
    try {
      await (this.db.isTransaction ? inSavepoint(this.db, run) : run());
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

interface FoundRow {
  readonly found?: number | bigint | string;
  readonly total?: number | bigint | string | null;
  readonly ordinal: number | bigint | string;
  readonly [column: string]: unknown;
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

function collect({ want, columns }: Question, answers: (StoredRow[] | number)[], index: number, row: FoundRow): void {
  if (want === 'rows') (answers[index] as StoredRow[]).push(Object.fromEntries(columns.map((column, at) => [column, row[`c${at}`]])));
  else answers[index] = Number(row.c0);
}

/** Errors are wrapped by whatever stands between the driver and the application. */
const DEEPEST_CAUSE = 5;

function conflictOf(dialect: Dialect, db: Database, names: Names, error: unknown): Conflict | undefined {
  let inside = error;
  for (let depth = 0; depth < DEEPEST_CAUSE && typeof inside === 'object' && inside !== null; depth++) {
    const violation = dialect.violation(inside as Violated);
    if (violation) {
      const { table, columns, refersTo, ...rest } = violation;
      const collections = table === undefined ? undefined : names.collectionsIn(db, table);
      return {
        ...rest,
        ...(collections && { collections }),
        ...(columns && { columns: columns.map((name) => names.columnIn(db, collections, name)) }),
        ...(refersTo !== undefined && { refersTo: names.collectionsIn(db, refersTo) }),
      };
    }
    inside = (inside as Violated).cause;
  }
  return undefined;
}
