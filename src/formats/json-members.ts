// Members of objects, counted in a JSON text and in its value: where these differ, a member stands twice in one object (RFC 7493 forbids
// it), and two readers of the same text would see different values.

const [QUOTE, BACKSLASH, COLON] = [0x22, 0x5c, 0x3a];
const OPENING = new Set([0x5b, 0x7b]);
const CLOSING = new Set([0x5d, 0x7d]);

/**
 * The members of all objects in a text, without building anything.
 *
 * @param reached told the members and levels so far, as they grow; may throw
 */
export function membersIn(text: string, reached?: (members: number, depth: number) => void): number {
  let depth = 0;
  let members = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === QUOTE) at = endOfString(text, at);
    else if (code === COLON) {
      members++;
      reached?.(members, depth);
    } else if (OPENING.has(code)) {
      depth++;
      reached?.(members, depth);
    } else if (CLOSING.has(code)) depth--;
  }
  return members;
}

function endOfString(text: string, from: number): number {
  let at = from + 1;
  while (at < text.length && text.charCodeAt(at) !== QUOTE) at += text.charCodeAt(at) === BACKSLASH ? 2 : 1;
  return at;
}

/** The members of all objects in a value, however deep it is. */
export function membersOf(value: unknown): number {
  if (typeof value !== 'object' || value === null) return 0;
  let members = 0;
  const waiting: object[] = [value];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    if (Array.isArray(next)) {
      for (const inner of next) if (typeof inner === 'object' && inner !== null) waiting.push(inner);
    } else {
      for (const name in next) {
        members += 1;
        const inner: unknown = (next as { readonly [name: string]: unknown })[name];
        if (typeof inner === 'object' && inner !== null) waiting.push(inner);
      }
    }
  }
  return members;
}
