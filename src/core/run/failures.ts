import type { Texts } from '../basics/text.ts';
import type { Finding, Why } from '../basics/verdict.ts';
import type { EntryKey, PlaceSpec, UseInfo } from '../plan/plan.ts';

/** What became of a use on trial. */
export interface Tried {
  readonly info: UseInfo;
  readonly failure?: Failure;
  readonly open?: Open;
}

/** One use that did not hold: ids, places and facts. The sentence is made at the edge. */
export interface Failure {
  readonly info: UseInfo;
  readonly spots: readonly Spot[];
  readonly facts: Finding['facts'];
  /** What only the message needs. */
  readonly words: { readonly [slot: string]: Texts | readonly Texts[] };
  readonly labels: { readonly [role: string]: Texts };
  /** Of one that is kept: its findings by language. */
  readonly told?: Map<string | undefined, Finding>;
}

/** A place, with the entries that it is in. */
export interface Spot {
  readonly place: PlaceSpec;
  readonly indexes: readonly EntryKey[];
  /** An undeclared key under the place. */
  readonly key?: string;
}

export interface Open {
  readonly info: UseInfo;
  readonly spots: readonly Spot[];
  readonly why: Why;
  readonly cause: unknown;
}
