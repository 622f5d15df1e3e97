import type { AskedClaim, ClaimedInterval, ClaimsApart } from '../../core/asking/ledger.ts';
import { ClaimBook, type Keeps, type Tells } from './claim-book.ts';
import { type ClaimList, ClaimLister, SORT } from './claim-list.ts';
import { Fingerprint, type Print, type Seed } from './fingerprint.ts';

/** Hands what rows ask to whoever tells them, by fingerprints. */
export class AskedClaims implements ClaimsApart {
  readonly #print: Fingerprint;
  readonly #tells: Tells;

  constructor(seed: Seed, tells: Tells) {
    this.#print = new Fingerprint(seed);
    this.#tells = tells;
  }

  ask({ row, rule, key, interval, keeps }: AskedClaim): number | undefined {
    // Of a value there is nothing to share.
    const kept = interval || keeps === 'none' ? keeps : 'free';
    return this.#tells.tell(row, this.#print.of(rule, key), kept, interval);
  }

  isUndecided(row: number): boolean {
    return this.#tells.isUndecided(row);
  }
}

const SORTS = { none: SORT.asks, free: SORT.takes, all: SORT.shares } as const;

/** Tells rows of a piece what others of it have, and notes what they ask. */
export class ListedClaims implements Tells {
  readonly #book = new ClaimBook();
  readonly #lister = new ClaimLister();
  readonly #rowsBefore: number;

  constructor(rowsBefore: number) {
    this.#rowsBefore = rowsBefore;
  }

  get list(): ClaimList {
    return this.#lister.list;
  }

  isUndecided(): boolean {
    return false;
  }

  tell(row: number, print: Print, keeps: Keeps, interval?: ClaimedInterval): number | undefined {
    const holder = this.#book.tell(row, print, keeps, interval);
    this.#lister.add(row - this.#rowsBefore, SORTS[keeps], print, holder === undefined ? undefined : holder - this.#rowsBefore, interval);
    return holder;
  }
}
