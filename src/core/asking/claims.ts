import { exactOf } from '../basics/exact.ts';
import { WITHHELD } from '../basics/text.ts';
import type { Claimant, ClaimSpec, Reads } from '../declared/rule.ts';
import type { EntryKey, Frame, PlaceSpec, UsePlan } from '../plan/plan.ts';
import { pointerOf, shownPointer } from '../run/places.ts';
import { type Finder, findersOf, valuesFor, wouldFind } from './finders.ts';
import { type ClaimedInterval, type ClaimStore, type ClaimsApart, type Edge, Ledger } from './ledger.ts';
import { Renewals } from './renewals.ts';

/** A row to be stored. */
interface Holder {
  /** The fields that its values come from. */
  readonly places: readonly PlaceSpec[];
  readonly indexes: readonly EntryKey[];
}

/** A case, and the row that it belongs to. */
export interface Claiming {
  readonly use: UsePlan;
  readonly frames: readonly Frame[];
  readonly indexes: readonly EntryKey[];
  /** Of a `judgeMany`: counted from 1. */
  readonly row: number | undefined;
  /** Of a row that renews a stored record: which one. */
  readonly itself: string | undefined;
  /** It is asked: where another has the same, this one is refused, and has nothing. */
  readonly isRefused: boolean;
}

type Unasked = Omit<Claiming, 'use'>;
type Outcome = 'accepted' | 'rejected' | 'undecided';

/**
 * What rows and entries will have stored so far. A claim follows from the values that a row will have in its columns, and not from whether a
 * rule was asked of that row: it is held under every look-up that would find the row later. The first with some values has them; a later one
 * with the same is told who it was.
 * Values are compared by code units, or without regard to case; what else the store's collation takes for equal is left to the store's own
 * constraint.
 */
export class Claims {
  /** What the row at hand holds. */
  #own = new Ledger<Holder>();
  #ownRow: Pick<Claiming, 'row' | 'itself'> = { row: undefined, itself: undefined };
  /** Of earlier rows the number is enough. */
  readonly #earlier: ClaimStore;
  #renewals: Renewals | undefined;
  /** The look-ups that would not find a row that renews its own record. */
  readonly #excepting = new Set<number>();
  readonly #finders: ReturnType<typeof findersOf>;
  readonly #apart: ClaimsApart | undefined;
  /** Of earlier rows those that were not accepted. */
  #outcomes: Map<number, Outcome> | undefined;

  /**
   * @param earlier what earlier rows hold
   * @param apart who answers in their place, where rows are judged apart from others
   */
  constructor(plan: Parameters<typeof findersOf>[0], earlier: ClaimStore = new Ledger<number>(), apart?: ClaimsApart) {
    this.#earlier = earlier;
    this.#finders = findersOf(plan);
    this.#apart = apart;
  }

