import type { Database, SqlTable } from '../tables/database.ts';
import type { ColumnFacts, Dialect } from '../tables/dialect.ts';
import type { Names } from '../tables/tables.ts';
import { Statements } from './statements.ts';

/** Milliseconds after which what was learnt of a table is learnt again: tables change while applications run. */
const LEARNT_FOR = 600_000;

const NOTHING_KNOWN: ColumnFacts = new Map();

/** What the records of a database and of its transactions have in common. */
export class Shared {
  /** What was learnt of tables, by name, so that it is asked once. */
  readonly #learnt = new Map<string, { readonly until: number; readonly facts: Promise<ColumnFacts> }>();
  #parts: ReadonlyMap<string, string> = new Map();
  readonly #dialect: Dialect;
  readonly names: Names;
  statements: Statements;

  /** The table of the answers that `once` gives again. */
  readonly answers: string | undefined;

  constructor(dialect: Dialect, names: Names, answers?: string) {
    this.answers = answers;
    this.#dialect = dialect;
    this.names = names;
    this.statements = new Statements(dialect);
  }

  factsOf(db: Database, table: SqlTable): Promise<ColumnFacts> | ColumnFacts {
    const { learn } = this.#dialect;
    if (!learn) return NOTHING_KNOWN;
    const name = nameOf(table);
    const known = this.#learnt.get(name);
    if (known && known.until > Date.now()) return known.facts;
    if (known) this.forget(table);
    const facts = this.#learnAll(learn, db, table);
    this.#learnt.set(name, { until: Date.now() + LEARNT_FOR, facts });
    // What could not be learnt is asked again.
    facts.catch(() => this.forget(table));
    return facts;
  }

  async #learnAll(learn: NonNullable<Dialect['learn']>, db: Database, table: SqlTable): Promise<ColumnFacts> {
    const [facts, parts] = await Promise.all([learn(db, table), this.#dialect.parts?.(db)]);
    if (parts) this.#parts = parts;
    return facts;
  }

  /** The table that a table is a part of, or itself. */
  wholeOf(table: string): string {
    return this.#parts.get(table) ?? table;
  }

  /** A question failed: the table may be another by now, and statements were made for what it was. */
  forget(table: SqlTable): void {
    if (this.#learnt.delete(nameOf(table))) this.statements = new Statements(this.#dialect);
  }
}

function nameOf({ schema, name }: SqlTable): string {
  return `${schema ?? ''}.${name}`;
}
