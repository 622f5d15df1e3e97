import { exactOf } from '../basics/exact.ts';
import { WITHHELD } from '../basics/text.ts';
import type { Claimant, ClaimSpec, Definition, Reads } from '../declared/rule.ts';
import type { Plan } from '../plan/plan.ts';
import type { Spot } from '../run/failures.ts';
import { pointerOf, shownPointer } from '../run/places.ts';
import { type ClaimedInterval, type ClaimStore, type Edge, Ledger } from './ledger.ts';

/** Where a case stands, for the one that comes later with the same values. */
export interface Holder {
  /** Of a `judgeMany`: counted from 1. */
  readonly row: number | undefined;
  readonly spot: Spot;
}

/**
 * What rows and entries hold so far. The first with some values has them; a later one with the same is told who it was.
 * Values are compared by code units, or without regard to case; what else the store's collation takes for equal is left
 * to the store's own constraint.
 */
export class Claims {
  /** What the row at hand holds. */
  #own = new Ledger<Holder>();
  /** Of earlier rows the number is enough. */
  readonly #earlier: ClaimStore;
  /** Rules by number, which the plan settles: rows that are judged apart mean the same by it. */
  readonly #rules: ReadonlyMap<Definition, number>;

  constructor({ record }: Pick<Plan, 'record'>, earlier: ClaimStore = new Ledger<number>()) {
    this.#earlier = earlier;
    this.#rules = new Map([...new Set(record.map(({ definition }) => definition))].map((definition, at) => [definition, at]));
  }

  /** Begins another row. */
  nextRow(): void {
    if (this.#own.isEmpty) return;
    this.#own.moveTo(this.#earlier, ({ row }) => row as number);
    this.#own = new Ledger();
  }

  /** Claims what a case reads; gives the earlier claimant when there is one. */
  take(rule: Definition, read: Reads, holder: Holder, isTrial = false): Claimant | undefined {
    const { claims } = rule;
    if (!claims) return undefined;
    const number = this.#numberOf(rule, isTrial);
    const key = keyOf(claims, read);
    const { interval } = claims;
    const { row } = holder;
    const mine: ClaimedInterval | undefined = interval && {
      ...interval,
      from: read[interval.from] as Edge,
      to: read[interval.to] as Edge,
    };
    const own = mine ? this.#own.overlapping(number, key, mine) : this.#own.holderOf(number, key);
    const before = mine ? this.#earlier.overlapping(number, key, mine, row) : this.#earlier.holderOf(number, key, row);
    const earlier = own ?? before;
    if (earlier !== undefined) return isSameCase(earlier, holder) ? undefined : claimantOf(earlier);
    if (mine) this.#own.holdInterval(number, key, mine, holder);
    else this.#own.hold(number, key, holder);
    return undefined;
  }

  #numberOf(rule: Definition, isTrial: boolean): number {
    // Uses on trial are in nobody's way but their own.
    return (this.#rules.get(rule) as number) * 2 + (isTrial ? 1 : 0);
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
