import type { Claimant, ClaimSpec, Definition, Reads } from '../rules/definition.ts';
import { pointerOf, type Spot } from './run.ts';

/** Where a case stands, for the one that comes later with the same values. */
export interface Holder {
  /** Of a `judgeMany`: counted from 1. */
  readonly row: number | undefined;
  readonly spot: Spot;
}

interface Interval {
  readonly from: string;
  readonly to: string;
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
  readonly #intervals = new Map<Definition, Map<string, Interval[]>>();
  /** What the row at hand holds. */
  readonly #ownKeys: { readonly held: Map<string, Holder | number>; readonly key: string; readonly row: number }[] = [];
  readonly #ownIntervals: Interval[] = [];

  /** Begins another row: of the one before, only its number is kept. */
  nextRow(): void {
    if (this.#ownKeys.length + this.#ownIntervals.length === 0) return;
    for (const { held, key, row } of this.#ownKeys) held.set(key, row);
    for (const interval of this.#ownIntervals) if (typeof interval.holder === 'object') interval.holder = interval.holder.row as number;
    this.#ownKeys.length = 0;
    this.#ownIntervals.length = 0;
  }

  /** Claims what a case reads; gives the earlier claimant when there is one. */
  take(rule: Definition, read: Reads, holder: Holder): Claimant | undefined {
    const { claims } = rule;
    if (!claims) return undefined;
    const key = keyOf(claims, read);
    const { interval } = claims;
    if (!interval) return this.#takeValue(mapIn(this.#values, rule), key, holder);
    const intervals = mapIn(this.#intervals, rule);
    const mine: Interval = { from: read[interval.from] as string, to: read[interval.to] as string, holder };
    const others = intervals.get(key) ?? [];
    intervals.set(key, others);
    if (holder.row !== undefined) this.#ownIntervals.push(mine);
    return insert(others, mine, interval.touching);
  }

  #takeValue(held: Map<string, Holder | number>, key: string, holder: Holder): Claimant | undefined {
    const earlier = held.get(key);
    if (earlier !== undefined) return claimantOf(earlier);
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

function keyOf({ terms }: ClaimSpec, read: Reads): string {
  const [only] = terms;
  if (terms.length === 1 && only?.is === 'equal' && only.role !== undefined) {
    const value = read[only.role];
    if (typeof value === 'string') return value;
  }
  return JSON.stringify(
    terms.map(({ is, role, exactly }) => {
      const value = role === undefined ? exactly : read[role];
      return is === 'ignoringCase' ? String(value).toLowerCase() : value;
    }),
  );
}

function claimantOf(earlier: Holder | number): Claimant {
  if (typeof earlier === 'number') return { row: earlier };
  const key = earlier.spot.indexes.at(-1);
  const pointer = pointerOf(earlier.spot);
  return key === undefined ? { pointer } : { entry: typeof key === 'number' ? key + 1 : key, pointer };
}

/** Intervals held together share nothing, so they are kept in order and only the nearest two can be in the way. */
function insert(others: Interval[], mine: Interval, isTouching: boolean): Claimant | undefined {
  let [low, high] = [0, others.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((others[middle] as Interval).from < mine.from) low = middle + 1;
    else high = middle;
  }
  for (const near of others.slice(Math.max(low - 1, 0), low + 1)) {
    const [first, second] = near.from < mine.from ? [near, mine] : [mine, near];
    if (isTouching ? first.to >= second.from : first.to > second.from) return claimantOf(near.holder);
  }
  others.splice(low, 0, mine);
  return undefined;
}
