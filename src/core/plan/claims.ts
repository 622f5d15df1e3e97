import { compareNumbers, exactOf } from '../exact.ts';
import type { Claimant, ClaimSpec, Definition, Reads } from '../rules/definition.ts';
import { WITHHELD } from '../text.ts';
import { pointerOf, type Spot, shownPointer } from './run.ts';

/** Where a case stands, for the one that comes later with the same values. */
export interface Holder {
  /** Of a `judgeMany`: counted from 1. */
  readonly row: number | undefined;
  readonly spot: Spot;
}

/** Of an end that is open there is nothing. */
type Edge = string | number | undefined;

/** Intervals with the same values beside: they share nothing, so that only the nearest ones can be in the way of another. */
interface Held {
  /** In order, none empty. */
  readonly full: Interval[];
  /** In order, those that begin where they end. */
  readonly empty: Interval[];
  /** Those that end before they begin. */
  readonly odd: Interval[];
}

interface Interval {
  readonly from: Edge;
  readonly to: Edge;
  /** Of earlier rows the number is enough. */
  holder: Holder | number;
}

/**
 * What rows and entries hold so far. The first with some values has them; a later one with the same is told who it was.
 * Values are compared by code units, or without regard to case; what else the store's collation takes for equal is left
 * to the store's own constraint.
 */
export class Claims {
  readonly #values = new Map<Definition, Map<string, Holder | number>>();
  readonly #intervals = new Map<Definition, Map<string, Held>>();
  /** Of uses on trial, which are in nobody's way. */
  #trials: Claims | undefined;
  /** What the row at hand holds. */
  readonly #ownKeys: { readonly held: Map<string, Holder | number>; readonly key: string; readonly row: number }[] = [];
  readonly #ownIntervals: Interval[] = [];

  /** Begins another row: of the one before, only its number is kept. */
  nextRow(): void {
    this.#trials?.nextRow();
    if (this.#ownKeys.length + this.#ownIntervals.length === 0) return;
    for (const { held, key, row } of this.#ownKeys) held.set(key, row);
    for (const interval of this.#ownIntervals) if (typeof interval.holder === 'object') interval.holder = interval.holder.row as number;
    this.#ownKeys.length = 0;
    this.#ownIntervals.length = 0;
  }

  /** Claims what a case reads; gives the earlier claimant when there is one. */
  take(rule: Definition, read: Reads, holder: Holder, isTrial = false): Claimant | undefined {
    if (isTrial) {
      this.#trials ??= new Claims();
      return this.#trials.take(rule, read, holder);
    }
    const { claims } = rule;
    if (!claims) return undefined;
    const key = keyOf(claims, read);
    const { interval } = claims;
    if (!interval) return this.#takeValue(mapIn(this.#values, rule), key, holder);
    const intervals = mapIn(this.#intervals, rule);
    const mine: Interval = { from: read[interval.from] as Edge, to: read[interval.to] as Edge, holder };
    const held = intervals.get(key) ?? { full: [], empty: [], odd: [] };
    intervals.set(key, held);
    const earlier = inTheWay(held, mine, interval);
    if (earlier !== undefined) return isSameCase(earlier, holder) ? undefined : claimantOf(earlier);
    if (holder.row !== undefined) this.#ownIntervals.push(mine);
    hold(held, mine, interval);
    return undefined;
  }

  #takeValue(held: Map<string, Holder | number>, key: string, holder: Holder): Claimant | undefined {
    const earlier = held.get(key);
    if (earlier !== undefined) return isSameCase(earlier, holder) ? undefined : claimantOf(earlier);
    held.set(key, holder);
    const { row } = holder;
    if (row !== undefined) this.#ownKeys.push({ held, key, row });
    return undefined;
  }
}

function mapIn<V>(maps: Map<Definition, Map<string, V>>, rule: Definition): Map<string, V> {
  const known = maps.get(rule) ?? new Map<string, V>();
  maps.set(rule, known);
  return known;
}

function keyOf({ terms, exact }: ClaimSpec, read: Reads): string {
  const [only] = terms;
  if (terms.length === 1 && only?.is === 'equal' && only.role !== undefined) {
    const value = read[only.role];
    // The text of a list of terms begins with a bracket, and no text may be taken for one.
    if (typeof value === 'string' && !value.startsWith('[')) return exact.includes(only.column) ? (exactOf(value) ?? value) : value;
  }
  return JSON.stringify(
    terms.map(({ column, is, role, exactly }) => {
      const value = role === undefined ? exactly : read[role];
      if (exact.includes(column)) return exactOf(value) ?? value;
      return is === 'ignoringCase' ? String(value).toLowerCase() : value;
    }),
  );
}

function claimantOf(earlier: Holder | number): Claimant {
  if (typeof earlier === 'number') return { row: earlier };
  const key = earlier.spot.indexes.at(-1);
  const pointer = shownPointer(earlier.spot);
  if (key === undefined) return { pointer };
  return { entry: typeof key === 'number' ? key + 1 : earlier.spot.place.secretNames > 0 ? WITHHELD : key, pointer };
}

/** The same values at the same place, under another condition: a use does not stand in its own way. */
function isSameCase(earlier: Holder | number, { row, spot }: Holder): boolean {
  return typeof earlier === 'object' && earlier.row === row && pointerOf(earlier.spot) === pointerOf(spot);
}

/** Compares the end of one interval with the beginning of another; what is open lies beyond everything. */
type Compare = (end: Edge, beginning: Edge) => number;

function compareWith({ isNumber }: NonNullable<ClaimSpec['interval']>): Compare {
  return (end, beginning) => {
    if (end === undefined || beginning === undefined) return 1;
    if (isNumber) return compareNumbers(end, beginning);
    return end < beginning ? -1 : end > beginning ? 1 : 0;
  };
}

/** What overlaps: each begins before the other ends (or as it ends, where touching is refused). */
function inTheWay(held: Held, mine: Interval, spec: NonNullable<ClaimSpec['interval']>): Holder | number | undefined {
  const compare = compareWith(spec);
  const least = spec.touching ? 0 : 1;
  const endsLater = ({ to }: Interval) => compare(to, mine.from) >= least;
  const overlaps = (other: Interval) => compare(mine.to, other.from) >= least && endsLater(other);
  if (compare(mine.to, mine.from) < 0) return [...held.full, ...held.empty, ...held.odd].find(overlaps)?.holder;
  for (const others of [held.full, held.empty]) {
    const next = others[firstIndex(others, endsLater)];
    if (next && overlaps(next)) return next.holder;
  }
  return held.odd.find(overlaps)?.holder;
}

function hold(held: Held, mine: Interval, spec: NonNullable<ClaimSpec['interval']>): void {
  const compare = compareWith(spec);
  const length = compare(mine.to, mine.from);
  const others = length > 0 ? held.full : length === 0 ? held.empty : held.odd;
  // Those held beside each other share nothing: what ends after this one begins stands behind it.
  const at = length < 0 ? others.length : firstIndex(others, (other) => compare(other.to, mine.from) > 0);
  others.splice(at, 0, mine);
}

/** The index of the first of ordered intervals for which `is` holds. */
function firstIndex(others: readonly Interval[], is: (other: Interval) => boolean): number {
  let [low, high] = [0, others.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (is(others[middle] as Interval)) high = middle;
    else low = middle + 1;
  }
  return low;
}
