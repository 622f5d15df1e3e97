import type { KnownNeed, StoreGap } from '../../../core/stored/records.ts';
import type { Database } from '../tables/database.ts';
import type { Reference } from '../tables/inspector.ts';
import type { Names } from '../tables/tables.ts';
import type { Checked } from './checked.ts';
import { told } from './checked.ts';
import { createReference } from './creating.ts';

/** The rules `known` whose row could be gone by the time that one which refers to it is stored. */
export async function referenceGaps(checked: Checked, names: Names, named: Database): Promise<StoreGap[]> {
  const { db, inspector, table, need, facts } = checked;
  if (facts.isView || !need.known || need.known.length === 0) return [];
  const references = await inspector.referencesOf(db, table);
  const gaps: StoreGap[] = [];
  for (const known of need.known) {
    const target = names.tableOf(named, known.refersTo);
    const there = await inspector.describe(db, target);
    // What is not there, or has no keys, is not to be referred to.
    if (!there || there.isView) continue;
    const referred = known.referred.map((column) => names.columnName(named, known.refersTo, column));
    const scope = known.scope.map((column) => names.columnName(named, known.refersTo, column));
    const own = known.fields.map(checked.nameOf);
    // A field that is not stored refers to nothing later.
    if (!own.every((column) => facts.columns.has(column))) continue;
    if (references.some((reference) => isReference(reference, { own, table: target.name, referred, scope }))) continue;
    const keys = await inspector.uniqueKeysOf(db, target);
    const isKey = (columns: readonly string[]) =>
      keys.some(
        ({ columns: each, within }) =>
          within === undefined &&
          isAlike(
            each.map(({ name }) => name),
            columns,
          ),
      );
    const full = names.fullName(named, known.refersTo);
    const to = isKey(referred)
      ? { own, referred }
      : { own: [...known.scope.map(checked.nameOf), ...own], referred: [...scope, ...referred] };
    gaps.push(
      gapOf(checked, known, isKey(to.referred) ? createReference(checked.full, to.own, full, to.referred, inspector.quote) : undefined),
    );
  }
  const off = gaps.length < need.known.length ? await inspector.enforcing?.(db) : undefined;
  if (off !== undefined) gaps.push(offGap(checked, off));
  return gaps;
}

function gapOf(
  { need: { collection }, inspector, full }: Checked,
  { fields, refersTo, referred }: KnownNeed,
  /** `undefined` where the other table has no key for it. */
  statement: string | undefined,
): StoreGap {
  const message = `A rule wants ${told(fields)} of "${collection}" to refer to a row of "${refersTo}", and nothing in the table "${full}" enforces it: the row could be gone by the time that this one is stored.`;
  const gap = { lacks: 'reference', collection, columns: fields } as const;
  if (statement === undefined)
    return { ...gap, message: `${message} A foreign key needs ${told(referred)} of "${refersTo}" to be unique.` };
  if (!inspector.addsReferences) return { ...gap, message: `${message} Declare a foreign key where the table is made.` };
  return { ...gap, message, statement };
}

function offGap({ need: { collection }, full }: Checked, statement: string): StoreGap {
  return {
    lacks: 'reference',
    collection,
    columns: [],
    message: `The foreign keys of the table "${full}" are not enforced on this connection; run the statement on every connection.`,
    statement,
  };
}

interface WantedReference {
  readonly own: readonly string[];
  readonly table: string;
  readonly referred: readonly string[];
  readonly scope: readonly string[];
}

function isReference({ columns, table, referred }: Reference, wanted: WantedReference): boolean {
  if (table !== wanted.table || !wanted.own.every((column) => columns.includes(column))) return false;
  const beside = referred.filter((column) => wanted.referred.includes(column) || !wanted.scope.includes(column));
  return referred.length === 0 || isAlike(beside, wanted.referred);
}

function isAlike(some: readonly string[], others: readonly string[]): boolean {
  return some.length === others.length && some.every((name) => others.includes(name));
}
