import { type RawBuilder, sql } from 'kysely';
import type { Need, StoreGap, UniqueNeed } from '../../core/stored/records.ts';
import type { Database, Dialect, SqlTable, UniqueKey } from './dialect.ts';
import type { Names } from './tables.ts';

/**
 * Compares what rules need with the tables that there are.
 *
 * @param named the database with the plugins that say what tables and columns are called
 */
export async function gapsIn(dialect: Dialect, db: Database, named: Database, names: Names, needs: readonly Need[]): Promise<StoreGap[]> {
  const gaps: StoreGap[] = [];
  for (const need of needs) gaps.push(...(await gapsOf(dialect, db, named, names, need)));
  return gaps;
}

async function gapsOf(dialect: Dialect, db: Database, named: Database, names: Names, need: Need): Promise<StoreGap[]> {
  const { collection } = need;
  const table = names.tableOf(named, collection);
  const full = table.schema === undefined ? table.name : `${table.schema}.${table.name}`;
  const nameOf = (column: string) => names.columnName(named, collection, column);
  const there = await dialect.columnsOf(db, table);
  if (!there) {
    const message = `Rules look into the collection "${collection}", and the database has no table "${full}"; create it, or name its table in the option "tables".`;
    return [{ lacks: 'collection', collection, columns: [], message }];
  }
  const missing = need.columns.filter((column) => !there.includes(nameOf(column)));
  const gaps: StoreGap[] = missing.map((column) => ({
    lacks: 'column',
    collection,
    columns: [column],
    message: `Rules read "${column}" of the collection "${collection}", and the table "${full}" has no column "${nameOf(column)}"; add it, or name it in the option "tables".`,
  }));
  const known = (await dialect.learn?.(db, table)) ?? new Map();
  for (const column of need.columns.filter((each) => !missing.includes(each))) {
    const unfit = dialect.unfit?.(names.columnOf(named, collection, column, need.kinds?.[column] ?? ''), known);
    if (unfit !== undefined)
      gaps.push({
        lacks: 'type',
        collection,
        columns: [column],
        message: `Rules read "${column}" of the collection "${collection}": the column ${unfit}`,
      });
  }
  const keys = await dialect.uniqueKeysOf(db, table);
  for (const unique of need.unique) {
    if (unique.columns.some((column) => missing.includes(column))) continue;
    const key = await firstThat(keys, (candidate) => enforces(dialect, db, table, candidate, unique, nameOf, there));
    const gap = uniqueGap(dialect, collection, full, unique, nameOf, key);
    if (gap) gaps.push(gap);
  }
  return gaps;
}

function uniqueGap(
  dialect: Dialect,
  collection: string,
  table: string,
  need: UniqueNeed,
  nameOf: (column: string) => string,
  key: UniqueKey | undefined,
): StoreGap | undefined {
  const { columns } = need;
  const told = columns.map((column) => `"${column}"`).join(' and ');
  if (!key) {
    const name = need.constraint ?? [table.slice(table.indexOf('.') + 1), ...columns.map(nameOf), 'unique'].join('_');
    return {
      lacks: 'unique',
      collection,
      columns,
      message: `A rule wants ${told} of "${collection}" to be unique, and nothing in the table "${table}" enforces it: two submissions at once could both be stored.`,
      statement: dialect.createUnique(table, need, nameOf, name),
    };
  }
  const isKnown =
    need.constraint === key.name || key.name === 'PRIMARY' || (columns.length === 1 && key.name === nameOf(columns[0] as string));
  if (!dialect.namesOnly || isKnown) return undefined;
  return {
    lacks: 'constraint-name',
    collection,
    columns,
    message: `This database reports a violation by the name "${key.name}" only; tell it to the rule for ${told} of "${collection}": { constraint: '${key.name}' }.`,
  };
}

async function firstThat<T>(values: readonly T[], is: (value: T) => Promise<boolean>): Promise<T | undefined> {
  for (const value of values) if (await is(value)) return value;
  return undefined;
}

/** Whether an index refuses what the rule does: it has the rule's columns, and covers all rows that the rule compares. */
async function enforces(
  dialect: Dialect,
  db: Database,
  table: SqlTable,
  key: UniqueKey,
  { columns, ignoringCase, only }: UniqueNeed,
  nameOf: (column: string) => string,
  there: readonly string[],
): Promise<boolean> {
  const wanted = columns.map(nameOf);
  const others = key.columns.filter(({ name }) => !wanted.includes(name));
  const hasAll = columns.every((column) =>
    key.columns.some(({ name, ignoresCase }) => name === nameOf(column) && (ignoresCase || !ignoringCase.includes(column))),
  );
  if (!hasAll || others.some(({ within }) => within === undefined)) return false;
  const within = [key, ...others].flatMap((part) => part.within ?? []);
  const fixed = Object.keys(only);
  const unknown = there.filter((column) => !fixed.some((each) => nameOf(each) === column));
  for (const predicate of within) {
    if (mentions(predicate, unknown)) return false;
    // It has to cover rows with each of the values that the rule compares.
    for (const values of combinations(fixed.map((column) => (only[column] ?? []).map((value) => [nameOf(column), value] as const))))
      if (!(await isTrueOf(db, predicate, dialect.rowOf(table, values)))) return false;
  }
  return true;
}

function combinations<T>(lists: readonly (readonly T[])[]): (readonly T[])[] {
  return lists.reduce<(readonly T[])[]>((sum, list) => sum.flatMap((left) => list.map((right) => [...left, right])), [[]]);
}

/** Whether a predicate may read one of these columns. A text in it that is called like a column counts, too. */
function mentions(predicate: string, columns: readonly string[]): boolean {
  const words = new Set(predicate.toLowerCase().match(/[\p{L}\p{N}_$]+/gu));
  return columns.some((column) => (/^[\p{L}\p{N}_$]+$/u.test(column) ? words.has(column.toLowerCase()) : predicate.includes(column)));
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
