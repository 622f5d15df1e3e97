import type { Flat, ValueOf } from '../kinds/field.ts';
import type { Kind, NEEDS } from '../kinds/kind.ts';
import type { CollectionSpec } from './collection.ts';
import type { Terms } from './where.ts';

export type Columns = { readonly [column: string]: Kind<string, unknown> };
/** A stored row, typed by its columns. */
export type RowOf<C extends Columns> = { readonly [N in keyof C]: ValueOf<C[N]> } & {};

/** A declared question to the records; `G` is what a rule finds. */
export interface LookUp<in R, out G> {
  readonly collection: string;
  readonly [NEEDS]: (roles: R) => G;
}
export type LookUps<R> = { readonly [name: string]: LookUp<R, unknown> };
/** What a rule finds, by the names of its look-ups. */
export type FoundOf<L> = { readonly [P in keyof L]: L[P] extends LookUp<never, infer G> ? G : never } & {};
export type OneOf<C extends Columns, N extends keyof C, G> = Flat<Pick<RowOf<C>, N> & FoundOf<G>>;

/** The row that comes first in an order: the one that is highest, or lowest, in a column. */
export interface OrderSpec {
  readonly column: string;
  readonly from: 'highest' | 'lowest';
}

export interface LookUpSpec extends Terms {
  readonly collection: CollectionSpec;
  readonly columns: readonly string[];
  readonly want: 'one' | 'oneOrNone' | 'all' | 'first' | 'count' | 'exists' | 'sum' | 'highest' | 'lowest';
  /** Of `first`, `highest` and `lowest`. */
  readonly order?: OrderSpec;
  /** Of `all`: rows at most. */
  readonly most?: number;
  readonly exceptItself: boolean;
  /** It asks for the record that is judged again, and for no other. */
  readonly onlyItself?: true;
  /** The answer decides about what is stored next: it must not be an old one. */
  readonly isFresh?: true;
  readonly inner: { readonly [name: string]: LookUpSpec };
}
