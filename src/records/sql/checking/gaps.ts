import type { Need, StoreGap } from '../../../core/stored/records.ts';
import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
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
  const checked: Checked = { need, facts, full, db, inspector, table, there: [...facts.columns.keys()], nameOf };
  return [...gaps, ...(await uniqueGaps(checked)), ...(await referenceGaps(checked, names, named)), ...(await overlapGaps(checked))];
}
