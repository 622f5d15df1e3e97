import type { Kysely, RawBuilder, sql } from 'kysely';
import type { ClaimedInterval } from '../../core/asking/ledger.ts';
import type { Database } from '../../records/sql/tables/database.ts';
import { packageOf } from '../basics/package-of.ts';
import type { BookSql, OpenedDatabase } from '../databases/sort.ts';
import { ClaimsInTurn } from '../screening/claimed.ts';
import type { Correction, Entered } from '../screening/entered.ts';

// Ranges that are judged apart claim the same values. A table with a primary key over them settles who was first, whatever the order in
// which ranges come, and however often one is done again: it is the row with the lowest number.

// Named by their layout, since another version may have made tables of its own.
const HELD = 'jestril_screen_held_2';
const LOST = 'jestril_screen_lost_2';
const SPANS = 'jestril_screen_spans_2';
/** The tables of all screenings. */
export const TABLES = [HELD, LOST, SPANS] as const;

/** Intervals that are read at a time. */
const AT_ONCE = 4000;
/** Times that a transaction is tried which others stood in the way of. */
const TRIES = 12;

/** Who claimed what first, in a database that all machines share. */
export class ClaimBook {
  readonly #db: Database;
  readonly #book: BookSql;
  readonly #job: string;
  readonly #sql: typeof sql;

  private constructor(db: Database, book: BookSql, job: string, own: typeof sql) {
    this.#db = db;
    this.#book = book;
    this.#job = job;
    this.#sql = own;
  }

  /** Makes the tables, where they are not there. */
  static async open({ db, sort }: Pick<OpenedDatabase, 'db' | 'sort'>, job: string): Promise<ClaimBook> {
    const kysely = await packageOf<typeof import('kysely')>('kysely', 'A screening with claims');
    const book = new ClaimBook(db, sort.book, job, kysely.sql);
    for (const statement of sort.book.first ?? []) await kysely.sql.raw(statement).execute(db);
    await book.#again(() => book.#createTables());
    return book;
  }

  async #createTables(): Promise<void> {
    const { name, long, behind } = this.#book;
    const typed = (type: string) => this.#sql.raw(type) as never;
    const table = (title: string, primary: readonly string[]) => {
      let made = (this.#db as Kysely<never>).schema
        .createTable(title)
        .ifNotExists()
        .addColumn('job', 'varchar(40)', (column) => column.notNull())
        .addColumn('rule', 'integer', (column) => column.notNull())
        .addColumn('name', typed(name), (column) => column.notNull())
        .addColumn('nth', 'bigint', (column) => column.notNull());
      if (title === SPANS)
        made = made
          .addColumn('place', 'integer', (column) => column.notNull())
          .addColumn('span', typed(long), (column) => column.notNull())
          .addColumn('told', 'bigint');
      const keyed = made.addPrimaryKeyConstraint(`${title}_key`, primary as never);
      return (behind === undefined ? keyed : keyed.modifyEnd(this.#sql.raw(behind))).execute();
    };
    await table(HELD, ['job', 'rule', 'name']);
    await table(LOST, ['job', 'rule', 'name', 'nth']);
    await table(SPANS, ['job', 'rule', 'name', 'nth', 'place']);
  }

  /** Enters what the rows of a range have claimed; doing it again changes nothing. */
  async enter({ values, spans }: Entered): Promise<void> {
    for (const some of values) await this.#again(() => this.#hold(some));
    for (const some of spans) await this.#again(() => this.#holdSpans(some));
  }

  async #hold(values: string): Promise<void> {
    const own = this.#sql;
    const job = this.#job;
    await this.#db.transaction().execute(async (db) => {
      await this.#insertNew(db, HELD, own`select ${job}, rule, name, nth from ${this.#rows(values)}`, ['job', 'rule', 'name', 'nth']);
      const [joined, lock] = [own.raw(this.#book.joined), own.raw(this.#book.lock)];
      const { rows } = await own<{
        readonly rule: number;
        readonly name: string;
        readonly first: number | string;
        readonly mine: number | string;
      }>`
        select h.rule, h.name, h.nth as first, j.nth as mine from ${this.#rows(values)}
        ${joined} ${own.table(HELD)} as h on h.job = ${job} and h.rule = j.rule and h.name = j.name
        where h.nth <> j.nth order by h.rule, h.name ${lock}`.execute(db);
      if (rows.length === 0) return;
      const lost = rows.map(({ rule, name, first, mine }) => ({ r: Number(rule), n: name, i: Math.max(Number(first), Number(mine)) }));
      const listed = own`select ${job}, rule, name, nth from ${this.#rows(JSON.stringify(lost))}`;
      await this.#insertNew(db, LOST, listed, ['job', 'rule', 'name', 'nth']);
      for (const { rule, name, first, mine } of rows) {
        if (Number(mine) > Number(first)) continue;
        await own`update ${own.table(HELD)} set nth = ${Number(mine)} where job = ${job} and rule = ${rule} and name = ${name}`.execute(db);
      }
    });
  }

  async #holdSpans(spans: string): Promise<void> {
    const columns = ['job', 'rule', 'name', 'nth', 'place', 'span', 'told'];
    const rows = this.#sql`select ${this.#job}, rule, name, nth, place, span, told from ${this.#rows(spans, true)}`;
    await this.#insertNew(this.#db, SPANS, rows, columns);
  }

