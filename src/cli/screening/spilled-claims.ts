import { type ClaimedInterval, type ClaimStore, Ledger } from '../../core/asking/ledger.ts';
import { claimsIn, type ManyClaims, type SyncSqlite } from '../../records/sql/store/claims-in.ts';
import { Seen } from './seen.ts';

/** Claims held in memory; when there are more they go into an SQLite file, so many at a time. */
export const MOST_HELD = 20_000;

/** Claims that take no more memory than so much, however many they are. */
export class SpilledClaims implements ClaimStore {
  readonly #openFile: () => SyncSqlite;
  readonly #mostHeld: number;
  #recent = new Ledger<number>();
  #count = 0;
  #file: (ClaimStore & ManyClaims) | undefined;
  /** What is in the file: most rows claim something new, and need not ask it. */
  #seen: Seen | undefined;

  /** @param openFile opens an SQLite file of its own, once it is needed */
  constructor(openFile: () => SyncSqlite, mostHeld = MOST_HELD) {
    this.#openFile = openFile;
    this.#mostHeld = mostHeld;
  }

  holderOf(rule: number, key: string): number | undefined {
    return this.#recent.holderOf(rule, key) ?? (this.#seen?.has(`${rule} ${key}`) ? this.#file?.holderOf(rule, key) : undefined);
  }
  overlapping(rule: number, key: string, interval: ClaimedInterval): number | undefined {
    const recent = this.#recent.overlapping(rule, key, interval);
    const stored = this.#seen?.has(`${rule} ${key}`) ? this.#file?.overlapping(rule, key, interval) : undefined;
    // Who came first is told, wherever it is kept.
    return recent === undefined || stored === undefined ? (recent ?? stored) : Math.min(recent, stored);
  }
  hold(rule: number, key: string, row: number): void {
    this.#recent.hold(rule, key, row);
    this.#grow();
  }
  holdInterval(rule: number, key: string, interval: ClaimedInterval, row: number, isAside?: boolean): void {
    this.#recent.holdInterval(rule, key, interval, row, isAside);
    this.#grow();
  }

  #grow(): void {
    if (++this.#count < this.#mostHeld) return;
    this.#count = 0;
    this.#file ??= claimsIn(this.#openFile());
    const seen = this.#seen ?? new Seen();
    this.#seen = seen;
    const file = this.#file;
    const values: [rule: number, key: string, row: number][] = [];
    this.#recent.moveTo(
      {
        hold: (rule, key, row) => {
          seen.add(`${rule} ${key}`);
          values.push([rule, key, row]);
        },
        holdInterval: (rule, key, interval, row, isAside) => {
          seen.add(`${rule} ${key}`);
          file.holdInterval(rule, key, interval, row, isAside);
        },
      },
      (row) => row,
    );
    file.holdAll(values);
    this.#recent = new Ledger();
  }
}
