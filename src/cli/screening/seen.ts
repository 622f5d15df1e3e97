/** Bits: for 50 million names a wrong yes in about a dozen. */
const BITS = 2 ** 28;
const TRIES = 4;

/** Names that were seen, in little room: a no is certain, a yes is not (a Bloom filter). */
export class Seen {
  readonly #bits = new Uint32Array(BITS / 32);

  add(name: string): void {
    const [first, second] = hashesOf(name);
    for (let at = 0; at < TRIES; at++) {
      const bit = (first + at * second) % BITS;
      this.#bits[bit >>> 5] = (this.#bits[bit >>> 5] as number) | (1 << (bit & 31));
    }
  }

  has(name: string): boolean {
    const [first, second] = hashesOf(name);
    for (let at = 0; at < TRIES; at++) {
      const bit = (first + at * second) % BITS;
      if (((this.#bits[bit >>> 5] as number) & (1 << (bit & 31))) === 0) return false;
    }
    return true;
  }
}

/** Two numbers of 32 bits each (FNV-1a, and the same turned over). */
function hashesOf(name: string): readonly [number, number] {
  let [one, other] = [0x811c9dc5, 0x9747b28c];
  for (let at = 0; at < name.length; at++) {
    const unit = name.charCodeAt(at);
    one = Math.imul(one ^ unit, 0x01000193);
    other = Math.imul(other ^ unit, 0x85ebca6b);
    other ^= other >>> 13;
  }
  return [one >>> 0, (other | 1) >>> 0];
}
