import { compareNumbers } from '../basics/exact.ts';

/** Of an end that is open there is nothing. */
export type Edge = string | number | undefined;

/** An interval that must share nothing with others. */
export interface ClaimedInterval {
  readonly from: Edge;
  readonly to: Edge;
  /** One that ends as another begins is in its way. */
  readonly touching: boolean;
  /** Its ends are texts that stand for numbers: exact decimals. */
  readonly isNumber: boolean;
}

/**
 * Where `judgeMany` keeps what earlier rows have claimed, by rule: its number is the same for every run of an intake. A key is the text of
 * the values that have to be alike.
 */
export interface ClaimStore {
  /** The row that has these values. */
  holderOf(rule: number, key: string): number | undefined;
  /** Keeps that a row has these values. */
  hold(rule: number, key: string, row: number): void;
  /** A row whose interval shares something with this one. */
  overlapping(rule: number, key: string, interval: ClaimedInterval): number | undefined;
  /**
   * Keeps that a row has this interval. Those that are held share nothing with each other, but for those that are held aside: of a row that
   * nobody has refused though another has some of it.
   */
  holdInterval(rule: number, key: string, interval: ClaimedInterval, row: number, isAside?: boolean): void;
}

/** What a row claims, and what of it the row will have. */
export interface AskedClaim {
  readonly row: number;
  readonly rule: number;
  readonly key: string;
  readonly interval?: ClaimedInterval;
  /** `free`: unless another has it, or some of it; `all`: then, too. `none`: it only matters who has it. */
  readonly keeps: 'none' | 'free' | 'all';
}

/**
 * Whoever answers rows that are judged apart from others of the same source. Rows ask in their order, and of every claim, also of one that the
 * row has itself already, so that who answers knows them all; what they are told decides nothing of what they ask.
 */
export interface ClaimsApart {
  /** The earlier row that has it, and keeps what this row will have. */
  ask(claim: AskedClaim): number | undefined;
  /** Whether an earlier row is itself undecided: then so is whoever is told of it. */
  isUndecided(row: number): boolean;
}

interface Held<H> extends ClaimedInterval {
  readonly holder: H;
}

/** Intervals with the same values beside: they share nothing, so that only the nearest ones can be in the way of another. */
interface Side<H> {
  /** In order, none empty. */
  readonly full: Held<H>[];
  /** In order, those that begin where they end. */
  readonly empty: Held<H>[];
  /** Those that end before they begin, or share something with others. */
  readonly odd: Held<H>[];
}

/** Who holds what, in memory. */
export class Ledger<H> {
  readonly #values = new Map<number, Map<string, H>>();
  readonly #intervals = new Map<number, Map<string, Side<H>>>();

  get isEmpty(): boolean {
    return this.#values.size + this.#intervals.size === 0;
  }

  holderOf(rule: number, key: string): H | undefined {
    return this.#values.get(rule)?.get(key);
  }

  hold(rule: number, key: string, holder: H): void {
    mapIn(this.#values, rule).set(key, holder);
  }

  /** @param isOther who counts; all, where it is left out */
  overlapping(rule: number, key: string, mine: ClaimedInterval, isOther: (holder: H) => boolean = () => true): H | undefined {
    const side = this.#intervals.get(rule)?.get(key);
    return side && inTheWay(side, mine, isOther)?.holder;
  }

  holdInterval(rule: number, key: string, mine: ClaimedInterval, holder: H, isAside = false): void {
    const sides = mapIn(this.#intervals, rule);
    const side = sides.get(key) ?? { full: [], empty: [], odd: [] };
    sides.set(key, side);
    const length = compareEdges(mine.to, mine.from, mine.isNumber);
    const isOdd = isAside || length < 0;
    const others = isOdd ? side.odd : length > 0 ? side.full : side.empty;
    // Those held beside each other share nothing: what ends after this one begins stands behind it.
    const at = isOdd ? others.length : firstIndex(others, ({ to }) => compareEdges(to, mine.from, mine.isNumber) > 0);
    others.splice(at, 0, { ...mine, holder });
  }

  /** Hands all that is held over. */
  moveTo(store: Pick<ClaimStore, 'hold' | 'holdInterval'>, rowOf: (holder: H) => number): void {
    for (const [rule, held] of this.#values) for (const [key, holder] of held) store.hold(rule, key, rowOf(holder));
    for (const [rule, sides] of this.#intervals)
      for (const [key, { full, empty, odd }] of sides)
        for (const others of [full, empty, odd])
          for (const held of others) store.holdInterval(rule, key, held, rowOf(held.holder), others === odd);
  }
}

function mapIn<V>(maps: Map<number, Map<string, V>>, rule: number): Map<string, V> {
  let known = maps.get(rule);
  if (!known) {
    known = new Map();
    maps.set(rule, known);
  }
  return known;
}

/** Compares the end of one interval with the beginning of another; what is open lies beyond everything. */
function compareEdges(end: Edge, beginning: Edge, isNumber: boolean): number {
  if (end === undefined || beginning === undefined) return 1;
  if (isNumber) return compareNumbers(end, beginning);
  return end < beginning ? -1 : end > beginning ? 1 : 0;
}

/** What overlaps: each begins before the other ends (or as it ends, where touching is refused). */
function inTheWay<H>({ full, empty, odd }: Side<H>, mine: ClaimedInterval, isOther: (holder: H) => boolean): Held<H> | undefined {
  const compare = (end: Edge, beginning: Edge) => compareEdges(end, beginning, mine.isNumber);
  const least = mine.touching ? 0 : 1;
  const endsLater = ({ to }: ClaimedInterval) => compare(to, mine.from) >= least;
  const overlaps = (other: ClaimedInterval) => compare(mine.to, other.from) >= least && endsLater(other);
  const isInTheWay = (other: Held<H>) => overlaps(other) && isOther(other.holder);
  if (compare(mine.to, mine.from) < 0) return [...full, ...empty, ...odd].find(isInTheWay);
  for (const others of [full, empty]) {
    for (let at = firstIndex(others, endsLater); at < others.length && overlaps(others[at] as Held<H>); at++)
      if (isOther((others[at] as Held<H>).holder)) return others[at];
  }
  return odd.find(isInTheWay);
}

/** The index of the first of ordered intervals for which `is` holds. */
function firstIndex<T>(others: readonly T[], is: (other: T) => boolean): number {
  let [low, high] = [0, others.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (is(others[middle] as T)) high = middle;
    else low = middle + 1;
  }
  return low;
}
