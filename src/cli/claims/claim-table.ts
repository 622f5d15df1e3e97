import type { Print } from './fingerprint.ts';

// Which row has which values first, in little room: a fingerprint, and the number of the row, in typed arrays.

/** By the first eight bits of their fingerprints, so that a table grows in small steps, and is soon put into order. */
const SEGMENTS = 256;
/** Slots of a segment in the beginning. */
const FEW = 16;
/** Words of a slot: those of the fingerprint, and one more than the row; of an empty one 0. */
export const SLOT = 4;

interface Segment {
  slots: Uint32Array;
  count: number;
}

export class ClaimTable {
  #segments: Segment[] = [];
  #size = 0;

  constructor() {
    this.clear();
  }

  get size(): number {
    return this.#size;
  }

  rowOf(print: Print): number | undefined {
    const { slots } = this.#segments[print.a >>> 24] as Segment;
    const held = slots[slotIn(slots, print) + 3] as number;
    return held === 0 ? undefined : held - 1;
  }

  /** Keeps that a row has a value, unless one has it: then it gives that one. */
  hold(print: Print, row: number): number | undefined {
    const segment = this.#segments[print.a >>> 24] as Segment;
    const { slots } = segment;
    const at = slotIn(slots, print);
    const held = slots[at + 3] as number;
    if (held !== 0) return held - 1;
    slots[at] = print.a;
    slots[at + 1] = print.b;
    slots[at + 2] = print.c;
    slots[at + 3] = row + 1;
    this.#size += 1;
    segment.count += 1;
    // At most three quarters are taken.
    if (segment.count * SLOT * 4 > slots.length * 3) grow(segment);
    return undefined;
  }

  /** Shows each fingerprint that is held; the same object for all. */
  each(visit: (print: Print) => void): void {
    const print = { a: 0, b: 0, c: 0 };
    for (const { slots } of this.#segments)
      for (let at = 0; at < slots.length; at += SLOT) {
        if (slots[at + 3] === 0) continue;
        [print.a, print.b, print.c] = [slots[at] as number, slots[at + 1] as number, slots[at + 2] as number];
        visit(print);
      }
  }

  /** All slots that are taken, in the order of their fingerprints. */
  sorted(): Uint32Array {
    const all = new Uint32Array(this.#size * SLOT);
    let at = 0;
    for (const { slots, count } of this.#segments) {
      const taken: number[] = [];
      for (let from = 0; taken.length < count; from += SLOT) if (slots[from + 3] !== 0) taken.push(from);
      taken.sort((one, other) => compareSlots(slots, one, slots, other));
      for (const from of taken) {
        all.set(slots.subarray(from, from + SLOT), at);
        at += SLOT;
      }
    }
    return all;
  }

  clear(): void {
    this.#segments = Array.from({ length: SEGMENTS }, () => ({ slots: new Uint32Array(SLOT * FEW), count: 0 }));
    this.#size = 0;
  }
}

/** The place of a fingerprint, or the empty one where it would stand. */
function slotIn(slots: Uint32Array, { a, b, c }: Print): number {
  const last = slots.length - 1;
  let at = (b << 2) & last;
  while (slots[at + 3] !== 0 && !(slots[at] === a && slots[at + 1] === b && slots[at + 2] === c)) at = (at + SLOT) & last;
  return at;
}

function grow(segment: Segment): void {
  const old = segment.slots;
  const slots = new Uint32Array(old.length * 2);
  for (let from = 0; from < old.length; from += SLOT) {
    if (old[from + 3] === 0) continue;
    let at = ((old[from + 1] as number) << 2) & (slots.length - 1);
    while (slots[at + 3] !== 0) at = (at + SLOT) & (slots.length - 1);
    for (let word = 0; word < SLOT; word++) slots[at + word] = old[from + word] as number;
  }
  segment.slots = slots;
}

/** The order of two fingerprints in some words. */
export function compareSlots(one: Uint32Array, at: number, other: Uint32Array, otherAt: number): number {
  for (let word = 0; word < 3; word++) {
    const difference = (one[at + word] as number) - (other[otherAt + word] as number);
    if (difference !== 0) return difference;
  }
  return 0;
}
