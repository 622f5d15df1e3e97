import { type ClaimedInterval, Ledger } from './ledger.ts';

/** A row that renews a stored record. */
interface Renewal {
  readonly itself: string;
  readonly row: number;
}

/** What rows that renew stored records hold. A record that is renewed twice is not in its own way, and in that of all others. */
export class Renewals {
  /** By value those that have it: more than one where no rule was asked of them. */
  readonly #values = new Map<string, Renewal | Renewal[]>();
  readonly #spans = new Ledger<Renewal>();

  /** A row of another record that has these values. */
  holderOf(rule: number, key: string, itself: string | undefined): number | undefined {
    const held = this.#values.get(`${rule} ${key}`);
    if (held === undefined) return undefined;
    return (Array.isArray(held) ? held : [held]).find((renewal) => renewal.itself !== itself)?.row;
  }

  /** A row of another record whose interval shares something with this one. */
  overlapping(rule: number, key: string, mine: ClaimedInterval, itself: string | undefined): number | undefined {
    return this.#spans.overlapping(rule, key, mine, (renewal) => renewal.itself !== itself)?.row;
  }

  /** Where a row that renews this record puts what it holds. */
  of(itself: string): Pick<Ledger<number>, 'hold' | 'holdInterval'> {
    return {
      hold: (rule, key, row) => {
        const name = `${rule} ${key}`;
        const held = this.#values.get(name);
        if (held === undefined) this.#values.set(name, { itself, row });
        else if (Array.isArray(held)) held.push({ itself, row });
        else if (held.itself !== itself) this.#values.set(name, [held, { itself, row }]);
      },
      holdInterval: (rule, key, mine, row, isAside = false) =>
        this.#spans.holdInterval(rule, key, mine, { itself, row }, isAside || this.#spans.overlapping(rule, key, mine) !== undefined),
    };
  }
}
