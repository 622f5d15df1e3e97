import { createHash } from 'node:crypto';
import type { ClaimedInterval } from '../../core/asking/ledger.ts';
import type { Print } from './fingerprint.ts';

// What the rows of a piece claim, in their order: it is made where they are judged, and handed over as it is, to other threads and machines.

/** What a row does with what it claims. */
export const SORT = {
  /** It asks who has it. */
  asks: 0,
  /** It has it, unless another does. */
  takes: 1,
  /** Of an interval: it has it, though another may have some of it. */
  shares: 2,
  /** Of a row that could not be judged: it may have it; and where it has no fingerprint, anything. */
  may: 3,
} as const;
export type Sort = (typeof SORT)[keyof typeof SORT];

/** Words of a claim: four times its row and its sort, its fingerprint, and one more than the row that was told of, or 0. */
const WORDS = 5;

/** Rows are counted from 1 in their piece. */
export interface ClaimList {
  readonly words: Uint32Array;
  /** Of claims that are intervals, in order. */
  readonly spans: readonly (readonly [at: number, interval: ClaimedInterval])[];
}

export const NO_CLAIMS: ClaimList = { words: new Uint32Array(), spans: [] };
const ANYTHING: Print = { a: 0, b: 0, c: 0 };

/** One claim of a list. */
export interface Listed extends Print {
  readonly row: number;
  readonly sort: Sort;
  /** The row of the piece that was told of. */
  readonly told: number | undefined;
}

export function countOf({ words }: ClaimList): number {
  return words.length / WORDS;
}

/** The claim at a place; the same object for all, so that nothing is made for each. */
export function claimAt({ words }: ClaimList, index: number, into: { -readonly [P in keyof Listed]: Listed[P] }): void {
  const at = index * WORDS;
  const first = words[at] as number;
  const told = words[at + 4] as number;
  into.row = first >>> 2;
  into.sort = (first & 3) as Sort;
  into.a = words[at + 1] as number;
  into.b = words[at + 2] as number;
  into.c = words[at + 3] as number;
  into.told = told === 0 ? undefined : told - 1;
}

export function emptyClaim(): { -readonly [P in keyof Listed]: Listed[P] } {
  return { row: 0, sort: SORT.asks, ...ANYTHING, told: undefined };
}

/** A row that may have anything. */
export function isAnything({ sort, a, b, c }: Listed): boolean {
  return sort === SORT.may && (a | b | c) === 0;
}

/** The first claim of a row, or where it would stand. */
export function firstOf({ words }: ClaimList, row: number): number {
  let [low, high] = [0, words.length / WORDS];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((words[middle * WORDS] as number) >>> 2 < row) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Makes a list. */
export class ClaimLister {
  #words = new Uint32Array(WORDS * 64);
  #length = 0;
  readonly #spans: (readonly [number, ClaimedInterval])[] = [];

  add(row: number, sort: Sort, { a, b, c }: Print, told?: number, interval?: ClaimedInterval): void {
    if (this.#length === this.#words.length) {
      const more = new Uint32Array(this.#length * 2);
      more.set(this.#words);
      this.#words = more;
    }
    if (interval) this.#spans.push([this.#length / WORDS, interval]);
    this.#words.set([(row << 2) | sort, a, b, c, told === undefined ? 0 : told + 1], this.#length);
    this.#length += WORDS;
  }

  get list(): ClaimList {
    return { words: this.#words.slice(0, this.#length), spans: this.#spans };
  }
}

/** Of a row of which nobody knows what it claims. */
export function anythingOf(row: number): ClaimList {
  const lister = new ClaimLister();
  lister.add(row, SORT.may, ANYTHING);
  return lister.list;
}

/** What a row asks, as what it may have. */
export function mayHave({ words, spans }: ClaimList): ClaimList {
  const may = words.slice();
  for (let at = 0; at < may.length; at += WORDS) {
    may[at] = ((may[at] as number) | SORT.may) >>> 0;
    may[at + 4] = 0;
  }
  return { words: may, spans };
}

/** The lists of the parts of a piece, in their order. */
export function joinedClaims(parts: readonly { readonly list: ClaimList; readonly rowsBefore: number }[]): ClaimList {
  const words = new Uint32Array(parts.reduce((sum, { list }) => sum + list.words.length, 0));
  const spans: (readonly [number, ClaimedInterval])[] = [];
  let length = 0;
  for (const { list, rowsBefore } of parts) {
    words.set(list.words, length);
    for (let at = length; at < length + list.words.length; at += WORDS) {
      words[at] = (words[at] as number) + rowsBefore * 4;
      if (words[at + 4] !== 0) words[at + 4] = (words[at + 4] as number) + rowsBefore;
    }
    for (const [at, interval] of list.spans) spans.push([at + length / WORDS, interval]);
    length += list.words.length;
  }
  return { words, spans };
}

/** A list as bytes: how many words there are, the words, the intervals as JSON. */
export function claimBytes({ words, spans }: ClaimList): Uint8Array {
  return Buffer.concat([
    new Uint8Array(Uint32Array.of(words.length).buffer),
    new Uint8Array(words.buffer, words.byteOffset, words.byteLength),
    Buffer.from(JSON.stringify(spans)),
  ]);
}

export function claimsFrom(bytes: Uint8Array): ClaimList {
  const buffer = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  const [length = 0] = new Uint32Array(buffer, 0, 1);
  const spans = JSON.parse(Buffer.from(buffer, 4 + length * 4).toString()) as ClaimList['spans'];
  return { words: new Uint32Array(buffer, 4, length), spans };
}

/** Two lists that are not the same have not the same version. */
export function hashOf(...parts: readonly (Uint8Array | string)[]): string {
  const hash = createHash('sha256');
  for (const part of parts) hash.update(`${part.length} `).update(part);
  return hash.digest('hex').slice(0, 24);
}
