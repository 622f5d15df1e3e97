import type { Flat, ValueOf } from '../declared/field.ts';
import type { Kind, NEEDS } from '../declared/kind.ts';

/** The kinds of columns, by name. */
export type Columns = { readonly [column: string]: Kind<string, unknown> };
/** A stored row, typed by its columns. */
export type RowOf<C extends Columns> = { readonly [N in keyof C]: ValueOf<C[N]> } & {};

/** A declared question to the records; `G` is what a rule finds. */
export interface LookUp<in R, out G> {
  readonly collection: string;
  /** @internal */
  readonly [NEEDS]: (roles: R) => G;
}
/** Look-ups by name. */
export type LookUps<R> = { readonly [name: string]: LookUp<R, unknown> };
/** What a rule finds, by the names of its look-ups. */
export type FoundOf<L> = { readonly [P in keyof L]: L[P] extends LookUp<never, infer G> ? G : never } & {};
/** A row that was found, with what was looked up from it. */
export type OneOf<C extends Columns, N extends keyof C, G> = Flat<Pick<RowOf<C>, N> & FoundOf<G>>;
