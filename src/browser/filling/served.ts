import { keyOf, renamed, type ShownFinding } from './finding.ts';
import type { Readers } from './readers.ts';
import type { Renaming } from './renaming.ts';
import { changedIn, goneIn, moved, type Values } from './values.ts';

/** What the server was given to judge: its answer belongs to these values, and to no others. */
export interface Flight {
  /** Later ones have greater numbers. */
  readonly number: number;
  values: Values;
  /** What became of the rows meanwhile. */
  readonly renamings: { readonly renaming: Renaming; readonly gone: readonly string[] }[];
}

/** A finding of the server: it lives as long as what its rule has read. */
interface ServedFinding {
  readonly finding: ShownFinding;
  readonly isRead: (pointer: string) => boolean;
  readonly flight: number;
}

/** What the server has found, and is asked. */
export class Served {
  readonly #readers: Readers;
  #found: readonly ServedFinding[] = [];
  #flights: readonly Flight[] = [];
  #number = 0;

  constructor(readers: Readers) {
    this.#readers = readers;
  }

  get findings(): ShownFinding[] {
    return this.#found.map(({ finding }) => finding);
  }

  clear(): void {
    this.#found = [];
    this.#flights = [];
  }

  takeOff(values: Values): Flight {
    const flight: Flight = { number: ++this.#number, values, renamings: [] };
    this.#flights = [...this.#flights, flight];
    return flight;
  }

  /** Whether its answer still concerns somebody. */
  land(flight: Flight): boolean {
    const isAwaited = this.#flights.includes(flight);
    this.#flights = this.#flights.filter((each) => each !== flight);
    return isAwaited;
  }

  /** What has changed since is no longer what was judged. */
  forget(changed: readonly string[]): void {
    if (changed.length > 0) this.#found = this.#found.filter(({ isRead }) => !changed.some(isRead));
  }

  rename(renaming: Renaming, values: Values): void {
    this.forget(goneIn(values, renaming));
    this.#found = this.#found.flatMap(({ finding, flight }) => this.#at(flight, renamed(finding, renaming)));
    for (const flight of this.#flights) {
      flight.renamings.push({ renaming, gone: goneIn(flight.values, renaming) });
      flight.values = moved(flight.values, renaming);
    }
  }

  /**
   * An answer takes the place of what earlier ones have found.
   *
   * @param isJudged of which findings it tells whether they still hold
   */
  answer(flight: Flight, findings: readonly ShownFinding[], now: Values, isJudged: (finding: ShownFinding) => boolean): void {
    const fresh = findings.filter(isJudged).flatMap((finding) => this.#at(flight.number, this.#landed(flight, finding, now)));
    const keys = new Set(fresh.map(({ finding }) => keyOf(finding)));
    const stays = (old: ServedFinding) => !keys.has(keyOf(old.finding)) && (old.flight > flight.number || !isJudged(old.finding));
    this.#found = [...this.#found.filter(stays), ...fresh];
  }

  #at(flight: number, finding: ShownFinding | undefined): ServedFinding[] {
    return finding ? [{ finding, isRead: this.#readers.readingOf(finding), flight }] : [];
  }

  /** A finding where its fields stand now; none when something has changed that its rule has read. */
  #landed(flight: Flight, finding: ShownFinding, now: Values): ShownFinding | undefined {
    let landed: ShownFinding | undefined = finding;
    for (const { renaming, gone } of flight.renamings) {
      if (gone.some(this.#readers.readingOf(landed))) return undefined;
      landed = renamed(landed, renaming);
      if (!landed) return undefined;
    }
    return changedIn(flight.values, now).some(this.#readers.readingOf(landed)) ? undefined : landed;
  }
}
