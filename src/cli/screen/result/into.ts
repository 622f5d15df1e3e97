import { refusalOf } from '../../../core/beside.ts';
import { planOf } from '../../../core/intake.ts';
import type { FieldSteps, Plan } from '../../../core/plan/plan.ts';
import type { Database } from '../../../records/sql/tables/database.ts';
import type { LoadedIntake } from '../../basics/loading.ts';
import { Misuse } from '../../basics/misuse.ts';
import { packageOf } from '../../basics/package-of.ts';
import type { ColumnFacts, OpenedDatabase } from '../../databases/sort.ts';
import type { JobFolder, Manifest, Outcome } from '../folder/job.ts';
import { Stopped } from '../work/coordinate.ts';
import { valuesOf } from './written.ts';

// What was accepted goes into a table: range by range, each in one transaction with a mark that it is there. Whoever is killed, and however
// often it is gone on with, each row is stored once.

/** Which ranges of a screening are stored, and what the table has refused of them. */
const MARKS = 'jestril_screened';
/** Values of one statement: fewer than any database takes. */
const MOST_VALUES = 20_000;
/** Milliseconds before a range is tried again, one pause behind the other: a database may be away. */
const PAUSES = [500, 1000, 2000, 4000, 8000];

/** A row that the table has refused. */
export interface NotStored {
  readonly row: number;
  readonly value: unknown;
  /** What the rule says that the constraint stands for, or the database itself. */
  readonly why: readonly string[];
}

export interface Stored {
  readonly stored: number;
  readonly refused: readonly NotStored[];
}

/** How a value becomes a row of the table. */
type Writing = (value: { readonly [key: string]: unknown }) => { readonly [column: string]: unknown };

/** The table that takes what is accepted. */
export class Into {
  readonly #opened: OpenedDatabase;
  readonly #table: string;
  readonly #intake: LoadedIntake;
  readonly #write: Writing;
  readonly #columns: number;

  private constructor(opened: OpenedDatabase, table: string, intake: LoadedIntake, write: Writing, columns: number) {
    this.#opened = opened;
    this.#table = table;
    this.#intake = intake;
    this.#write = write;
    this.#columns = columns;
  }

  /** @throws Misuse where the table is missing, or a field has no column, or a column that is needed no field */
  static async open(opened: OpenedDatabase, table: string, intake: LoadedIntake): Promise<Into> {
    const { tableIn } = await import('../../new/table-facts.ts');
    const { columns } = await tableIn(opened, table);
    const plan = planOf(intake);
    const known = new Map(columns.map((column) => [column.name, column]));
    const written = columnsFor(plan, plan.fields, '', known, table);
    const lacking = columns.find(
      ({ name, isNeeded, isFilled }) => isNeeded && !isFilled && !written.some((each) => each.column.name === name),
    );
    if (lacking) throw new Misuse(`--into: ${table} needs "${lacking.name}", and no field of "${plan.name}" is called so.`);
    const write: Writing = (value) =>
      Object.fromEntries(written.map(({ keys, column }) => [column.name, opened.sort.written(valueAt(value, keys), column.type)]));
    return new Into(opened, table, intake, write, written.length);
  }

  /**
   * Stores what was accepted, and what is not there yet of it.
   *
   * @throws Stopped where the database stays away, or refuses for what no row is to blame for
   */
  async store(folder: JobFolder, { id, locale }: Manifest, outcomes: readonly Outcome[], signal: AbortSignal): Promise<Stored> {
    await this.#makeMarks();
    const refused: NotStored[] = [];
    let stored = 0;
    for (const outcome of outcomes) {
      if (signal.aborted) throw new Stopped('Stopped.');
      const rows: Accepted[] = [];
      for await (const { row, text } of valuesOf(folder, [outcome])) rows.push({ row, value: JSON.parse(text) as Accepted['value'] });
      const own = await this.#again(() => this.#storeOnce(id, outcome.index, rows, locale));
      refused.push(...own);
      stored += rows.length - own.length;
    }
    return { stored, refused };
  }

