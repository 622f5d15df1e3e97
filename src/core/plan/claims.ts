import type { Claimant, ClaimSpec, Definition, Reads } from '../rules/definition.ts';

/** Where a case stands, for the one that comes later with the same values. */
export interface Holder {
  /** Of a `judgeMany`: counted from 1. */
  readonly row: number | undefined;
  /** Of an entry: its number in its list, counted from 1, or its name in a table. */
  readonly entry: number | string | undefined;
  readonly pointer: string;
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
  /** Lets go of the places in the row that is done. */
  #forget: (() => void)[] = [];

  /** Begins another row: of the one before, only its number is kept. */
  nextRow(): void {
    for (const forget of this.#forget) forget();
    this.#forget = [];
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
    const { row } = holder;
    if (row !== undefined)
      this.#forget.push(() => {
        mine.holder = row;
      });
    return insert(others, mine, interval.touching);
  }

  #takeValue(held: Map<string, Holder | number>, key: string, holder: Holder): Claimant | undefined {
    const earlier = held.get(key);
    if (earlier !== undefined) return claimantOf(earlier);
    held.set(key, holder);
    const { row } = holder;
    if (row !== undefined) this.#forget.push(() => held.set(key, row));
    return undefined;
  }
}

function mapIn<V>(maps: Map<Definition, Map<string, V>>, rule: Definition): Map<string, V> {
  const known = maps.get(rule) ?? new Map<string, V>();
  maps.set(rule, known);
  return known;
}

function keyOf({ terms }: ClaimSpec, read: Reads): string {
  return JSON.stringify(
    terms.map(({ is, role, exactly }) => {
      const value = role === undefined ? exactly : read[role];
      return is === 'ignoringCase' ? String(value).toLowerCase() : value;
    }),
  );
}

function claimantOf(earlier: Holder | number): Claimant {
  return typeof earlier === 'number' ? { row: earlier } : { entry: earlier.entry ?? '', pointer: earlier.pointer };
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