  /** Begins another row. */
  nextRow(): void {
    if (this.#own.isEmpty) return;
    const { row, itself } = this.#ownRow;
    if (this.#apart) this.#own = new Ledger();
    else if (itself === undefined) this.#own.moveTo(this.#earlier, () => row as number);
    else {
      this.#renewals ??= new Renewals();
      const renewed = this.#renewals.of(itself);
      const placeOf = (rule: number) => (this.#excepting.has(rule) ? renewed : this.#earlier);
      const store = {
        hold: (rule: number, key: string, of: number) => placeOf(rule).hold(rule, key, of),
        holdInterval: (rule: number, key: string, mine: ClaimedInterval, of: number, isAside?: boolean) =>
          placeOf(rule).holdInterval(rule, key, mine, of, isAside),
      };
      this.#own.moveTo(store, () => row as number);
    }
    this.#own = new Ledger();
  }

  /** Keeps what became of a row, for those behind it. */
  ended(row: number, outcome: Outcome): void {
    if (outcome === 'accepted' || this.#apart || this.#finders.ofUses.size === 0) return;
    this.#outcomes ??= new Map();
    this.#outcomes.set(row, outcome);
  }

  /** What became of an earlier row, as far as it is known. */
  outcomeOf(row: number): Outcome {
    return this.#apart?.isUndecided(row) ? 'undecided' : (this.#outcomes?.get(row) ?? 'accepted');
  }

  /** Claims what a case will have stored; gives the earlier claimant that its rule would find. */
  take(claiming: Claiming): Claimant | undefined {
    const [own, ...others] = this.#finders.ofUses.get(claiming.use) ?? [];
    const earlier = own && this.#take(own, claiming, true);
    for (const finder of others) this.#take(finder, claiming, false);
    return earlier;
  }

  /** Whether the accepted value claims something that no use speaks of. */
  get hasValue(): boolean {
    return this.#finders.ofValue.length > 0;
  }

  /** Claims what the accepted value will have stored. */
  takeValue(row: Omit<Unasked, 'isRefused'>): void {
    for (const finder of this.#finders.ofValue) this.#take(finder, { ...row, isRefused: false }, false);
  }

  /** @param isAsked the answer matters; else it only matters that the row is there */
  #take(finder: Finder, claiming: Unasked, isAsked: boolean): Claimant | undefined {
    const { frames, indexes, row, itself } = claiming;
    const read = valuesFor(finder, frames);
    const isHeld = wouldFind(finder, frames);
    if (!read || !(isAsked || isHeld)) return undefined;
    const { number, claims, places } = finder;
    const { interval } = claims;
    const key = keyOf(claims, read);
    const mine = interval && { ...interval, from: read[interval.from] as Edge, to: read[interval.to] as Edge };
    const isRefused = isAsked && claiming.isRefused;
    const holder = { places, indexes };
    const own = mine ? this.#own.overlapping(number, key, mine) : this.#own.holderOf(number, key);
    const earlier = this.#earlierWith(finder, key, mine, claiming, isHeld, isRefused);
    const renewing = this.#renewedBy(finder, key, mine, itself);
    const isOwn = own !== undefined && isSameRow(own, holder);
    const before = earlier ?? renewing;
    const claimant = own && !isOwn ? entryOf(own) : before === undefined ? undefined : { row: before };
    if (isOwn || !isHeld || (claimant && isRefused)) return claimant;
    // What another has stays its own; of an interval there is more than what both have.
    if (mine) this.#own.holdInterval(number, key, mine, holder, claimant !== undefined);
    else if (!own && earlier === undefined) this.#own.hold(number, key, holder);
    this.#ownRow = { row, itself };
    if (finder.exceptsItself) this.#excepting.add(number);
    return claimant;
  }

  #earlierWith(
    { number: rule }: Finder,
    key: string,
    interval: ClaimedInterval | undefined,
    { row = 0 }: Unasked,
    isHeld: boolean,
    isRefused: boolean,
  ): number | undefined {
    if (!this.#apart) return interval ? this.#earlier.overlapping(rule, key, interval) : this.#earlier.holderOf(rule, key);
    return this.#apart.ask({ row, rule, key, ...(interval && { interval }), keeps: !isHeld ? 'none' : isRefused ? 'free' : 'all' });
  }

  #renewedBy(
    { number, exceptsItself }: Finder,
    key: string,
    mine: ClaimedInterval | undefined,
    itself: string | undefined,
  ): number | undefined {
    const excepted = exceptsItself ? itself : undefined;
    return mine ? this.#renewals?.overlapping(number, key, mine, excepted) : this.#renewals?.holderOf(number, key, excepted);
  }
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

/** Another entry of the same submission, or another field of it. */
function entryOf({ places: [place], indexes }: Holder): Claimant {
  const spot = { place: place as PlaceSpec, indexes };
  const key = indexes.at(-1);
  const pointer = shownPointer(spot);
  if (key === undefined) return { pointer };
  return { entry: typeof key === 'number' ? key + 1 : spot.place.secretNames > 0 ? WITHHELD : key, pointer };
}

/** The same row to be stored, under another condition or rule: it does not stand in its own way. */
function isSameRow(one: Holder, other: Holder): boolean {
  const pointers = ({ places, indexes }: Holder) => places.map((place) => pointerOf({ place, indexes }));
  return pointers(one).join('\n') === pointers(other).join('\n');
}
