import { type CompiledQuery, type RawBuilder, sql } from 'kysely';
import type { Question, Term } from '../../../core/stored/records.ts';
import { partsOf } from '../../parts.ts';
import type { Database, SqlColumn, SqlTable } from '../tables/database.ts';
import type { ColumnFacts, Dialect, Key, SqlTerm } from '../tables/dialect.ts';
import type { Names } from '../tables/tables.ts';
import { shownAs, WANTS } from './wants.ts';

/** A question in the names of the database, and what is known of its table. */
export interface Asked {
  readonly question: Question;
  readonly table: SqlTable;
  readonly terms: readonly SqlTerm[];
  readonly columns: readonly SqlColumn[];
  readonly order: readonly { readonly column: SqlColumn; readonly from: 'highest' | 'lowest' }[];
  readonly known: ColumnFacts;
}

/** The terms and columns of a question in the names of the database. */
export function namedIn(
  db: Database,
  names: Names,
  { collection, terms, columns, order = [], storedAs }: Question,
): Pick<Asked, 'terms' | 'columns' | 'order'> {
  const named = (column: string) => names.columnOf(db, collection, column, storedAs[column]);
  return {
    terms: terms.map(({ column, is, than, orMissing, isFixed }, index) => ({
      column: named(column),
      is,
      than: than === undefined ? undefined : named(than),
      index,
      isOnly: terms.length === 1,
      orMissing: orMissing === true,
      isFixed: isFixed === true,
    })),
    columns: columns.map(named),
    order: order.map(({ column, from }) => ({ column: named(column), from })),
  };
}

/** The statements of questions. Look-ups are declared once, so each is put together once; only its keys differ. */
export class Statements {
  readonly #dialect: Dialect;
  readonly #made = new WeakMap<readonly Term[], Map<string, CompiledQuery>>();

  constructor(dialect: Dialect) {
    this.#dialect = dialect;
  }

  /** @param db without plugins: the names are those that they make, and a second time they would be others */
  of(db: Database, asked: Asked, keys: readonly Key[]): CompiledQuery {
    const { collection, terms, columns, want, most, order, either, isLocked } = asked.question;
    const values = this.#dialect.values(asked.terms, keys, asked.known);
    const parameters = most === undefined ? values : [...values, most];
    const ofTerms = this.#made.get(terms) ?? new Map<string, CompiledQuery>();
    this.#made.set(terms, ofTerms);
    const more = order || either ? JSON.stringify([order, either]) : '';
    const name = `${collection} ${want} ${most} ${isLocked} ${columns.join()} ${more}`;
    const made = ofTerms.get(name);
    if (made) return { ...made, parameters };
    if (most !== undefined && this.#dialect.apart) return this.#together(db, asked, most, keys, ofTerms, name);
    const compiled = this.#query(asked, values).compile(db);
    // The keys are all that a statement takes besides its limit, and in this order.
    const isPlain = compiled.parameters.length === parameters.length && compiled.parameters.every((value, at) => value === parameters[at]);
    if (isPlain) ofTerms.set(name, compiled);
    return compiled;
  }

  /**
   * A bounded select for each key, in one statement: each reads no more rows than its bound by itself. All are alike but for their keys, so
   * one is put together and written down often.
   */
  #together(db: Database, asked: Asked, most: number, keys: readonly Key[], made: Map<string, CompiledQuery>, name: string): CompiledQuery {
    const one = made.get(`one ${name}`) ?? this.#alone(asked, most).compile(db);
    made.set(`one ${name}`, one);
    const parameters = keys.flatMap((key, ordinal) => {
      const [json] = this.#dialect.values(asked.terms, [key], asked.known);
      return one.parameters.map((value) => (value === ORDINAL ? ordinal : value === KEY ? json : value));
    });
    return { ...one, sql: keys.map(() => one.sql).join(' union all '), parameters };
  }