  #rows(json: string, isOfSpans = false): RawBuilder<unknown> {
    return this.#book.rows(this.#sql, json, isOfSpans);
  }

  async #insertNew(db: Database, table: string, rows: RawBuilder<unknown>, columns: readonly string[]): Promise<void> {
    const own = this.#sql;
    const into = own`${own.table(table)} (${own.join(columns.map((column) => own.ref(column)))})`;
    await this.#book.insertNew(own, into, rows).execute(db);
  }

  /** What the rows of ranges have to be told otherwise, once all are entered: by the number of the row. */
  async corrections(): Promise<readonly Correction[]> {
    return [...(await this.#heldByOthers()), ...(await this.#spansOfOthers())];
  }

  async #heldByOthers(): Promise<Correction[]> {
    const rows = await this.#db
      .selectFrom(`${LOST} as lost`)
      .innerJoin(`${HELD} as held`, (join) =>
        join.onRef('held.job', '=', 'lost.job').onRef('held.rule', '=', 'lost.rule').onRef('held.name', '=', 'lost.name'),
      )
      .select(['lost.rule as rule', 'lost.name as name', 'lost.nth as row', 'held.nth as holder'])
      .where('lost.job', '=', this.#job)
      .execute();
    return rows.map(({ rule, name, row, holder }) => ({ rule: Number(rule), name, row: Number(row), holder: Number(holder) }));
  }

  /** Intervals hold or not in the order of their rows: who lost to one that lost itself may have it. */
  async #spansOfOthers(): Promise<Correction[]> {
    const corrections: Correction[] = [];
    let last: { readonly rule: number; readonly name: string } | undefined;
    let claims = new ClaimsInTurn();
    let after: { readonly rule: number; readonly name: string; readonly row: number; readonly place: number } | undefined;
    for (;;) {
      const rows = await this.#spansAfter(after);
      for (const { rule, name, nth: row, place, span, told } of rows) {
        if (last?.rule !== rule || last.name !== name) claims = new ClaimsInTurn();
        last = { rule, name };
        after = { rule, name, row: Number(row), place };
        const holder = claims.overlapping(rule, name, JSON.parse(span) as ClaimedInterval, Number(row));
        if (holder !== (told === null ? undefined : Number(told)))
          corrections.push({ rule, name, row: Number(row), place, ...(holder !== undefined && { holder }) });
      }
      if (rows.length < AT_ONCE) return corrections;
    }
  }

  async #spansAfter(after: { readonly rule: number; readonly name: string; readonly row: number; readonly place: number } | undefined) {
    let query = this.#db
      .selectFrom(SPANS)
      .select(['rule', 'name', 'nth', 'place', 'span', 'told'])
      .where('job', '=', this.#job)
      .orderBy('rule')
      .orderBy('name')
      .orderBy('nth')
      .orderBy('place')
      .limit(AT_ONCE);
    if (after)
      query = query.where((eb) =>
        eb.or([
          eb('rule', '>', after.rule),
          eb.and([eb('rule', '=', after.rule), eb('name', '>', after.name)]),
          eb.and([eb('rule', '=', after.rule), eb('name', '=', after.name), eb('nth', '>', after.row)]),
          eb.and([eb('rule', '=', after.rule), eb('name', '=', after.name), eb('nth', '=', after.row), eb('place', '>', after.place)]),
        ]),
      );
    return (await query.execute()) as {
      rule: number;
      name: string;
      nth: number | string;
      place: number;
      span: string;
      told: number | string | null;
    }[];
  }

  /** Forgets the job. */
  async forget(): Promise<void> {
    for (const table of TABLES) await this.#db.deleteFrom(table).where('job', '=', this.#job).execute();
  }

  /** Others may have stood in the way: a deadlock, or a database that is restarted. */
  async #again(work: () => Promise<void>): Promise<void> {
    for (let tries = 1; ; tries++) {
      try {
        return await work();
      } catch (cause) {
        if (tries >= TRIES) throw cause;
        await new Promise((resolve) => setTimeout(resolve, 50 * tries * (1 + Math.random())));
      }
    }
  }
}
