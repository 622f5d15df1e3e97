import { createHash } from 'node:crypto';
import type { ClaimedInterval, ClaimStore } from '../../core/asking/ledger.ts';
import { type Claimed, ClaimsInTurn } from './claimed.ts';

// What the rows of a range claim, as it is entered into a database, and what comes back of it.

/** The first row of a range with some values: the number of the rule, the name of the values, the number of the row. */
interface EnteredValue {
  readonly r: number;
  readonly n: string;
  readonly i: number;
}
/** An interval of a row: besides which of the row's claims it is, its ends, and the row that was told of within the range. */
interface EnteredSpan extends EnteredValue {
  readonly s: number;
  readonly v: string;
  readonly t: number | null;
}
/** All of a range, as JSON, so many in one text: that is made beside whoever enters it. */
export interface Entered {
  readonly values: readonly string[];
  readonly spans: readonly string[];
}

/** Claims that are entered by one statement. */
const AT_ONCE = 4000;

export function enteredOf(claims: readonly Claimed[]): Entered {
  const values = new Map<string, EnteredValue>();
  const spans: EnteredSpan[] = [];
  const count = new CountInRow();
  for (const { rule, key, row, interval, holder } of claims) {
    if (interval) {
      spans.push({ r: rule, n: nameOf(key), i: row, s: count.next(row), v: JSON.stringify(interval), t: holder ?? null });
    } else if (holder === undefined) {
      // Within the range the first has it.
      const name = nameOf(key);
      values.set(`${rule} ${name}`, { r: rule, n: name, i: row });
    }
  }
  // In one order, so that two ranges do not wait for each other.
  const sorted = [...values.values()].sort((one, other) => one.r - other.r || (one.n < other.n ? -1 : 1));
  return { values: inTexts(sorted), spans: inTexts(spans) };
}

function inTexts(all: readonly object[]): readonly string[] {
  return Array.from({ length: Math.ceil(all.length / AT_ONCE) }, (_, at) => JSON.stringify(all.slice(at * AT_ONCE, (at + 1) * AT_ONCE)));
}

/** A row that is told of another holder than it was told of by its own range; of none where there is no holder. */
export interface Correction {
  readonly rule: number;
  readonly name: string;
  readonly row: number;
  /** Of an interval: which one of the row's. */
  readonly place?: number;
  readonly holder?: number;
}

/**
 * The claims of a range by itself, but for what is corrected. A correction of a value is of the first row that has it in the range: what it
 * says is true of all other rows of the range with the same.
 */
export class CorrectedClaims implements ClaimStore {
  readonly #alone = new ClaimsInTurn();
  readonly #known: ReadonlyMap<string, number | undefined>;
  readonly #rules: ReadonlySet<number>;
  readonly #count = new CountInRow();

  constructor(corrections: readonly Correction[]) {
    this.#rules = new Set(corrections.map(({ rule }) => rule));
    this.#known = new Map(
      corrections.map(({ rule, name, row, place, holder }) => [
        place === undefined ? `${rule} ${name}` : `${rule} ${name} ${row} ${place}`,
        holder,
      ]),
    );
  }

  holderOf(rule: number, key: string, row = 0): number | undefined {
    const alone = this.#alone.holderOf(rule, key, row);
    const told = this.#rules.has(rule) ? (this.#known.get(`${rule} ${nameOf(key)}`) ?? alone) : alone;
    return told === row ? undefined : told;
  }
  overlapping(rule: number, key: string, interval: ClaimedInterval, row = 0): number | undefined {
    const alone = this.#alone.overlapping(rule, key, interval, row);
    const place = this.#count.next(row);
    const name = this.#rules.has(rule) ? `${rule} ${nameOf(key)} ${row} ${place}` : '';
    return this.#known.has(name) ? this.#known.get(name) : alone;
  }
  hold(): void {}
  holdInterval(): void {}
}

/** The claims of a range as they are in view of all ranges. */
export function corrected(claims: readonly Claimed[], corrections: readonly Correction[]): readonly Claimed[] {
  const store = new CorrectedClaims(corrections);
  return claims.map(({ row, rule, key, interval }) => {
    const holder = interval ? store.overlapping(rule, key, interval, row) : store.holderOf(rule, key, row);
    return { row, rule, key, ...(interval && { interval }), ...(holder !== undefined && { holder }) };
  });
}

/** Numbers the intervals of each row, from 0. */
class CountInRow {
  #row = 0;
  #count = 0;

  next(row: number): number {
    this.#count = row === this.#row ? this.#count + 1 : 0;
    this.#row = row;
    return this.#count;
  }
}

/** Values of any length and alphabet as a name that every database takes for itself alone. */
function nameOf(key: string): string {
  return createHash('sha256').update(key).digest('hex').slice(0, 32);
}
