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
  let members = 0;
  const waiting: unknown[] = [value];
  while (waiting.length > 0) {
    const next = waiting.pop();
    if (typeof next !== 'object' || next === null) continue;
    const inside = Array.isArray(next) ? next : Object.values(next);
    if (!Array.isArray(next)) members += inside.length;
    for (const inner of inside) if (typeof inner === 'object') waiting.push(inner);
  }
  return members;
}
