import type { Need, StoreGap } from '../../../core/stored/records.ts';
import type { Database, SqlTable } from '../tables/database.ts';
import type { ColumnFact, Dialect } from '../tables/dialect.ts';
import type { TableFacts } from '../tables/inspector.ts';
import type { Names } from '../tables/tables.ts';
import type { Checked } from './checked.ts';
import { overlapGaps } from './overlap-gaps.ts';
import { referenceGaps } from './reference-gaps.ts';
import { uniqueGaps } from './unique-gaps.ts';

/**
 * Compares what rules need with the tables that there are.
 *
 * @param named the database with the plugins that say what tables and columns are called
 */
export async function gapsIn(dialect: Dialect, named: Database, names: Names, needs: readonly Need[]): Promise<StoreGap[]> {
  const gaps: StoreGap[] = [];
  for (const need of needs) gaps.push(...(await gapsOf(dialect, named, names, need)));
  return gaps;
}

async function gapsOf(dialect: Dialect, named: Database, names: Names, need: Need): Promise<StoreGap[]> {
  const { collection } = need;
  const db = named.withoutPlugins();
  const { inspector } = dialect;
  const table = names.tableOf(named, collection);
  const full = names.fullName(named, collection);
  const nameOf = (column: string) => names.columnName(named, collection, column);
  const facts = await inspector.describe(db, table);
  if (!facts) {
    const message = `Rules look into the collection "${collection}", and the database has no table "${full}"; create it, or name its table in the option "tables".`;
    return [{ lacks: 'collection', collection, columns: [], message }];
  }
  const isThere = (column: string) => facts.columns.has(nameOf(column));
  const gaps: StoreGap[] = need.columns
    .filter((column) => !isThere(column))
    .map((column) => ({
      lacks: 'column',
      collection,
      columns: [column],
      message: `Rules read "${column}" of the collection "${collection}", and the table "${full}" has no column "${nameOf(column)}"; add it, or name it in the option "tables".`,
    }));
  const known = (await dialect.learn?.(db, table)) ?? new Map();
  for (const column of need.columns.filter(isThere)) {
    const declared = names.columnOf(named, collection, column, need.storedAs?.[column]);
    const { type = '', mayBeMissing = false } = facts.columns.get(declared.name) ?? {};
    const gap = { collection, columns: [column] };
    const unfit = dialect.unfit?.(declared, known) ?? inspector.misfit?.(declared, type);
    const reads = `Rules read "${column}" of the collection "${collection}": the column`;
    if (unfit !== undefined) gaps.push({ ...gap, lacks: 'type', message: `${reads} ${unfit}` });
    if (!mayBeMissing || facts.isView || !need.always?.includes(column)) continue;
    const statement = inspector.requirePresence?.(full, declared.name);
    gaps.push({
      ...gap,
      lacks: 'presence',
      message: `${reads} "${declared.name}" may hold nothing, and then they cannot be decided; make it NOT NULL, or declare it maybe(…).`,
      ...(statement !== undefined && { statement }),
    });
  }
  gaps.push(...tableGaps(need, facts, full, nameOf), ...(await scopeGaps(need, dialect, db, table, nameOf, isThere)));
  for (const [column, most] of Object.entries(need.places ?? {})) {
    const gap = precisionGap(need, column, most, known.get(nameOf(column)), nameOf(column));
    if (gap) gaps.push(gap);
  }
  const checked: Checked = { need, facts, full, db, inspector, table, there: [...facts.columns.keys()], nameOf };
  return [...gaps, ...(await uniqueGaps(checked)), ...(await referenceGaps(checked, names, named)), ...(await overlapGaps(checked))];
}

/** What is amiss with a table as a whole. */
function tableGaps(
  { collection, columns }: Need,
  { engine, rewritten = [] }: TableFacts,
  full: string,
  nameOf: (column: string) => string,
) {
  const gaps: StoreGap[] = columns
    .filter((column) => rewritten.includes(nameOf(column)))
    .map((column) => ({
      lacks: 'trigger',
      collection,
      columns: [column],
      message: `A trigger of the table "${full}" gives "${nameOf(column)}" another value before a row is stored, so that rules of "${collection}" have judged something else; let a cleaning step do it.`,
    }));
  if (engine !== undefined)
    gaps.push({
      lacks: 'engine',
      collection,
      columns: [],
      message: `The table "${full}" is kept by ${engine}, which knows no transactions: what a failed one has stored stays, and rules that count hold nowhere; have it kept by an engine that does.`,
    });
  return gaps;
}

/** Whose a row is, has to be told apart exactly. */
async function scopeGaps(
  { collection, scope = [] }: Need,
  { inspector }: Dialect,
  db: Database,
  table: SqlTable,
  nameOf: (column: string) => string,
  isThere: (column: string) => boolean,
): Promise<StoreGap[]> {
  const gaps: StoreGap[] = [];
  for (const column of scope) {
    if (!isThere(column) || !(await inspector.foldsCase(db, table, nameOf(column)))) continue;
    gaps.push({
      lacks: 'scope',
      collection,
      columns: [column],
      message: `Whose a row of "${collection}" is, says "${nameOf(column)}", and it takes letters of either case for the same: rows of others may be seen; give it a collation that tells them apart.`,
    });
  }
  return gaps;
}

/** A column that keeps less of a value than intakes store in it: what is judged is another value than what is found later. */
function precisionGap(
  { collection, storedAs = {} }: Need,
  column: string,
  most: number,
  { isRough: isFloat = false, digits = Number.POSITIVE_INFINITY }: ColumnFact = {},
  name: string,
): StoreGap | undefined {
  const isRough = isFloat && storedAs[column] === 'real';
  if (digits >= most && !isRough) return undefined;
  const keeps = isRough
    ? 'some seven digits'
    : `${digits} digit${digits === 1 ? '' : 's'}${storedAs[column] === 'timestamp' ? ' of a second' : ' after the point'}`;
  const mend =
    storedAs[column] === 'timestamp'
      ? 'give it three'
      : isRough
        ? 'make it one of double precision'
        : `give it more, or the field places(${digits})`;
  return {
    lacks: 'precision',
    collection,
    columns: [column],
    message: `"${name}" of "${collection}" keeps ${keeps}, and what is stored in it may have more: it is rounded after it was judged; ${mend}.`,
  };
}
