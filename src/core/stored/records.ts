import type { Scalar } from '../verdict.ts';

/** How a column of a row relates to the value asked with: equal to it, above it, … */
export type Comparison = 'equal' | 'above' | 'below' | 'notAbove' | 'notBelow' | 'ignoringCase' | 'otherThan';

export interface Term {
  readonly column: string;
  readonly is: Comparison;
}

/** One question with many keys; a row answers a key when all terms hold for it. */
export interface Question {
  readonly collection: string;
  readonly terms: readonly Term[];
  /** The columns wanted; empty for `count` and `exists`. */
  readonly columns: readonly string[];
  readonly want: 'rows' | 'count' | 'exists';
  /** Rows at most, for each key. */
  readonly most?: number;
  /** For each key a value for each term, in the order of `terms`. No key stands twice. */
  readonly keys: readonly (readonly Exclude<Scalar, null>[])[];
}

export type StoredRow = { readonly [column: string]: unknown };

/** One answer a key, in the order of the keys: rows, or numbers for `count` and (0 or 1) for `exists`. */
export type Answer = readonly (readonly StoredRow[])[] | readonly number[];

/** The store of existing data. An application with a store of its own implements this one method. */
export interface Records {
  /**
   * Answers all questions, in their order. A store that cannot answer rejects; the rules that asked are then unsettled.
   * Text is compared by the store's own collation.
   */
  ask(questions: readonly Question[], signal: AbortSignal): Promise<readonly Answer[]>;
}
