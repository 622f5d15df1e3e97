import { fault } from '../../core/basics/fault.ts';
import { kindOf, optionsOf } from '../../core/basics/known.ts';
import { membersIn, membersOf } from '../../formats/json-members.ts';
import { Unreadable } from './problem.ts';

/** What a body may have at most. */
export interface Limits {
  /** Bytes of a body besides those of its files. Defaults to 100,000. */
  readonly bytes?: number;
  /** Levels of nesting. Defaults to 32. */
  readonly depth?: number;
  /** Members of all objects, or fields of a form. Defaults to 1,000. */
  readonly keys?: number;
  /** Characters of the name of a member or field: pointers of findings repeat it. Defaults to 500. */
  readonly name?: number;
  /** Parts of a multipart body, files among them. Defaults to 100. */
  readonly parts?: number;
  /** Bytes of all files together. Defaults to 5,000,000. */
  readonly fileBytes?: number;
  /** Seconds that a body may take to come. Defaults to 30. */
  readonly seconds?: number;
}

const DEFAULT_LIMITS: Required<Limits> = {
  bytes: 100_000,
  depth: 32,
  keys: 1000,
  name: 500,
  parts: 100,
  fileBytes: 5_000_000,
  seconds: 30,
};

/**
 * The limits that are set, and the usual ones.
 *
 * @throws Fault for a limit that is not known, or no number above 0: it would let everything through
 */
export function limitsOf(given: Limits = {}): Required<Limits> {
  const names = Object.keys(DEFAULT_LIMITS);
  for (const [name, limit] of Object.entries(optionsOf<Limits>('limits', given, names)))
    if (!(typeof limit === 'number' && limit > 0)) fault(`limits: ${name} is a number above 0, and not ${kindOf(limit)}.`);
  return { ...DEFAULT_LIMITS, ...given };
}

/** @throws Unreadable for a name of so many characters */
export function refuseName(length: number, { name }: Required<Limits>): void {
  if (length > name) throw new Unreadable(413, `A name has more than ${name} characters.`);
}

/**
 * Parses JSON within limits. A member that stands twice in one object is refused (RFC 7493): two readers of the same text
 * would see different values.
 */
export function parseJson(text: string, limits: Required<Limits>): unknown {
  const members = membersIn(text, (soFar, depth, name) => {
    refuseName(name, limits);
    if (soFar > limits.keys) throw new Unreadable(413, `The body has more than ${limits.keys} members.`);
    if (depth > limits.depth) throw new Unreadable(413, `The body is nested more than ${limits.depth} levels deep.`);
  });
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Unreadable(400, 'The body is not JSON.');
  }
  if (members !== membersOf(value)) throw new Unreadable(400, 'The body names a member of an object twice.');
  return value;
}
