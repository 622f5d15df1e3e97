import { Unreadable } from './problem.ts';

/** What a body may have at most. */
export interface Limits {
  /** Bytes of a body besides those of its files. Defaults to 100,000. */
  readonly bytes?: number;
  /** Levels of nesting. Defaults to 32. */
  readonly depth?: number;
  /** Members of all objects, or fields of a form. Defaults to 1,000. */
  readonly keys?: number;
  /** Parts of a multipart body, files among them. Defaults to 100. */
  readonly parts?: number;
  /** Bytes of all files together. Defaults to 5,000,000. */
  readonly fileBytes?: number;
  /** Seconds that a body may take to come. Defaults to 30. */
  readonly seconds?: number;
}

export const DEFAULT_LIMITS: Required<Limits> = { bytes: 100_000, depth: 32, keys: 1000, parts: 100, fileBytes: 5_000_000, seconds: 30 };

/**
 * Parses JSON within limits. A member that stands twice in one object is refused (RFC 7493): two readers of the same text
 * would see different values.
 */
export function parseJson(text: string, limits: Required<Limits>): unknown {
  const members = scan(text, limits);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Unreadable(400, 'The body is not JSON.');
  }
  if (members !== membersIn(value)) throw new Unreadable(400, 'The body names a member of an object twice.');
  return value;
}

const [QUOTE, BACKSLASH, COLON] = [0x22, 0x5c, 0x3a];
const OPENING = new Set([0x5b, 0x7b]);
const CLOSING = new Set([0x5d, 0x7d]);

/** Counts the members of all objects in a text, without building anything; stops at the limits. */
function scan(text: string, { depth: deepest, keys }: Required<Limits>): number {
  let depth = 0;
  let members = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === QUOTE) {
      for (at++; at < text.length && text.charCodeAt(at) !== QUOTE; at++) if (text.charCodeAt(at) === BACKSLASH) at++;
    } else if (code === COLON) {
      if (++members > keys) throw new Unreadable(413, `The body has more than ${keys} members.`);
    } else if (OPENING.has(code)) {
      if (++depth > deepest) throw new Unreadable(413, `The body is nested more than ${deepest} levels deep.`);
    } else if (CLOSING.has(code)) depth--;
  }
  return members;
}

function membersIn(value: unknown): number {
  if (typeof value !== 'object' || value === null) return 0;
  const inside = Array.isArray(value) ? value : Object.values(value);
  let members = Array.isArray(value) ? 0 : inside.length;
  for (const inner of inside) if (typeof inner === 'object') members += membersIn(inner);
  return members;
}
