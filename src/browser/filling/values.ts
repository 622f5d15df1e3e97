import { pointerOfName } from '../../forms/names.ts';
import type { Renaming } from './renaming.ts';

/** What a control sends: its name, and a text or a file. */
export type Entry = readonly [name: string, value: FormDataEntryValue];

/** What stands in a form, by pointer, to be compared with what stands there later. */
export type Values = ReadonlyMap<string, string>;

/** The same for entries that are the same. */
export function contentOf(entries: Iterable<Entry>): string {
  return JSON.stringify(Array.from(entries, ([name, value]) => [name, plain(value)]));
}

export function valuesOf(entries: Iterable<Entry>): Values {
  const values = new Map<string, string>();
  for (const [name, value] of entries) {
    const pointer = pointerOfName(name);
    values.set(pointer, `${values.get(pointer) ?? ''}${JSON.stringify(plain(value))}`);
  }
  return values;
}

/** The empty file of a box without one is a new one each time that a form is looked at. */
function plain(value: FormDataEntryValue): unknown {
  if (typeof value === 'string') return value;
  return value.name === '' && value.size === 0 ? '' : [value.name, value.size, value.type, value.lastModified];
}

/** Where two differ. */
export function changedIn(before: Values, now: Values): string[] {
  return [...new Set([...before.keys(), ...now.keys()])].filter((pointer) => before.get(pointer) !== now.get(pointer));
}

/** The same where its rows stand now. */
export function moved(values: Values, renaming: Renaming): Values {
  const now = new Map<string, string>();
  for (const [pointer, value] of values) {
    const to = renaming(pointer);
    if (to !== undefined) now.set(to, value);
  }
  return now;
}

/** The values whose row is there no more. */
export function goneIn(values: Values, renaming: Renaming): string[] {
  return [...values.keys()].filter((pointer) => renaming(pointer) === undefined);
}
