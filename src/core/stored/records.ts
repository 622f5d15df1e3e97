import type { Scalar } from '../basics/verdict.ts';
import type { StoredAs } from '../declared/kind.ts';
import type { Comparison, Want } from '../declared/look-up.ts';

/** One comparison of a question: a column, how it is compared, and with what. */
export interface Term {
  readonly column: string;
  readonly is: Comparison;
  /** Another column of the same row, which it is compared with instead of what is asked with (`true`). */
  readonly than?: string;
  /** A row that holds nothing in the column matches too: an interval without an end goes on. */
  readonly orMissing?: true;
  /** The value is the same for every key, and comes from the rule and not from a submission. */
  readonly isFixed?: true;
}

/** One question with many keys; a row answers a key when all terms hold for it, but for those in alternatives (`either`). */
export interface Question {
  readonly collection: string;
  readonly terms: readonly Term[];
  /** Lists of terms, by their indexes: of every group, all terms of some list hold. A term that stands in none holds in any case. */
  readonly either?: readonly (readonly (readonly number[])[])[];
  /** The columns wanted; empty for `count` and `exists`, and of `sum` the one to sum up. */
  readonly columns: readonly string[];
  readonly want: Want;
  /** The order of rows, where it matters which come first. Rows that hold nothing in its first column do not count. */
  readonly order?: readonly { readonly column: string; readonly from: 'highest' | 'lowest' }[];
  /** Rows at most, for each key. */
  readonly most?: number;
  /** For each key a value for each term, in the order of `terms`. No key stands twice. */
  readonly keys: readonly (readonly Exclude<Scalar, null>[])[];
  /** The answer decides about what is stored next: a cache must not give it. */
  readonly isFresh?: true;
  /** The rows stay as they are until the transaction ends: others wait that would change them. */
  readonly isLocked?: true;
  /** What every column named above keeps: days, moments and times are asked with as text, and so are numbers with all their digits. */
  readonly storedAs: { readonly [column: string]: StoredAs };
}

/** A stored row, by the names of its columns. */
export type StoredRow = { readonly [column: string]: unknown };

/**
 * One answer a key, in the order of the keys: rows, or numbers for `count` and (0 or 1) for `exists`, or for `sum` the sum of what the
 * column holds (as text, where a number would lose digits; `null` for none).
 */
export type Answer = readonly (readonly StoredRow[])[] | readonly number[] | readonly (number | string | bigint | null)[];

/** What a store's own constraint refused, in the words of the collections. */
export interface Conflict {
  /** Two rows alike; a reference to a row that is not there; intervals that overlap; any other constraint with a name. */
  readonly sort: 'unique' | 'known' | 'overlap' | 'other';
  readonly constraint?: string;
  /** What a store says that does not tell names (SQLite): `table.column, table.column`. A use may give it as its `constraint`. */
  readonly told?: string;
  /** The collections kept in the table whose row was refused. */
  readonly collections?: readonly string[];
  readonly columns?: readonly string[];
  /** The constraint is that of the collection's key. */
  readonly ofKey?: boolean;
  /** Of `known`: the collections kept in the table referred to. */
  readonly refersTo?: readonly string[];
}

