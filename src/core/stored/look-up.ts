import type { Flat, ValueOf } from '../kinds/field.ts';
import type { Kind, NEEDS } from '../kinds/kind.ts';
import type { Scalar } from '../verdict.ts';
import type { CollectionSpec } from './collection.ts';
import type { Comparison } from './records.ts';

export type Columns = { readonly [column: string]: Kind<string, unknown> };
/** A stored row, typed by its columns. */
export type RowOf<C extends Columns> = { readonly [N in keyof C]: ValueOf<C[N]> } & {};

/** A column compared otherwise than by equality; made by `above`, `below`, `notAbove`, `notBelow`, `ignoringCase`. */
export interface Compare<out P> {
  readonly op: 'above' | 'below' | 'notAbove' | 'notBelow' | 'ignoringCase';
  readonly than: P;
}
/** Used by `above` and `below`, which are value rules too. */
export const compareWith = <P>(op: Compare<P>['op'], than: P): Compare<P> => ({ op, than });
/** The column is at most the role's value. */
export const notAbove = <const P>(than: P): Compare<P> => ({ op: 'notAbove', than });
/** The column is at least the role's value. */
export const notBelow = <const P>(than: P): Compare<P> => ({ op: 'notBelow', than });
/** The column equals the role's value but for the case of letters, as the store folds them. */
export const ignoringCase = <const P>(than: P): Compare<P> => ({ op: 'ignoringCase', than });

/** A fixed value where a role's name could stand. */
export interface Fixed<out T> {
  readonly exactly: T;
}
/** A fixed value instead of a role's; `exactly(null)`: the column holds nothing. */
export const exactly = <const T>(value: T): Fixed<T> => ({ exactly: value });

type RolesFor<R, T> = { [P in keyof R]: [ValueOf<R[P]>] extends [T | undefined] ? P : never }[keyof R];
type Asked<R, T> = (RolesFor<R, T> & string) | Fixed<T>;
/** Column to role, or to a comparison with a role; or to a fixed value, or to none (`exactly(null)`). */
export type Where<C extends Columns, R> = {
  readonly [N in keyof C]?: Asked<R, ValueOf<C[N]>> | Fixed<null> | Compare<Asked<R, ValueOf<C[N]>>>;
};
/** Columns and the fixed values that they have; `exactly(null)`: that they hold nothing. */
export type FixedColumns<C extends Columns> = { readonly [N in keyof C]?: Fixed<ValueOf<C[N]> | null> };

/** A declared question to the records; `G` is what a rule finds. */
export interface LookUp<in R, out G> {
  readonly collection: string;
  readonly [NEEDS]: (roles: R) => G;
}
export type LookUps<R> = { readonly [name: string]: LookUp<R, unknown> };
/** What a rule finds, by the names of its look-ups. */
export type FoundOf<L> = { readonly [P in keyof L]: L[P] extends LookUp<never, infer G> ? G : never } & {};
export type OneOf<C extends Columns, N extends keyof C, G> = Flat<Pick<RowOf<C>, N> & FoundOf<G>>;

/** One term of a look-up, as the run time sees it. */
export interface TermSpec {
  readonly column: string;
  readonly is: Comparison;
  /** The role (or, in a nested look-up, the parent's column) compared with. */
  readonly role?: string;
  readonly exactly?: Exclude<Scalar, null>;
  /** A row that holds nothing in the column matches too. */
  readonly orMissing?: true;
  /** Its role may be absent, and then the term asks nothing: an interval that is open on that side. */
  readonly isOpen?: true;
  /** It says which rows count at all: nobody is to blame when there is none. */
  readonly isBlameless?: true;
}

export interface LookUpSpec {
  readonly collection: CollectionSpec;
  readonly terms: readonly TermSpec[];
  readonly columns: readonly string[];
  readonly want: 'one' | 'oneOrNone' | 'all' | 'count' | 'exists';
  /** Of `all`: rows at most. */
  readonly most?: number;
  readonly exceptItself: boolean;
  readonly inner: { readonly [name: string]: LookUpSpec };
}

/** Turns what a developer writes as `where` into terms. */
export function termsOf(where: object): TermSpec[] {
  return Object.entries(where).map(([column, asked]) => {
    const isCompare = typeof asked === 'object' && asked !== null && 'op' in asked;
    const against: unknown = isCompare ? (asked as Compare<unknown>).than : asked;
    const is: Comparison = isCompare ? (asked as Compare<unknown>).op : 'equal';
    return typeof against === 'string' ? { column, is, role: against } : fixedTerm(column, is, against as Fixed<Scalar>);
  });
}

function fixedTerm(column: string, is: Comparison, { exactly: value }: Fixed<Scalar>): TermSpec {
  return value === null ? { column, is: 'missing', exactly: true } : { column, is, exactly: value };
}
