/** Numbers that look like chance and are the same from run to run (a linear congruential generator with a mixed output). */
export class Chance {
  #state: number;
  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** A whole number from 0, below the limit. */
  below(limit: number): number {
    this.#state = (Math.imul(this.#state, 1_664_525) + 1_013_904_223) >>> 0;
    const mixed = Math.imul(this.#state ^ (this.#state >>> 15), 0x2c1b3c6d) >>> 0;
    return limit < 1 ? 0 : ((mixed ^ (mixed >>> 13)) >>> 0) % limit;
  }

  pick<T>(from: readonly T[]): T {
    return from[this.below(from.length)] as T;
  }
}
