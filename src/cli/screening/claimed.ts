import { type ClaimedInterval, type ClaimStore, Ledger } from '../../core/asking/ledger.ts';

// Rows that are judged apart from others know only of claims among themselves. Here is what they asked and were told, so that it can be
// held against what all rows before have claimed.

/** What a row asked of the claims before it, and was told. */
export interface Claimed {
  readonly row: number;
  readonly rule: number;
  readonly key: string;
  readonly interval?: ClaimedInterval;
  /** The row that has it. */
  readonly holder?: number;
}

/** Claims of a piece by itself, which remember what they were asked. */
export class RememberedClaims implements ClaimStore {
  readonly asked: Claimed[] = [];
  readonly #own = new Ledger<number>();

  holderOf(rule: number, key: string, row = 0): number | undefined {
    return this.#told({ row, rule, key }, this.#own.holderOf(rule, key));
  }
  overlapping(rule: number, key: string, interval: ClaimedInterval, row = 0): number | undefined {
    return this.#told({ row, rule, key, interval }, this.#own.overlapping(rule, key, interval));
  }
  hold(rule: number, key: string, row: number): void {
    this.#own.hold(rule, key, row);
  }
  holdInterval(rule: number, key: string, interval: ClaimedInterval, row: number): void {
    this.#own.holdInterval(rule, key, interval, row);
  }

  #told(asked: Claimed, holder: number | undefined): number | undefined {
    this.asked.push(holder === undefined ? asked : { ...asked, holder });
    return holder;
  }
}

/** Claims that answer what is known of all rows before. */
export class SettledClaims implements ClaimStore {
  readonly #holders: ReadonlyMap<string, number | undefined>;

  constructor(settled: readonly Claimed[]) {
    this.#holders = new Map(settled.map(({ row, rule, key, interval, holder }) => [nameOf(rule, key, interval, row), holder]));
  }

  holderOf(rule: number, key: string, row?: number): number | undefined {
    return this.#holders.get(nameOf(rule, key, undefined, row));
  }
  overlapping(rule: number, key: string, interval: ClaimedInterval, row?: number): number | undefined {
    return this.#holders.get(nameOf(rule, key, interval, row));
  }
  hold(): void {}
  holdInterval(): void {}
}

function nameOf(rule: number, key: string, interval: ClaimedInterval | undefined, row: number | undefined): string {
  return JSON.stringify([row, rule, key, interval?.from ?? null, interval?.to ?? null]);
}

/**
 * Holds the claims of a piece against those of all pieces before it, whose turn was earlier.
 *
 * @param all what all rows before have claimed; that of this piece is added
 * @returns the claims as they are, where some row was told otherwise
 */
export function settled(claims: readonly Claimed[], all: ClaimStore): readonly Claimed[] | undefined {
  let isOther = false;
  const answers = claims.map((claim): Claimed => {
    const { row, rule, key, interval } = claim;
    const holder = interval ? all.overlapping(rule, key, interval, row) : all.holderOf(rule, key, row);
    if (holder === undefined) {
      if (interval) all.holdInterval(rule, key, interval, row);
      else all.hold(rule, key, row);
    }
    if (holder === claim.holder) return claim;
    isOther = true;
    return { row, rule, key, ...(interval && { interval }), ...(holder !== undefined && { holder }) };
  });
  return isOther ? answers : undefined;
}
