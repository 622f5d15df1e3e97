import { type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { CollectionSpec, LookUpSpec, NoAnswer } from '../declared/look-up.ts';
import type { Reads } from '../declared/rule.ts';
import type { StoredRow } from '../stored/records.ts';
import { columnsOf } from './shapes.ts';

// What a store has answered, read by the kinds of the columns.

/** What a sum comes to, read by the kind of its column; of nothing it is 0. */
export function readSum({ collection, columns }: LookUpSpec, sum: unknown): { readonly value: unknown } | NoAnswer {
  const [column = ''] = columns;
  const { spec } = collection.columns[column] as CollectionSpec['columns'][string];
  return readStored(collection, column, spec, spec.stored, sum ?? 0, 'The sum of');
}

function readStored(
  { name }: CollectionSpec,
  column: string,
  kind: KindSpec,
  reads: KindSpec['stored'],
  raw: unknown,
  what: string,
): { readonly value: unknown } | NoAnswer {
  try {
    const value = reads(raw);
    if (value !== UNREADABLE) return { value };
  } catch (cause) {
    return { why: 'fault', cause };
  }
  return { why: 'stored-unsound', cause: new Error(`${what} ${name}.${column} is not of its kind, ${kind.name}.`) };
}

/** Reads the columns of a stored row by their kinds, or says why one of them cannot be. */
export function readRow(spec: LookUpSpec, row: StoredRow): { readonly row: { readonly [column: string]: unknown } } | NoAnswer {
  const read: { [column: string]: unknown } = {};
  for (const column of columnsOf(spec)) {
    const role = spec.collection.columns[column] as LookUpSpec['collection']['columns'][string];
    const raw = row[column];
    if ((raw === null || raw === undefined) && role.maybe) continue;
    const value = readStored(spec.collection, column, role.spec, role.spec.found ?? role.spec.stored, raw, 'A stored value of');
    if ('why' in value) return value;
    read[column] = value.value;
  }
  return { row: read };
}

/** Only the columns that the rule named, frozen: what one rule does to a row must not reach another. */
export function shownOf({ columns }: LookUpSpec, row: Reads, inside: Reads = {}): Reads {
  const shown: { [name: string]: unknown } = {};
  for (const column of columns) if (row[column] !== undefined) shown[column] = row[column];
  return Object.freeze({ ...shown, ...inside });
}
