/** A set of characters by code point: sorted ranges that do not touch, both ends within. */
export type CharacterSet = readonly (readonly [first: number, last: number])[];

const LAST = 0x10ffff;

export function setOf(...ranges: readonly (readonly [number, number])[]): CharacterSet {
  return unionOf(ranges);
}

export function unionOf(...sets: readonly CharacterSet[]): CharacterSet {
  const merged: [number, number][] = [];
  for (const [first, last] of sets.flat().sort(([a], [b]) => a - b)) {
    const open = merged.at(-1);
    if (open && first <= open[1] + 1) open[1] = Math.max(open[1], last);
    else merged.push([first, last]);
  }
  return merged;
}

export function complementOf(set: CharacterSet): CharacterSet {
  const rest: [number, number][] = [];
  let next = 0;
  for (const [first, last] of set) {
    if (first > next) rest.push([next, first - 1]);
    next = last + 1;
  }
  if (next <= LAST) rest.push([next, LAST]);
  return rest;
}

export function overlap(a: CharacterSet, b: CharacterSet): boolean {
  return a.some(([first, last]) => b.some(([from, to]) => first <= to && from <= last));
}

/**
 * At least the characters that match when case is ignored: of ASCII letters both cases. Beyond ASCII any character may
 * stand for any other, and some stand for k and s (the signs of Kelvin and the long s).
 */
export function inAnyCase(set: CharacterSet): CharacterSet {
  const more: [number, number][] = [];
  for (const [first, last] of set) {
    for (let point = Math.max(first, 0x41); point <= Math.min(last, 0x7a); point++) {
      const letter = point | 0x20;
      if (letter >= 0x61 && letter <= 0x7a) more.push([letter, letter], [letter - 0x20, letter - 0x20]);
    }
    if (last > 0x7f) more.push([0x80, LAST], [0x4b, 0x4b], [0x6b, 0x6b], [0x53, 0x53], [0x73, 0x73]);
  }
  const touches = overlap(set, [
    [0x4b, 0x4b],
    [0x53, 0x53],
    [0x6b, 0x6b],
    [0x73, 0x73],
  ]);
  return unionOf(set, more, touches ? [[0x80, LAST]] : []);
}
