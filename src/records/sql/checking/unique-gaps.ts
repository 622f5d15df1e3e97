import type { StoreGap, UniqueNeed } from '../../../core/stored/records.ts';
import type { UniqueKey } from '../tables/inspector.ts';
import type { Checked } from './checked.ts';
import { told } from './checked.ts';
import { covers } from './covering.ts';

/** The rules `unique` that no key of the table enforces, or that would not know its error. */
export async function uniqueGaps(checked: Checked): Promise<StoreGap[]> {
  const { db, inspector, table, need, facts, nameOf } = checked;
  if (need.unique.length === 0) return [];
  const keys = await inspector.uniqueKeysOf(db, table);
  const gaps: StoreGap[] = [];
  for (const unique of need.unique) {
    if (unique.columns.some((column) => !facts.columns.has(nameOf(column)))) continue;
    const key = await firstThat(keys, (candidate) => enforces(checked, candidate, unique));
    const gap = key ? nameGap(checked, unique, key) : uniqueGap(checked, unique);
    if (gap) gaps.push(gap);
  }
  return gaps;
}

/** Whether an index refuses what the rule does: it has the rule's columns, and covers all rows that the rule compares. */
function enforces(checked: Checked, key: UniqueKey, { columns, ignoringCase, only }: UniqueNeed): Promise<boolean> | false {
  const wanted = columns.map(checked.nameOf);
  const others = key.columns.filter(({ name }) => !wanted.includes(name));
  const hasAll = columns.every((column) =>
    key.columns.some(
      ({ name, ignoresCase, isNarrower }) =>
        name === checked.nameOf(column) && !isNarrower && (ignoresCase || !ignoringCase.includes(column)),
    ),
  );
  if (!hasAll || others.some(({ within }) => within === undefined)) return false;
  return covers(
    checked,
    [key, ...others].flatMap((part) => part.within ?? []),
    only,
  );
}

function uniqueGap({ inspector, need: { collection }, facts, full, nameOf }: Checked, need: UniqueNeed): StoreGap {
  const { columns } = need;
  const gap = {
    lacks: 'unique',
    collection,
    columns,
    message: `A rule wants ${told(columns)} of "${collection}" to be unique, and nothing in the table "${full}" enforces it: two submissions at once could both be stored.`,
  } as const;
  if (facts.isView) return { ...gap, message: `${gap.message} It is a view: put the constraint on the table beneath it.` };
  const apart = facts.partedBy.filter((column) => !columns.map(nameOf).includes(column));
  if (apart.length > 0)
    return {
      ...gap,
      message: `${gap.message} Its rows are kept apart by ${told(apart)}, which every unique key has to have: keep a table of its own for what is unique, or store with serially.`,
    };
  const name = need.constraint ?? [full.slice(full.indexOf('.') + 1), ...columns.map(nameOf), 'unique'].join('_');
  return { ...gap, statement: inspector.createUnique(full, need, nameOf, name) };
}

/** A database that names the constraint only has to be told which rule it stands for. */
function nameGap(
  { inspector, need: { collection }, nameOf }: Checked,
  { columns, constraint }: UniqueNeed,
  key: UniqueKey,
): StoreGap | undefined {
  const isKnown = constraint === key.name || key.name === 'PRIMARY' || (columns.length === 1 && key.name === nameOf(columns[0] as string));
  if (!inspector.namesOnly || isKnown) return undefined;
  return {
    lacks: 'constraint-name',
    collection,
    columns,
    message: `This database reports a violation by the name "${key.name}" only; tell it to the rule for ${told(columns)} of "${collection}": { constraint: '${key.name}' }.`,
  };
}

async function firstThat<T>(values: readonly T[], is: (value: T) => Promise<boolean> | false): Promise<T | undefined> {
  for (const value of values) if (await is(value)) return value;
  return undefined;
}
