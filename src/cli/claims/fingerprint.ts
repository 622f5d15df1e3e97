/** Three words that make a fingerprint what it is: others in each run. */
export type Seed = readonly [number, number, number];

/**
 * Stands for a value that rows claim: 96 bits, made of its rule and its text. Two values with one fingerprint would be told of as the same:
 * among 50 million rows once in 10¹⁴ runs, and it would refuse one of them. The seed is new for every run, so that nobody makes two such
 * values.
 */
export class Fingerprint {
  a = 0;
  b = 0;
  c = 0;
  readonly #seed: Seed;

  constructor(seed: Seed) {
    this.#seed = seed;
  }

  /** Becomes that of a value: three sums that are mixed with each of its characters, and with each other in the end. */
  of(rule: number, key: string): this {
    const [first, second, third] = this.#seed;
    let a = Math.imul(first ^ rule, 0x9e3779b1);
    let b = Math.imul(second + rule + 1, 0x85ebca6b);
    let c = Math.imul(third ^ 0x5bd1e995, 0xc2b2ae35) ^ rule;
    for (let at = 0; at < key.length; at++) {
      const unit = key.charCodeAt(at) + 1;
      a = Math.imul(a ^ unit, 0x85ebca6b);
      a ^= a >>> 13;
      b = Math.imul(b ^ unit, 0xc2b2ae35);
      b ^= b >>> 15;
      c = Math.imul(((c << 5) | (c >>> 27)) ^ unit, 0x27d4eb2f);
    }
    a = Math.imul(a ^ (c >>> 16) ^ key.length, 0x7feb352d);
    a ^= a >>> 15;
    b = Math.imul(b ^ a, 0x846ca68b);
    b ^= b >>> 16;
    c = Math.imul(c ^ b, 0x2c1b3c6d);
    this.a = a >>> 0;
    this.b = b >>> 0;
    this.c = (c ^ (c >>> 12)) >>> 0;
    return this;
  }
}

/** A fingerprint, whoever has made it. */
export type Print = Pick<Fingerprint, 'a' | 'b' | 'c'>;

/** A fingerprint as a text. */
export function nameOf({ a, b, c }: Print): string {
  return [a, b, c].map((word) => word.toString(16).padStart(8, '0')).join('');
}

export function newSeed(): Seed {
  const [first, second, third] = crypto.getRandomValues(new Uint32Array(3));
  return [first as number, second as number, third as number];
}
