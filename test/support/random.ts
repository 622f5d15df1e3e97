/** Random numbers that a seed repeats (mulberry32). */
export class Random {
  #state: number;
  constructor(seed: number) {
    this.#state = seed >>> 0;
  }
  /** From 0, below 1. */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let mixed = this.#state;
    mixed = Math.imul(mixed ^ (mixed >>> 15), mixed | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  }
  below(limit: number): number {
    return Math.floor(this.next() * limit);
  }
  pick<const T>(from: readonly T[]): T {
    return from[this.below(from.length)] as T;
  }
  maybePick<T>(from: readonly T[]): T | undefined {
    return from[this.below(from.length)];
  }
}
