import { closeSync, openSync, readSync, unlinkSync } from 'node:fs';
import { Misuse } from '../basics/misuse.ts';
import { writeAll } from '../basics/write-all.ts';
import { type ClaimTable, compareSlots, SLOT } from './claim-table.ts';
import type { Print } from './fingerprint.ts';

/** Slots that are read at a time: a page of a disk. */
const PAGE = 256;
const BYTES = 4;

/** One part of the file: slots in the order of their fingerprints. */
interface SortedRun {
  /** Where it begins, in slots. */
  readonly from: number;
  readonly count: number;
  /** The first word of the first slot of each page. */
  readonly firsts: Uint32Array;
}

/** Claims of more rows than memory takes, in a file: whole tables one behind the other, each in the order of its fingerprints. */
export class SortedRuns {
  readonly #file: number;
  readonly #path: string;
  readonly #runs: SortedRun[] = [];
  readonly #page = new Uint32Array(PAGE * SLOT);
  #end = 0;

  /** @param path of a file of its own, that is gone when it is closed */
  constructor(path: string) {
    this.#path = path;
    this.#file = openSync(path, 'wx+', 0o600);
  }

  /** Puts all of a table behind what is there. */
  add(table: ClaimTable): void {
    const slots = table.sorted();
    const count = slots.length / SLOT;
    try {
      writeAll(this.#file, new Uint8Array(slots.buffer));
    } catch (cause) {
      if ((cause as NodeJS.ErrnoException).code !== 'ENOSPC') throw cause;
      throw new Misuse(`There is no room left for what the rows claim, in ${this.#path}; make some, and begin again.`);
    }
    const firsts = Uint32Array.from({ length: Math.ceil(count / PAGE) }, (_, page) => slots[page * PAGE * SLOT] as number);
    this.#runs.push({ from: this.#end, count, firsts });
    this.#end += count;
  }

  rowOf(print: Print): number | undefined {
    for (const run of this.#runs) {
      const row = this.#rowIn(run, print);
      if (row !== undefined) return row;
    }
    return undefined;
  }

  close(): void {
    closeSync(this.#file);
    unlinkSync(this.#path);
  }

  #rowIn({ from, count, firsts }: SortedRun, { a, b, c }: Print): number | undefined {
    // The last page that begins before it, or with the same word: pages may begin alike.
    let [low, high] = [0, firsts.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((firsts[middle] as number) < a) low = middle + 1;
      else high = middle;
    }
    const wanted = Uint32Array.of(a, b, c);
    for (let page = Math.max(0, low - 1); page < firsts.length && (page < low || firsts[page] === a); page++) {
      const slots = Math.min(PAGE, count - page * PAGE);
      readSync(this.#file, new Uint8Array(this.#page.buffer), 0, slots * SLOT * BYTES, (from + page * PAGE) * SLOT * BYTES);
      for (let at = 0; at < slots * SLOT; at += SLOT)
        if (this.#page[at] === a && compareSlots(this.#page, at, wanted, 0) === 0) return (this.#page[at + 3] as number) - 1;
    }
    return undefined;
  }
}