/** What rules need a collection to have, for `checkStore`. */
export interface Need {
  readonly collection: string;
  readonly columns: readonly string[];
  /** What every column keeps, where it is known. */
  readonly storedAs?: { readonly [column: string]: StoredAs };
  /** Columns that rules read and take to hold something in every row: those that are not `maybe`. */
  readonly always?: readonly string[];
  /** Columns that say whose a row is. */
  readonly scope?: readonly string[];
  /** Of columns that intakes store numbers and moments in: the digits after the point, of seconds with moments, that these may have. */
  readonly places?: { readonly [column: string]: number };
  readonly unique: readonly UniqueNeed[];
  /** References of the rows that intakes store here to rows that have to be there. */
  readonly known?: readonly KnownNeed[];
  readonly overlaps?: readonly OverlapNeed[];
}
/** Fixed values, one of which other columns have (`null`: hold nothing), when only such rows are compared. */
export type FixedValues = { readonly [column: string]: readonly Scalar[] };
/** Columns that are unique together, which an index keeps. */
export interface UniqueNeed {
  readonly columns: readonly string[];
  readonly ignoringCase: readonly string[];
  readonly only: FixedValues;
  /** The name by which the rule knows the constraint. */
  readonly constraint: string | undefined;
}
/** Rows that fields refer to, which a foreign key keeps. */
export interface KnownNeed {
  /** For each column referred to the field that is compared with it: the column of its name, where there is one. */
  readonly fields: readonly string[];
  readonly refersTo: string;
  readonly referred: readonly string[];
  /** Columns that say whose a row is: they may stand in the reference besides. */
  readonly scope: readonly string[];
}
/** Intervals that must not overlap, which a constraint keeps. */
export interface OverlapNeed {
  /** The columns that have to be alike. */
  readonly columns: readonly string[];
  readonly ignoringCase: readonly string[];
  readonly interval: readonly [from: string, to: string];
  readonly touching: boolean;
  readonly only: FixedValues;
  readonly constraint: string | undefined;
}

/** Something that rules need and the store lacks. */
export interface StoreGap {
  /**
   * `presence`: a column may hold nothing, and rules take it to hold something; `reference`: nothing refuses a row whose `known` row is
   * gone; `overlap`: nothing refuses a row that overlaps another; `guard`: a rule holds only for what is stored inside `serially`;
   * `precision`: a column keeps less than is stored in it; `engine`: its table knows no transactions; `scope`: rows of others are seen, or
   * stand in the way; `trigger`: what is stored is another value than was judged.
   */
  readonly lacks:
    | 'collection'
    | 'column'
    | 'type'
    | 'presence'
    | 'unique'
    | 'constraint-name'
    | 'reference'
    | 'overlap'
    | 'guard'
    | 'precision'
    | 'engine'
    | 'scope'
    | 'trigger';
  readonly collection: string;
  readonly columns: readonly string[];
  /** One sentence for the person who starts the application. */
  readonly message: string;
  /** What would create it, in the store's own language. */
  readonly statement?: string;
}

/** Column to value: whose rows are asked for, where a collection has a `scope`. */
export type Scope = { readonly [column: string]: Exclude<Scalar, null> };

/** The store of existing data. An application with a store of its own implements `ask`; the rest is for more comfort. */
export interface Records {
  /**
   * The values of the scopes of collections: only rows with these are there. Set by `within`; the engine puts them into the questions.
   */
  readonly scope?: Scope;
  /**
   * Answers all questions, in their order. A store that cannot answer rejects, or gives an error in the place of one answer; the rules
   * that asked are then unsettled. Text is compared by the store's own collation.
   */
  ask(questions: readonly Question[], signal: AbortSignal): Promise<readonly (Answer | Error)[]>;
  /**
   * Whether what is asked stays true until something is stored: in a serialisable transaction (`serially`). `false`: others may store in
   * between, and rules that count are refused where something is stored. Left out where nobody knows.
   */
  readonly isSerial?: boolean;
  /** What the store's error says of a constraint; `undefined` for any other error. */
  conflictOf?(error: unknown): Conflict | undefined;
  /**
   * Runs what stores something so that nothing of it stays when it fails: in a transaction of the application's, within a
   * savepoint. `judgeAndStore` and `amendAndStore` use it where there is one.
   */
  orUndone?<T>(store: () => Promise<T> | T): Promise<T>;
  /** Of a transaction: the answers that were given with keys, each kept with what it has stored. */
  readonly answers?: {
    /** `undefined` where none was given. */
    of(key: string): Promise<string | undefined>;
    /** Rejects with an error that may be tried again where somebody keeps one of the same key at the moment. */
    keep(key: string, answer: string): Promise<void>;
  };
  /** Compares what is needed with what is there. */
  gaps?(needs: readonly Need[]): Promise<readonly StoreGap[]>;
}
