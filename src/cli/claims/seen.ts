import type { Print } from './fingerprint.ts';

/** Bits: for 50 million fingerprints a wrong yes in about a dozen. */
const BITS = 2 ** 28;
const TRIES = 4;

/** Fingerprints that were seen, in little room: a no is certain, a yes is not (a Bloom filter). */
export class Seen {
  readonly #bits = new Uint32Array(BITS / 32);

  add(print: Print): void {
    for (let at = 0; at < TRIES; at++) {
      const bit = bitOf(print, at);
      this.#bits[bit >>> 5] = (this.#bits[bit >>> 5] as number) | (1 << (bit & 31));
    }
  }

  has(print: Print): boolean {
    for (let at = 0; at < TRIES; at++) {
      const bit = bitOf(print, at);
      if (((this.#bits[bit >>> 5] as number) & (1 << (bit & 31))) === 0) return false;
    }
    return true;
  }
}

function bitOf({ a, b }: Print, at: number): number {
  return (a + at * ((b | 1) >>> 0)) % BITS;
}
