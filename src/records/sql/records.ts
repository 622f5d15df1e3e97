import { type RawBuilder, sql } from 'kysely';
import type { Answer, Conflict, Question, Records, StoredRow } from '../../core/stored/records.ts';
import type { ColumnFacts, Database, Dialect, Key, SqlTable, SqlTerm, Violated } from './dialect.ts';
import { gapsIn } from './gaps.ts';
import { collectionsIn, columnIn, columnOf, type SqlOptions, tableOf } from './tables.ts';

/** Keys in one query. Gains flatten out at this number, and statements stay small. */
const KEYS_A_QUERY = 1250;

/** Records in a database. */
export interface SqlRecords extends Records {
  /** The same records as a transaction of the application sees them; what was learnt of the tables is shared. */
  in(transaction: Database): SqlRecords;
  conflictOf(error: unknown): Conflict | undefined;
  gaps: NonNullable<Records['gaps']>;
}

/** What was learnt of tables, by name, so that it is asked once. */
type Learnt = Map<string, Promise<ColumnFacts>>;

export function sqlRecords(dialect: Dialect, db: Database, options: SqlOptions, learnt: Learnt = new Map()): SqlRecords {
  const asking = new Asking(dialect, db, options, learnt);
  return {
    ask: (questions, signal) => Promise.all(questions.map((question) => asking.answer(question, signal))),
    in: (transaction) => sqlRecords(dialect, transaction, options, learnt),
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
    readonly learnt: Learnt,
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
    let known = this.learnt.get(name);
    if (!known) {
      known = learn(this.db, table);
      this.learnt.set(name, known);
      // What could not be learnt is asked again.
      known.catch(() => this.learnt.delete(name));
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
      const { rows } = await this.#query(question, part, table, known).execute(this.db);
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

  #query(question: Question, keys: readonly Key[], table: SqlTable, known: ColumnFacts): RawBuilder<FoundRow> {
    const { dialect, options } = this;
    const { collection, want, most, kinds } = question;
    const column = (name: string) => columnOf(options, collection, name, kinds[name] ?? '');
    const terms = question.terms.map((term, index): SqlTerm => ({ column: column(term.column), is: term.is, index }));
    const source = dialect.keys(keys, terms, table, known);
    const matches = sql.join(
      terms.map((term) => compare(dialect, term, known)),
      sql` and `,
    );
    const { ordinal } = dialect;
    if (want === 'exists')
      return sql`select ${dialect.listed(ordinal)} as list from ${source} where exists (select 1 from ${table.ref} as t where ${matches})`;
    if (want === 'count')
      return sql`select ${ordinal} as ordinal, count(*) as c0 from ${source} inner join ${table.ref} as t on ${matches} group by ${ordinal}`;
    const columns = sql.join(question.columns.map((name, index) => sql`${dialect.shown(column(name))} as ${sql.ref(`c${index}`)}`));
    if (most === undefined)
      return sql<FoundRow>`select ${ordinal} as ordinal, ${columns} from ${source} inner join ${table.ref} as t on ${matches}`;
    const rows = sql`select ${ordinal} as ordinal, ${columns}, row_number() over (partition by ${ordinal}) as n from ${source} inner join ${table.ref} as t on ${matches}`;
    return sql`select * from (${rows}) as r where n <= ${most}`;
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

// The column stands on the left, so that its type and its collation apply.
function compare(dialect: Dialect, term: SqlTerm, known: ColumnFacts): RawBuilder<unknown> {
  const { column, is } = term;
  const { ref } = column;
  if (is === 'missing') return sql`${ref} is null`;
  const asked = dialect.asked(term);
  switch (is) {
    case 'equal':
      return sql`${ref} = ${asked}`;
    case 'ignoringCase':
      return dialect.ignoringCase(column, asked, known);
    case 'otherThan':
      return dialect.otherThan(column, asked);
    case 'above':
      return sql`${ref} > ${asked}`;
    case 'below':
      return sql`${ref} < ${asked}`;
    case 'notAbove':
      return sql`${ref} <= ${asked}`;
    case 'notBelow':
      return sql`${ref} >= ${asked}`;
  }
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
