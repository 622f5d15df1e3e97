import { type RawBuilder, sql } from 'kysely';
import { sumOfProducts } from '../../../core/basics/exact.ts';
import type { Want } from '../../../core/declared/look-up.ts';
import type { Question, StoredRow } from '../../../core/stored/records.ts';
import type { SqlColumn } from '../tables/database.ts';
import type { Dialect, SelectParts } from '../tables/dialect.ts';

// What can be asked of a table, each with its statement and how a row of the result is read.

/** What a statement is made of. */
interface Parts extends SelectParts {
  readonly dialect: Dialect;
  readonly most: number | undefined;
}

/** Columns by the names that rows are read by. */
export function shownAs(columns: readonly SqlColumn[], shown: Parts['shown']): RawBuilder<unknown> {
  return sql.join(columns.map((column, at) => sql`${shown(column)} as ${sql.ref(`c${at}`)}`));
}

export interface FoundRow {
  readonly found?: number | bigint | string;
  readonly total?: number | bigint | string | null;
  readonly ordinal: number | bigint | string;
  readonly [column: string]: unknown;
}

/** The answer to a key: rows, or a number; a sum that a number would lose digits of is text. */
export type KeyAnswer = StoredRow[] | number | string;

interface SqlWant {
  /** The answer to a key that no row is told for. */
  none(): KeyAnswer;
  select(parts: Parts): RawBuilder<unknown>;
  /** Its statement gives the numbers of the keys in one list, instead of a row for each. */
  readonly isListed?: true;
  /** What becomes of the answer to a key by a row of the result. */
  read(row: FoundRow, answer: KeyAnswer, question: Question): KeyAnswer;
}

const none = () => 0;
/** A number for each key: what `told` makes of the rows that answer it. */
const numberOf = ({ dialect: { ordinal }, source, table, matches }: Parts, told: RawBuilder<unknown>) =>
  sql`select ${ordinal} as ordinal, ${told} as c0 from ${source} inner join ${table} as t on ${matches} group by ${ordinal}`;

export const WANTS: { readonly [W in Want]: SqlWant } = {
  rows: {
    none: () => [],
    select(parts) {
      const { dialect, source, table, matches, columns, shown, order, most } = parts;
      const { ordinal } = dialect;
      const all = shownAs(columns, shown);
      const bounded = most === undefined ? undefined : dialect.bounded?.({ ...parts, most }, all);
      if (bounded) return bounded;
      if (most === undefined) return sql`select ${ordinal} as ordinal, ${all} from ${source} inner join ${table} as t on ${matches}`;
      const rows = sql`select ${ordinal} as ordinal, ${all}, row_number() over (partition by ${ordinal}${order}) as n from ${source} inner join ${table} as t on ${matches}`;
      return sql`select * from (${rows}) as r where n <= ${most}`;
    },
    read(row, answer, { columns }) {
      (answer as StoredRow[]).push(Object.fromEntries(columns.map((column, at) => [column, row[`c${at}`]])));
      return answer;
    },
  },
  count: {
    none,
    select: (parts) => numberOf(parts, sql`count(*)`),
    read: ({ c0 }) => Number(c0),
  },
  exists: {
    none,
    isListed: true,
    select({ dialect: { ordinal, listed, isThere }, source, table, matches }) {
      const rows = sql`select 1 from ${table} as t where ${matches}`;
      return sql`select ${listed(ordinal)} as list, count(*) as found, sum(${ordinal}) as total from ${source} where ${isThere?.(rows) ?? sql`exists (${rows})`}`;
    },
    read: () => 1,
  },
  sum: {
    none,
    select: (parts) => numberOf(parts, parts.dialect.sum(parts.columns[0] as SqlColumn)),
    read: ({ c0 }) => sumIn(c0),
  },
};

/** A sum, or a list of what is to be summed up. */
function sumIn(told: unknown): string | number {
  if (typeof told !== 'string') return Number(told ?? 0);
  if (!told.startsWith('[')) return told;
  const numbers = (JSON.parse(told) as (string | number | null)[]).filter((each) => each !== null);
  return sumOfProducts(numbers.map((each) => [each]));
}