  /** Takes the marks away, once nothing asks for them any more. */
  async forget({ id }: Manifest): Promise<void> {
    await this.#opened.db.deleteFrom(MARKS).where('job', '=', id).execute();
  }

  async #storeOnce(job: string, part: number, rows: readonly Accepted[], locale: string): Promise<readonly NotStored[]> {
    const { db, records } = this.#opened;
    return db.transaction().execute(async (transaction) => {
      const mark = transaction.selectFrom(MARKS).select('refused').where('job', '=', job).where('part', '=', part);
      const known = (await mark.executeTakeFirst()) as { readonly refused: string } | undefined;
      if (known) return JSON.parse(known.refused) as readonly NotStored[];
      const own = records.in(transaction);
      const refused = await own.storeRows(rows, (some) => this.#insert(transaction, some));
      const told = refused.map(({ row: { row, value }, error }): NotStored => {
        const verdict = refusalOf(this.#intake as never, error, { records: own, value: value as never, locale });
        return {
          row,
          value,
          why: verdict?.outcome === 'rejected' ? verdict.findings.map(({ message }) => message) : [(error as Error).message],
        };
      });
      await transaction
        .insertInto(MARKS)
        .values({ job, part, refused: JSON.stringify(told) })
        .execute();
      return told;
    });
  }

  async #insert(transaction: Database, rows: readonly Accepted[]): Promise<void> {
    const most = Math.max(1, Math.floor(MOST_VALUES / this.#columns));
    for (let at = 0; at < rows.length; at += most)
      await transaction
        .insertInto(this.#table)
        .values(rows.slice(at, at + most).map(({ value }) => this.#write(value)))
        .execute();
  }

  async #makeMarks(): Promise<void> {
    const { sql } = await packageOf<typeof import('kysely')>('kysely', '--into');
    await this.#again(() =>
      this.#opened.db.schema
        .createTable(MARKS)
        .ifNotExists()
        .addColumn('job', 'varchar(40)', (column) => column.notNull())
        .addColumn('part', 'integer', (column) => column.notNull())
        .addColumn('refused', sql.raw(this.#opened.sort.longText) as never, (column) => column.notNull())
        .addPrimaryKeyConstraint(`${MARKS}_key`, ['job', 'part'] as never)
        .execute(),
    );
  }

  async #again<T>(work: () => Promise<T>): Promise<T> {
    for (const pause of PAUSES) {
      try {
        return await work();
      } catch {
        await new Promise((resolve) => setTimeout(resolve, pause));
      }
    }
    return work().catch((cause: Error) => {
      throw new Stopped(`${this.#table} does not take what was accepted: ${cause.message}.`);
    });
  }
}

interface Accepted {
  readonly row: number;
  readonly value: { readonly [key: string]: unknown };
}

interface Column {
  readonly keys: readonly string[];
  readonly column: ColumnFacts;
}

/** The columns of the fields: by name, those of a group that has none itself behind its own (`engine_power`). */
function columnsFor(
  plan: Plan,
  { steps }: Pick<FieldSteps, 'steps'>,
  prefix: string,
  known: ReadonlyMap<string, ColumnFacts>,
  table: string,
  keys: readonly string[] = [],
): Column[] {
  return steps
    .filter(({ isLeftOut }) => !isLeftOut)
    .flatMap((step): Column[] => {
      const column = known.get(`${prefix}${step.key}`);
      const own = [...keys, step.key];
      if (column) return [{ keys: own, column }];
      const [inside] = step.inside;
      if (step.sort.isOpen && inside) return columnsFor(plan, inside, `${prefix}${step.key}_`, known, table, own);
      throw new Misuse(
        `--into: ${table} has no column "${prefix}${step.key}" for the field "${step.place.path}" of "${plan.name}"; leave the field out (leftOut), or add the column.`,
      );
    });
}

function valueAt(value: unknown, keys: readonly string[]): unknown {
  let held = value;
  for (const key of keys) held = (held as { readonly [key: string]: unknown } | undefined)?.[key];
  return held ?? null;
}
