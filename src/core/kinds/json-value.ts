import { mergePatch } from '../basics/merge-patch.ts';
import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, type Read, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';

/** What JSON can say (RFC 8259). */
export type JsonValue = string | number | boolean | null | readonly JsonValue[] | { readonly [name: string]: JsonValue };

/** Levels of lists and objects, and members of all of them: more is no value but an attack. */
const DEEPEST = 32;
const MOST_MEMBERS = 10_000;

const spec: KindSpec<JsonValue> = {
  name: 'json-value',
  storedAs: 'json',
  examples: () => [{ quay: 'north' }, ['a', 1], 'text', 7, true],
  schema: { schema: {}, leavesOut: `more than ${DEEPEST} levels, and more than ${MOST_MEMBERS} members` },
  is: ['json-value'],
  says: { en: '{field} must be a value of JSON.' },
  json: copied,
  form: readText,
  merged: mergePatch,
  copy: thawed,
  stored: (raw) => (typeof raw === 'string' ? readText(raw) : copied(raw)),
};

function readText(text: string): Read<JsonValue> {
  try {
    return copied(JSON.parse(text));
  } catch {
    return UNREADABLE;
  }
}

/** A frozen copy, so that no rule changes what others see; of plain data only. */
function copied(raw: unknown): Read<JsonValue> {
  let members = 0;
  const copy = (value: unknown, depth: number): JsonValue => {
    if (value === null || typeof value === 'string' || typeof value === 'boolean') return value;
    if (typeof value === 'number' && Number.isFinite(value)) return value + 0;
    if (typeof value !== 'object' || depth > DEEPEST) throw UNREADABLE;
    if (Array.isArray(value)) {
      members += value.length;
      if (members > MOST_MEMBERS) throw UNREADABLE;
      return Object.freeze(Array.from(value, (each) => copy(each, depth + 1)));
    }
    const prototype = Object.getPrototypeOf(value);
    if (prototype !== Object.prototype && prototype !== null) throw UNREADABLE;
    const entries = Object.entries(value);
    members += entries.length;
    if (members > MOST_MEMBERS) throw UNREADABLE;
    // `__proto__` is a name like any other.
    return Object.freeze(Object.fromEntries(entries.map(([name, each]) => [name, copy(each, depth + 1)])));
  };
  try {
    return copy(raw, 1);
  } catch {
    return UNREADABLE;
  }
}

/** A copy that whoever gets it may change. */
function thawed(value: JsonValue): JsonValue {
  if (typeof value !== 'object' || value === null) return value;
  if (Array.isArray(value)) return value.map(thawed);
  return Object.fromEntries(Object.entries(value).map(([name, each]) => [name, thawed(each)]));
}

export interface JsonKind extends Kind<'json-value', JsonValue> {
  (label: string, ...steps: Step<'json-value'>[]): Field<'json-value', JsonValue>;
}

/**
 * A value of JSON, whatever it is: what others keep here, and nobody judges. Its value is a copy. A form carries it as JSON text.
 *
 * @law A value of JSON (RFC 8259), whatever it is, kept as a copy; up to 32 levels and 10,000 members. A form carries it as JSON text.
 * @example jsonValue('Settings')
 * @holds { quay: 'north', marks: ['PW-2040'] }
 * @fails new Date(0)
 */
export const jsonValue = kindBy<JsonKind>(spec);

export const jsonTold: ToldKind = {
  spec,
  make: jsonValue,
  made: 'jsonValue',
  called: 'JSON',
  typeScript: 'unknown',
  shownAs: 'json',
};
