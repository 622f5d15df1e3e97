// The entries of a JSON list, found in its bytes without reading what they say: a comma or bracket that stands within no string, no object
// and no list of an entry ends one. Whether an entry is JSON, whoever reads it finds.

const [QUOTE, COMMA, OPEN, CLOSE, BACKSLASH, LEFT, RIGHT] = [0x22, 0x2c, 0x5b, 0x5d, 0x5c, 0x7b, 0x7d];

/**
 * Finds the comma or bracket behind an entry.
 *
 * @param from where the entry begins
 * @returns below zero where the bytes end before it does
 */
export function endOfEntry(bytes: Uint8Array, from: number): number {
  let depth = 0;
  for (let at = from; at < bytes.length; at++) {
    const byte = bytes[at];
    if (byte === QUOTE) {
      for (at += 1; at < bytes.length && bytes[at] !== QUOTE; at++) if (bytes[at] === BACKSLASH) at += 1;
    } else if (byte === OPEN || byte === LEFT) depth += 1;
    else if (depth > 0) {
      if (byte === CLOSE || byte === RIGHT) depth -= 1;
    } else if (byte === COMMA || byte === CLOSE) return at;
  }
  return -1;
}

/** Whether an entry is the last: the bracket of the list stands behind it. */
export function isLast(bytes: Uint8Array, end: number): boolean {
  return bytes[end] === CLOSE;
}

/** Where the first entry of a text begins that is a list; below zero where it is none. */
export function startOfList(bytes: Uint8Array): number {
  const first = bytes.findIndex((byte) => byte !== 0x20 && byte !== 0x09 && byte !== 0x0a && byte !== 0x0d);
  return first >= 0 && bytes[first] === OPEN ? first + 1 : -1;
}
