import { isBlank } from '../basics/text.ts';
import type { FieldStep, PlaceSpec } from '../plan/plan.ts';

// What was sent, before any field has read it: it may be anything, hostile objects among it.

export type Source = { readonly [key: string]: unknown };

/** Said of a submission that is no object; the catalogues have it as `readable/submission`. */
export const NO_OBJECT = { says: { en: 'The submission must be an object with named fields.' }, entry: 'readable/submission' } as const;

export const ROOT: PlaceSpec = { path: '', segments: [], label: '', order: -1, isSecret: false, holdsSecret: false, secretNames: 0 };

/** In place of what an object does not let be read, such as a getter that throws: no kind reads it. */
export const BROKEN = Symbol('broken');

/** The own member of what was sent. */
export function memberOf(source: Source, key: string): unknown {
  try {
    return Object.hasOwn(source, key) ? source[key] : undefined;
  } catch {
    return BROKEN;
  }
}

export function isObject(raw: unknown): raw is Source {
  return typeof raw === 'object' && raw !== null && !isArray(raw);
}

/** What stands behind a revoked proxy, nobody can say. */
function isArray(raw: unknown): boolean {
  try {
    return Array.isArray(raw);
  } catch {
    return true;
  }
}

/** Whether a text must not be blank. */
export function isNeededText({ kind, needed, blankAllowed }: FieldStep): boolean {
  return needed && !blankAllowed && kind.isText === true;
}

/** Of a form: whether an entry says nothing. A browser sends "" for every text box that is left empty. */
export function isEmpty(step: FieldStep, raw: unknown): boolean {
  if (typeof raw === 'string') return isBlank(raw) && !step.blankAllowed;
  // A group that need not be there is not there when all its boxes were left empty.
  return step.sort.isSentInParts && !step.needed && isObject(raw) && isAllBlank(raw, 0);
}

/** Levels that are looked into: what is deeper is something. */
const DEEPEST = 64;

function isAllBlank(raw: unknown, depth: number): boolean {
  if (typeof raw === 'string') return isBlank(raw);
  if (raw === undefined || raw === null) return true;
  try {
    return depth < DEEPEST && (depth === 0 || isPlain(raw)) && Object.values(raw).every((each) => isAllBlank(each, depth + 1));
  } catch {
    // A getter that throws is something that was sent.
    return false;
  }
}

/** Lists and objects that a form's names make; a file is something. */
function isPlain(raw: unknown): raw is object {
  if (typeof raw !== 'object' || raw === null) return false;
  const prototype: unknown = Object.getPrototypeOf(raw);
  return prototype === null || prototype === Object.prototype || prototype === Array.prototype;
}
