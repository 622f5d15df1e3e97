import { createHash } from 'node:crypto';
import type { Claimed } from './claimed.ts';

// What the rows of a range claim, as it is entered into a database, and what comes back of it.

/** The first row of a range with some values: the number of the rule, the name of the values, the number of the row. */
export interface EnteredValue {
  readonly r: number;
  readonly n: string;
  readonly i: number;
}
/** An interval of a row: besides a name of its own, its ends, and the row that was told of within the range. */
export interface EnteredSpan extends EnteredValue {
  readonly s: string;
  readonly v: string;
  readonly t: number | null;
}
export interface Entered {
  readonly values: readonly EnteredValue[];
  readonly spans: readonly EnteredSpan[];
}

export function enteredOf(claims: readonly Claimed[]): Entered {
  const values = new Map<string, EnteredValue>();
  const spans: EnteredSpan[] = [];
  for (const { rule, key, row, interval, holder } of claims) {
    if (interval) {
      const span = JSON.stringify(interval);
      spans.push({ r: rule, n: nameOf(key), i: row, s: nameOf(span), v: span, t: holder ?? null });
    } else if (holder === undefined) {
      // Within the range the first has it.
      const name = nameOf(key);
      values.set(`${rule} ${name}`, { r: rule, n: name, i: row });
    }
  }
  return { values: [...values.values()], spans };
}

/** A row that is told of another holder than it was told of by its own range; of none where there is no holder. */
export interface Correction {
  readonly rule: number;
  readonly name: string;
  readonly row: number;
  /** Of an interval: which one. */
  readonly start?: string;
  readonly holder?: number;
}

/**
 * The claims of a range as they are in view of all ranges. A correction of a value is of the first row that has it in the range: what it
 * says is true of all other rows of the range with the same.
 */
export function corrected(claims: readonly Claimed[], corrections: readonly Correction[]): readonly Claimed[] {
  const known = new Map(
    corrections.map(({ rule, name, row, start, holder }) => [
      start === undefined ? `${rule} ${name}` : `${rule} ${name} ${row} ${start}`,
      holder,
    ]),
  );
  return claims.map(({ holder, ...claim }) => {
    const { rule, key, row, interval } = claim;
    const name = `${rule} ${nameOf(key)}`;
    const mine = interval ? `${name} ${row} ${nameOf(JSON.stringify(interval))}` : name;
    const told = known.has(mine) ? known.get(mine) : holder;
    return told === undefined || told === row ? claim : { ...claim, holder: told };
  });
}

/** Values of any length and alphabet as a name that every database takes for itself alone. */
function nameOf(key: string): string {
  return createHash('sha256').update(key).digest('hex').slice(0, 32);
}
