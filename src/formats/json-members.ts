// Members of objects, counted in a JSON text and in its value: where these differ, a member stands twice in one object (RFC 7493 forbids
// it), and two readers of the same text would see different values.

const [QUOTE, BACKSLASH, COLON] = [0x22, 0x5c, 0x3a];
/** The brackets of arrays and those of objects differ in one bit. */
const [OPENING, CLOSING, EITHER] = [0x7b, 0x7d, 0x20];

/**
 * The members of all objects in a text, without building anything.
 *
 * @param reached told the members and levels so far, as they grow, and how long the last name is; may throw
 */
export function membersIn(text: string, reached?: (members: number, depth: number, name: number) => void): number {
  let depth = 0;
  let members = 0;
  let name = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === QUOTE) {
      const end = endOfString(text, at);
      name = end - at - 1;
      at = end;
    } else if (code === COLON) {
      members++;
      reached?.(members, depth, name);
    } else if ((code | EITHER) === OPENING) {
      depth++;
      reached?.(members, depth, 0);
    } else if ((code | EITHER) === CLOSING) depth--;
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
  // Most values hold nothing that has members of its own, and need no list of what waits.
  let waiting: object[] | undefined;
  let members = 0;
  const visit = (inner: unknown) => {
    if (typeof inner !== 'object' || inner === null) return;
    waiting ??= [];
    waiting.push(inner);
  };
  for (let next: object | undefined = value; next !== undefined; next = waiting?.pop()) {
    if (Array.isArray(next)) for (const inner of next) visit(inner);
    else
      for (const name in next) {
        members += 1;
        visit((next as { readonly [name: string]: unknown })[name]);
      }
  }
  return members;
}
