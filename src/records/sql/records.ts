import type { Answer, Conflict, Question, Records, StoredRow } from '../../core/stored/records.ts';
import type { ColumnFacts, Database, Dialect, Key, SqlTable, Violated } from './dialect.ts';
import { gapsIn } from './gaps.ts';
import { Statements } from './statements.ts';
import { collectionsIn, columnIn, type SqlOptions, tableOf } from './tables.ts';

/** Keys in one query. Gains flatten out at this number, and statements stay small. */
const KEYS_A_QUERY = 1250;

/** Records in a database. */
export interface SqlRecords extends Records {
  /** The same records as a transaction of the application sees them; what was learnt of the tables is shared. */
  in(transaction: Database): SqlRecords;
  conflictOf(error: unknown): Conflict | undefined;
  gaps: NonNullable<Records['gaps']>;
}

/** What the records of a database and of its transactions have in common. */
interface Shared {
  /** What was learnt of tables, by name, so that it is asked once. */
  readonly learnt: Map<string, Promise<ColumnFacts>>;
  readonly statements: Statements;
}

export function sqlRecords(dialect: Dialect, db: Database, options: SqlOptions, known?: Shared): SqlRecords {
  const shared = known ?? { learnt: new Map(), statements: new Statements(dialect, options) };
  const asking = new Asking(dialect, db, options, shared);
  return {
    ask: (questions, signal) => Promise.all(questions.map((question) => asking.answer(question, signal))),
    in: (transaction) => sqlRecords(dialect, transaction, options, shared),
    conflictOf: (error) => conflictOf(dialect, options, error),
    gaps: (needs) => gapsIn(dialect, db, options, needs),
  };
}

const NOTHING_KNOWN: ColumnFacts = new Map();

class Asking {
  constructor(
    readonly dialect: Dialect,
    readonly db: Database,
    readonly options: SqlOptions,
    readonly shared: Shared,
  ) {}

  async answer(question: Question, signal: AbortSignal): Promise<Answer> {
    const table = tableOf(this.options, question.collection);
    const known = await this.#known(table);
    const parts: Promise<(StoredRow[] | number)[]>[] = [];
    for (let start = 0; start < question.keys.length; start += KEYS_A_QUERY)
      parts.push(this.#part(question, question.keys.slice(start, start + KEYS_A_QUERY), table, known, signal));
    const [first, ...others] = await Promise.all(parts);
    return (others.length === 0 ? (first ?? []) : [first, ...others].flat(1)) as Answer;
  }

  #known(table: SqlTable): Promise<ColumnFacts> | ColumnFacts {
    const { learn } = this.dialect;
    if (!learn) return NOTHING_KNOWN;
    const name = `${table.schema ?? ''}.${table.name}`;
    let known = this.shared.learnt.get(name);
    if (!known) {
      known = learn(this.db, table);
      this.shared.learnt.set(name, known);
      // What could not be learnt is asked again.
      known.catch(() => this.shared.learnt.delete(name));
    }
    return known;
  }

  /** The answers to some keys; none of them is for a key that the database could never hold. */
  async #part(question: Question, keys: readonly Key[], table: SqlTable, known: ColumnFacts, signal: AbortSignal) {
    const answers: (StoredRow[] | number)[] = keys.map(() => (question.want === 'rows' ? [] : 0));
    const { cannotHold } = this.dialect;
    const asked: number[] = [];
    for (const [index, key] of keys.entries()) if (!cannotHold?.(key)) asked.push(index);
    await this.#fill(question, keys, asked, answers, table, known, signal);
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
  ): Promise<void> {
    if (asked.length === 0) return;
    if (signal.aborted) throw signal.reason;
    const part = asked.length === keys.length ? keys : asked.map((index) => keys[index] as Key);
    try {
      const { rows } = await this.db.executeQuery<FoundRow>(this.shared.statements.of(this.db, question, part, table, known));
      if (question.want === 'exists') for (const ordinal of ordinalsIn(rows[0])) answers[asked[ordinal] as number] = 1;
      else for (const row of rows) collect(question, answers, asked[Number(row.ordinal)] as number, row);
    } catch (error) {
      const isOnlyEqual = question.terms.every(({ is }) => is === 'equal' || is === 'ignoringCase' || is === 'missing');
      if (!isOnlyEqual || !this.dialect.isKeyError?.(error)) throw error;
      // One key is no value of its column's type, so no row equals it; the others are asked without it.
      if (asked.length === 1) return;
      const middle = asked.length >> 1;
      await this.#fill(question, keys, asked.slice(0, middle), answers, table, known, signal);
      await this.#fill(question, keys, asked.slice(middle), answers, table, known, signal);
    }
  }
}

interface FoundRow {
  readonly ordinal: number | bigint | string;
  readonly [column: string]: unknown;
}

/** One list instead of a row for each key: most of the time of a large question is spent on reading rows. */
function ordinalsIn(row: FoundRow | undefined): number[] {
  const list = row?.list;
  return typeof list === 'string' && list !== '' ? list.split(',').map(Number) : [];
}

function collect({ want, columns }: Question, answers: (StoredRow[] | number)[], index: number, row: FoundRow): void {
  if (want === 'rows') (answers[index] as StoredRow[]).push(Object.fromEntries(columns.map((column, at) => [column, row[`c${at}`]])));
  else answers[index] = Number(row.c0);
}

/** Errors are wrapped by whatever stands between the driver and the application. */
const DEEPEST_CAUSE = 5;

function conflictOf(dialect: Dialect, options: SqlOptions, error: unknown): Conflict | undefined {
  let inside = error;
  for (let depth = 0; depth < DEEPEST_CAUSE && typeof inside === 'object' && inside !== null; depth++) {
    const violation = dialect.violation(inside as Violated);
    if (violation) {
      const { table, columns, refersTo, ...rest } = violation;
      const collections = table === undefined ? undefined : collectionsIn(options, table);
      return {
        ...rest,
        ...(collections && { collections }),
        ...(columns && { columns: columns.map((name) => columnIn(options, collections ?? Object.keys(options.tables ?? {}), name)) }),
        ...(refersTo !== undefined && { refersTo: collectionsIn(options, refersTo) }),
      };
    }
    inside = (inside as Violated).cause;
  }
  return undefined;
}
