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

/** Claims that are made as they are asked for, so that asking tells all: what the row at hand has itself stands before what others have. */
export class ClaimsInTurn implements ClaimStore {
  readonly #all: ClaimStore;
  /** Intervals of the row at hand. */
  #own: Ledger<number> | undefined;
  #row = 0;

  /** @param all what rows before have claimed; that of these is added */
  constructor(all: ClaimStore = new Ledger<number>()) {
    this.#all = all;
  }

  holderOf(rule: number, key: string, row = 0): number | undefined {
    const holder = this.#all.holderOf(rule, key, row);
    if (holder === undefined) this.#all.hold(rule, key, row);
    return holder === row ? undefined : holder;
  }
  overlapping(rule: number, key: string, interval: ClaimedInterval, row = 0): number | undefined {
    if (row !== this.#row) this.#own = undefined;
    this.#row = row;
    if (this.#own?.overlapping(rule, key, interval) !== undefined) return undefined;
    const holder = this.#all.overlapping(rule, key, interval, row);
    if (holder === undefined) {
      this.#own ??= new Ledger();
      this.#own.holdInterval(rule, key, interval, row);
      this.#all.holdInterval(rule, key, interval, row);
    }
    return holder;
  }
  hold(): void {}
  holdInterval(): void {}
}

/** Claims of a piece by itself, which remember what they were asked. */
export class RememberedClaims implements ClaimStore {
  readonly asked: Claimed[] = [];
  readonly #claims = new ClaimsInTurn();

  holderOf(rule: number, key: string, row = 0): number | undefined {
    return this.#told({ row, rule, key }, this.#claims.holderOf(rule, key, row));
  }
  overlapping(rule: number, key: string, interval: ClaimedInterval, row = 0): number | undefined {
    return this.#told({ row, rule, key, interval }, this.#claims.overlapping(rule, key, interval, row));
  }
  hold(): void {}
  holdInterval(): void {}

  #told(asked: Claimed, holder: number | undefined): number | undefined {
    this.asked.push(holder === undefined ? asked : { ...asked, holder });
    return holder;
  }
}

/** Claims that answer what is known of all rows before. */
export class SettledClaims implements ClaimStore {
  /** A row may ask the same more than once, and be told otherwise when it has something itself meanwhile. */
  readonly #answers = new Map<string, (number | undefined)[]>();

  constructor(settled: readonly Claimed[]) {
    for (const { row, rule, key, interval, holder } of settled) {
      const name = nameOf(rule, key, interval, row);
      const known = this.#answers.get(name);
      if (known) known.push(holder);
      else this.#answers.set(name, [holder]);
    }
  }

  holderOf(rule: number, key: string, row?: number): number | undefined {
    return this.#next(nameOf(rule, key, undefined, row));
  }
  overlapping(rule: number, key: string, interval: ClaimedInterval, row?: number): number | undefined {
    return this.#next(nameOf(rule, key, interval, row));
  }
  hold(): void {}
  holdInterval(): void {}

  #next(name: string): number | undefined {
    const answers = this.#answers.get(name) ?? [];
    return answers.length > 1 ? answers.shift() : answers[0];
  }
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
  const inTurn = new ClaimsInTurn(all);
  let isOther = false;
  const answers = claims.map((claim): Claimed => {
    const { row, rule, key, interval } = claim;
    const holder = interval ? inTurn.overlapping(rule, key, interval, row) : inTurn.holderOf(rule, key, row);
    if (holder === claim.holder) return claim;
    isOther = true;
    return { row, rule, key, ...(interval && { interval }), ...(holder !== undefined && { holder }) };
  });
  return isOther ? answers : undefined;
}
