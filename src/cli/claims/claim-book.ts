import { type AskedClaim, type ClaimedInterval, type ClaimStore, Ledger } from '../../core/asking/ledger.ts';
import { ClaimTable } from './claim-table.ts';
import { nameOf, type Print } from './fingerprint.ts';
import { Seen } from './seen.ts';
import type { SortedRuns } from './sorted-runs.ts';

/** Values that are held in memory, some 25 bytes each; when there are more they go into a file, so many at a time. */
export const MOST_VALUES = 750_000;
/** The same of intervals, which take more room. */
export const MOST_INTERVALS = 20_000;

/** Where claims go that memory does not take, each opened once it is needed. */
export interface ClaimFiles {
  runs(): SortedRuns;
  intervals(): ClaimStore;
}

export type Keeps = AskedClaim['keeps'];

/** Whoever answers a row that claims something; `interval` of what is one, and then the fingerprint is that of the values beside. */
export interface Tells {
  tell(row: number, print: Print, keeps: Keeps, interval?: ClaimedInterval): number | undefined;
  isUndecided(row: number): boolean;
}

/**
 * Who has what. Rows come in their order, and each of their claims in its order: of values the first row that claims them has them, of
 * intervals the first in whose way nothing stands. A row of which it is not known what it claims leaves every later one undecided that it may
 * stand in the way of: what is not known is never free.
 */
export class ClaimBook implements Tells {
  readonly #files: ClaimFiles | undefined;
  readonly #mostValues: number;
  readonly #mostIntervals: number;
  readonly #values = new ClaimTable();
  #intervals = new Ledger<number>();
  /** The fingerprints beside them, where some may go into the file. */
  #recentPrints: Print[] = [];
  #runs: SortedRuns | undefined;
  #moreIntervals: ClaimStore | undefined;
  /** What is in the files: most rows claim something new, and need not read them. */
  #seen: Seen | undefined;
  /** Intervals of the row at hand. */
  #own = new Ledger<number>();
  #ownRow = 0;
  /** Rows of which it is not known what they claim; the first that may have anything, and by what they may have the first. */
  readonly #unknown = new Set<number>();
  #mayHaveAnything = Number.POSITIVE_INFINITY;
  readonly #mayHave = new ClaimTable();

  /** @param files where what is more than memory takes goes; without them all is held */
  constructor(files?: ClaimFiles, mostValues = MOST_VALUES, mostIntervals = MOST_INTERVALS) {
    this.#files = files;
    this.#mostValues = mostValues;
    this.#mostIntervals = mostIntervals;
  }

  isUndecided(row: number): boolean {
    return this.#unknown.has(row);
  }

  /** A row may have a value, or some interval beside it; without one, anything. */
  mayHave(row: number, print?: Print): void {
    this.#unknown.add(row);
    if (print) this.#mayHave.hold(print, row);
    else this.#mayHaveAnything = Math.min(this.#mayHaveAnything, row);
  }

  /** The row that has it: the one at hand is nobody's trouble. Of a row that may have it, and stands before all that is known, it tells, too. */
  tell(row: number, print: Print, keeps: Keeps, interval?: ClaimedInterval): number | undefined {
    const holder = interval ? this.#tellInterval(row, print, keeps, interval) : this.#tellValue(row, print, keeps);
    if (this.#unknown.size === 0) return holder;
    const first = Math.min(this.#mayHaveAnything, this.#mayHave.rowOf(print) ?? Number.POSITIVE_INFINITY);
    return first < (holder ?? row) ? first : holder;
  }

  #tellValue(row: number, print: Print, keeps: Keeps): number | undefined {
    const stored = this.#seen?.has(print) ? this.#runs?.rowOf(print) : undefined;
    const holder = stored ?? (keeps === 'none' ? this.#values.rowOf(print) : this.#values.hold(print, row));
    if (this.#files && this.#values.size >= this.#mostValues) this.#spillValues(this.#files);
    return holder === row ? undefined : holder;
  }

  #tellInterval(row: number, print: Print, keeps: Keeps, interval: ClaimedInterval): number | undefined {
    if (row !== this.#ownRow) this.#nextRow(row);
    const key = nameOf(print);
    const recent = this.#intervals.overlapping(0, key, interval);
    const stored = this.#seen?.has(print) ? this.#moreIntervals?.overlapping(0, key, interval) : undefined;
    // Who came first is told, wherever it is kept.
    const holder = recent === undefined || stored === undefined ? (recent ?? stored) : Math.min(recent, stored);
    const inTheWay = holder ?? this.#own.overlapping(0, key, interval);
    if (keeps === 'none' || (keeps === 'free' && inTheWay !== undefined)) return holder;
    this.#own.holdInterval(0, key, interval, row, inTheWay !== undefined);
    if (this.#files) this.#recentPrints.push({ a: print.a, b: print.b, c: print.c });
    return holder;
  }

  /** What a row has is nobody's trouble but that of others. */
  #nextRow(row: number): void {
    this.#ownRow = row;
    if (this.#own.isEmpty) return;
    this.#own.moveTo({ hold: () => undefined, holdInterval: this.#intervals.holdInterval.bind(this.#intervals) }, (own) => own);
    this.#own = new Ledger();
    if (this.#files && this.#recentPrints.length >= this.#mostIntervals) this.#spillIntervals(this.#files);
  }

  #spillValues(files: ClaimFiles): void {
    this.#seen ??= new Seen();
    this.#runs ??= files.runs();
    const seen = this.#seen;
    this.#values.each((print) => seen.add(print));
    this.#runs.add(this.#values);
    this.#values.clear();
  }

  #spillIntervals(files: ClaimFiles): void {
    this.#seen ??= new Seen();
    this.#moreIntervals ??= files.intervals();
    for (const print of this.#recentPrints) this.#seen.add(print);
    this.#intervals.moveTo(
      { hold: () => undefined, holdInterval: this.#moreIntervals.holdInterval.bind(this.#moreIntervals) },
      (row) => row,
    );
    this.#intervals = new Ledger();
    this.#recentPrints = [];
  }
}
