import { type RawBuilder, sql } from 'kysely';
import type { FixedValues } from '../../../core/stored/records.ts';
import type { Database, SqlTable } from '../tables/database.ts';
import type { Inspector } from '../tables/inspector.ts';

// Whether a constraint over some rows covers those that a rule compares: the database itself is asked.

export interface Rows {
  readonly db: Database;
  readonly inspector: Inspector;
  readonly table: SqlTable;
  /** The columns of the table. */
  readonly there: readonly string[];
  readonly nameOf: (column: string) => string;
}

/** Whether these predicates hold for every row with these fixed values, whatever else it holds. */
export async function covers(
  { db, inspector, table, there, nameOf }: Rows,
  predicates: readonly string[],
  only: FixedValues,
): Promise<boolean> {
  const fixed = Object.keys(only);
  const unknown = there.filter((column) => !fixed.some((each) => nameOf(each) === column));
  const rows = combinations(fixed.map((column) => (only[column] ?? []).map((value) => [nameOf(column), value] as const)));
  for (const predicate of predicates) {
    if (mentions(predicate, unknown)) return false;
    for (const values of rows) if (!(await isTrueOf(db, predicate, inspector.rowOf(table, values)))) return false;
  }
  return true;
}

function combinations<T>(lists: readonly (readonly T[])[]): (readonly T[])[] {
  return lists.reduce<(readonly T[])[]>((sum, list) => sum.flatMap((left) => list.map((right) => [...left, right])), [[]]);
}

/** Whether an expression may read one of these columns. A text in it that is called like a column counts, too. */
export function mentions(expression: string, columns: readonly string[]): boolean {
  const words = new Set(expression.toLowerCase().match(/[\p{L}\p{N}_$]+/gu));
  return columns.some((column) => (/^[\p{L}\p{N}_$]+$/u.test(column) ? words.has(column.toLowerCase()) : expression.includes(column)));
}

/** Asks the database, which knows its own words; those that it cannot work out of this row alone are no promise. */
async function isTrueOf(db: Database, predicate: string, row: RawBuilder<unknown>): Promise<boolean> {
  try {
    const { rows } = await sql<{ holds: unknown }>`select (${sql.raw(predicate)}) as holds from ${row}`.execute(db);
    return rows[0]?.holds === true || Number(rows[0]?.holds) === 1;
  } catch {
    return false;
  }
}