  #alone(asked: Asked, most: number): RawBuilder<unknown> {
    const { table, columns, order, known } = asked;
    const own = this.#dialect;
    const dialect: Dialect = { ...own, asked: (term) => own.apart?.(term, KEY, known) ?? own.asked(term) };
    const matches = matching(dialect, asked);
    const [first] = order;
    // Rows that are alike in the first column of the order are few; an index has them, and in no other order.
    const tied =
      first && order.length > 1 && most === 1
        ? sql` and ${first.column.ref} = (select ${first.column.ref} from ${table.ref} as t where ${matches}${ordered(dialect, [first], known)} limit 1)`
        : sql``;
    const shown = shownAs(columns, (column) => dialect.shown(comparable(dialect, column, known), known));
    return sql`(select ${ORDINAL} as ordinal, ${shown} from ${table.ref} as t where ${matches}${tied}${ordered(dialect, order, known)} limit ${sql.lit(most)})`;
  }

  #query(asked: Asked, values: readonly unknown[]): RawBuilder<unknown> {
    const { question, table, terms, columns: wanted, order, known } = asked;
    const dialect = this.#dialect;
    const { want, most, isLocked } = question;
    const select = WANTS[want].select({
      dialect,
      source: dialect.keys(values, terms, table, known),
      table: table.ref,
      matches: matching(dialect, asked),
      columns: wanted.map((column) => comparable(dialect, column, known)),
      shown: (column) => dialect.shown(column, known),
      order: ordered(dialect, order, known),
      most,
      known,
    });
    return isLocked && dialect.lockingRows ? sql`${select}${dialect.lockingRows}` : select;
  }
}

/** Stand for what differs from one key to the next. */
const ORDINAL = { stands: 'ordinal' };
const KEY = { stands: 'key' };

/** Whether a row `t` answers a key. */
function matching(dialect: Dialect, { question, terms, order, known }: Asked): RawBuilder<unknown> {
  const { always, groups } = partsOf(question);
  const compared = (indexes: readonly number[]) => indexes.map((at) => compare(dialect, terms[at] as SqlTerm, known));
  const first = order[0]?.column;
  const all = [
    ...compared(always),
    ...groups.map((lists) =>
      joined(
        lists.map((list) => joined(compared(list), sql` and `)),
        sql` or `,
      ),
    ),
    ...(first ? [sql`${first.ref} is not null`] : []),
  ];
  // An interval that is open on both sides asks nothing but whether there is any row.
  return all.length === 0 ? sql`1 = 1` : sql.join(all, sql` and `);
}

function joined(parts: readonly RawBuilder<unknown>[], by: RawBuilder<unknown>): RawBuilder<unknown> {
  return sql`(${sql.join(parts, by)})`;
}

function ordered(dialect: Dialect, order: Asked['order'], known: ColumnFacts): RawBuilder<unknown> {
  if (order.length === 0) return sql``;
  const parts = order.map(({ column, from }) =>
    from === 'highest' ? sql`${comparedRef(dialect, column, known)} desc` : comparedRef(dialect, column, known),
  );
  return sql` order by ${sql.join(parts)}`;
}

/** A column as it is compared. */
function comparedRef(dialect: Dialect, column: SqlColumn, known: ColumnFacts): RawBuilder<unknown> {
  const fit = comparable(dialect, column, known);
  return dialect.compared?.(fit, known) ?? fit.ref;
}

// The column stands on the left, so that its type and its collation apply.
function compare(dialect: Dialect, term: SqlTerm, known: ColumnFacts): RawBuilder<unknown> {
  const compared = compareThere(dialect, term, known);
  return term.orMissing ? sql`(${compared} or ${term.column.ref} is null)` : compared;
}

function compareThere(dialect: Dialect, term: SqlTerm, known: ColumnFacts): RawBuilder<unknown> {
  const { is, column, than } = term;
  const ref = comparedRef(dialect, column, known);
  if (is === 'missing') return sql`${ref} is null`;
  const asked = than ? comparedRef(dialect, than, known) : dialect.asked(term);
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

/** A column whose values can be compared and read as its kind; anything else is never compared anyway. */
function comparable(dialect: Dialect, column: SqlColumn, known: ColumnFacts): SqlColumn {
  const unfit = dialect.unfit?.(column, known);
  if (unfit !== undefined) throw new TypeError(`The column ${unfit}`);
  return column;
}
