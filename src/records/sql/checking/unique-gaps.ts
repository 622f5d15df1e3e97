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
    const key = facts.isInherited ? undefined : await firstThat(keys, (candidate) => enforces(checked, candidate, unique));
    const strict = keys.find((candidate) => isTooStrict(checked, candidate, unique));
    if (strict) gaps.push(strictGap(checked, unique, strict));
    const gap = key ? nameGap(checked, unique, key) : strict ? undefined : await uniqueGap(checked, unique);
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
      ({ name, ignoresCase, isNarrower, isCut }) =>
        name === checked.nameOf(column) && !isNarrower && !isCut && (ignoresCase || !ignoringCase.includes(column)),
    ),
  );
  if (!hasAll || others.some(({ within }) => within === undefined)) return false;
  return covers(
    checked,
    [key, ...others].flatMap((part) => part.within ?? []),
    only,
  );
}

/** Whether a key refuses rows that the rule takes for different, or does not compare at all. */
function isTooStrict(
  { nameOf, need: { scope = [], unique } }: Checked,
  { columns: all, within }: UniqueKey,
  { columns, only }: UniqueNeed,
) {
  const wanted = columns.map(nameOf);
  const names = all.map(({ name }) => name);
  if (within !== undefined || !names.every((name) => wanted.includes(name))) return false;
  if (all.some(({ isCut }) => isCut)) return true;
  // A key of the table's own (its number, say) may be the only column.
  const missing = wanted.filter((name) => !names.includes(name));
  const isOnlyScope = missing.every((name) => scope.map(nameOf).includes(name));
  if (missing.length > 0) return isOnlyScope;
  // It may be the key of another rule, which compares all rows.
  const isOfAll = unique.some((other) => Object.keys(other.only).length === 0 && other.columns.join() === columns.join());
  return Object.keys(only).length > 0 && !isOfAll;
}

function strictGap({ need: { collection, scope = [] }, full, nameOf }: Checked, { columns, only }: UniqueNeed, key: UniqueKey): StoreGap {
  const names = key.columns.map(({ name }) => name);
  const beside = columns.filter((column) => !names.includes(nameOf(column)));
  const isOfScope = beside.length > 0 && beside.every((column) => scope.includes(column));
  const wider = key.columns.some(({ isCut }) => isCut)
    ? 'compares the beginning of its values alone'
    : beside.length > 0
      ? `does not compare ${told(beside)}`
      : `compares rows with any ${told(Object.keys(only))}`;
  const whose = isOfScope ? ': the rows of others stand in the way' : '';
  return {
    lacks: isOfScope ? 'scope' : 'unique',
    collection,
    columns,
    message: `The key "${key.name}" of the table "${full}" ${wider}, and refuses rows that the rule for ${told(columns)} of "${collection}" accepts${whose}; make it one of what the rule compares.`,
  };
}

async function uniqueGap(
  { db, table, inspector, need: { collection }, facts, full, nameOf }: Checked,
  need: UniqueNeed,
): Promise<StoreGap> {
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
  if (facts.isInherited)
    return {
      ...gap,
      message: `${gap.message} Other tables inherit it, and no key of it knows their rows: part the table instead, or store with serially.`,
    };
  const folds = new Map<string, boolean>();
  for (const column of need.ignoringCase) folds.set(column, await inspector.foldsCase(db, table, nameOf(column)));
  const name = need.constraint ?? [full.slice(full.indexOf('.') + 1), ...columns.map(nameOf), 'unique'].join('_');
  return { ...gap, statement: inspector.createUnique(full, need, nameOf, name, (column) => folds.get(column) === true) };
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
