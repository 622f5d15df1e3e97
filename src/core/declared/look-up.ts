import type { CalendarUnit } from '../basics/calendar.ts';
import type { Scalar, Why } from '../basics/verdict.ts';
import type { RoleSpec } from './kind.ts';

/** How a column of a row relates to the value asked with: equal to it, above it, …; `missing` (asked with `true`): it holds nothing. */
export type Comparison = 'equal' | 'above' | 'below' | 'notAbove' | 'notBelow' | 'ignoringCase' | 'otherThan' | 'missing';

/** The row that comes first in an order: the one that is highest, or lowest, in a column. */
export interface OrderSpec {
  readonly column: string;
  readonly from: 'highest' | 'lowest';
}

/** What a store is asked for: rows, or a number about them. */
export type Want = 'rows' | 'count' | 'exists' | 'sum';

/** Why an answer is missing. */
export interface NoAnswer {
  readonly why: Why;
  readonly cause?: unknown;
}

/** What a look-up came to: a value for the rule, nothing where a row has to be, or no answer. */
export type Outcome = { readonly value: unknown } | { readonly none: true } | NoAnswer;

/** A form of look-ups, such as `one` or `count`: what a store is asked for, and what its answer means. */
export interface LookUpForm {
  /** What it is called where it is declared. */
  readonly name: string;
  readonly want: Want;
  /** What its rule is handed: a row, rows, a value of its column, a number of rows, or whether there is any. */
  readonly gives: 'row' | 'rows' | 'value' | 'count' | 'flag';
  /** Something has to be there, or whoever it was asked with is to blame. */
  readonly mustExist?: true;
  /** It is about all rows that match, which another row may join. */
  readonly isOfAll?: true;
  /** Rows at most for each key, and the order in which they come. */
  asks(spec: LookUpSpec): { readonly most?: number; readonly order?: readonly OrderSpec[] };
  /** What it comes to where there is nothing to ask with. */
  nothing(spec: LookUpSpec): Outcome;
  /** What an answer comes to; a row, where look-ups inside it go on from there. */
  read(spec: LookUpSpec, answer: never): Outcome | { readonly row: { readonly [column: string]: unknown } };
}

export interface LookUpSpec extends Terms {
  readonly collection: CollectionSpec;
  readonly columns: readonly string[];
  readonly form: LookUpForm;
  /** Of `first`, `highest` and `lowest`; of `all`, where only the first rows are wanted. */
  readonly order?: OrderSpec;
  /** Of `all`: rows at most. More are no answer, unless there is an order. */
  readonly most?: number;
  readonly exceptItself: boolean;
  /** It asks for the record that is judged again, and for no other. */
  readonly onlyItself?: true;
  /** The answer decides about what is stored next: it must not be an old one. */
  readonly isFresh?: true;
  readonly inner: { readonly [name: string]: LookUpSpec };
}

/** A collection as the run time sees it. */
export interface CollectionSpec {
  readonly name: string;
  readonly columns: { readonly [column: string]: RoleSpec };
  /** The columns of the key. */
  readonly key: readonly string[];
  readonly secret: ReadonlySet<string>;
  /** What every look-up asks besides its own: rows for which it does not hold are not there. */
  readonly only: Terms;
  /** Columns whose values the records that are asked have to say (`within`): rows with others are not there. */
  readonly scope: readonly string[];
  /** The collection as the application has it. */
  readonly made: () => object;
  /** What leaves rules about records open where nobody is asked: a page without collections need not load it. */
  readonly leaveOpen: (run: never, itself: { readonly [column: string]: unknown } | undefined, cause: unknown) => void;
}

/** One term of a look-up, as the run time sees it. */
export interface TermSpec {
  readonly column: string;
  readonly is: Comparison;
  /** The role (or, in a nested look-up, the parent's column) compared with. */
  readonly role?: string;
  readonly exactly?: Exclude<Scalar, null>;
  /** Where a stretch of the calendar begins, or the next one: of that of its role, a day, or of that of now. */
  readonly calendar?: { readonly unit: CalendarUnit; readonly edge: 'from' | 'until' };
  /** Another column of the same row is what it is compared with. */
  readonly than?: string;
  /** A row that holds nothing in the column matches too. */
  readonly orMissing?: true;
  /** Its role may be absent, and then the term asks nothing: an interval that is open on that side. */
  readonly isOpen?: true;
  /** It says which rows count at all: nobody is to blame when there is none. */
  readonly isBlameless?: true;
}

/** Lists of terms, by their indexes: of every group, the terms of one list hold. */
export type Groups = readonly (readonly (readonly number[])[])[];

/** All terms, and those of them that stand in alternatives; the others hold in any case. */
export interface Terms {
  readonly terms: readonly TermSpec[];
  readonly either?: Groups;
}

/** The run-time description behind a collection. */
export function collectionSpec(made: { readonly name: string }): CollectionSpec {
  return (made as unknown as { readonly spec: CollectionSpec }).spec;
}
