import type { DialectAdapter, QueryCompiler, RawBuilder } from 'kysely';
import type { Conflict, Question, Term } from '../../../core/stored/records.ts';
import type { Database, SqlColumn, SqlTable } from './database.ts';
import type { Inspector } from './inspector.ts';

export type Key = Question['keys'][number];

/** A term of a question, and where its key stands among those of the same row of keys. */
export interface SqlTerm {
  readonly column: SqlColumn;
  readonly is: Term['is'];
  /** The other column that it is compared with, instead of a key. */
  readonly than: SqlColumn | undefined;
  readonly index: number;
  /** No other term stands beside it. */
  readonly isOnly: boolean;
  /** A row that holds nothing there matches too. */
  readonly orMissing: boolean;
  /** Its value comes from the rule, and is the same for all keys. */
  readonly isFixed: boolean;
}

/** What is known of a table's columns, by their names. */
export type ColumnFacts = ReadonlyMap<string, ColumnFact> & {
  /** What keeps the table, where that knows no transactions. */
  readonly engine?: string;
  /** Its rows have numbers (SQLite's `rowid`), by which they can be named. */
  readonly hasRowNumbers?: boolean;
  /** A backslash in a text is a letter like others (`NO_BACKSLASH_ESCAPES`), and what drivers escape by it would be another text. */
  readonly takesBackslashes?: boolean;
};

export interface ColumnFact {
  readonly collation?: string;
  readonly length?: number;
  readonly isText?: boolean;
  readonly type?: string;
  /** Digits that it keeps after the point, of a number or of seconds, where it says how many. */
  readonly digits?: number;
  /** Of seconds it drops the digits beyond, instead of rounding. */
  readonly isCut?: boolean;
  /** It keeps some seven digits of a number, wherever the point stands. */
  readonly isRough?: boolean;
}

/** What a select of rows is made of. */
export interface SelectParts {
  /** The keys, as rows `k`. */
  readonly source: RawBuilder<unknown>;
  readonly table: RawBuilder<unknown>;
  /** Whether a row `t` of the table answers a key. */
  readonly matches: RawBuilder<unknown>;
  readonly columns: readonly SqlColumn[];
  /** A column as its kind reads it. */
  readonly shown: (column: SqlColumn) => RawBuilder<unknown>;
  readonly order: RawBuilder<unknown>;
  readonly known: ColumnFacts;
}

/** What a database does in its own way. */
export interface Dialect {
  /** Learns what comparing needs to know of a table; asked once for each. */
  readonly learn?: (db: Database, table: SqlTable) => Promise<ColumnFacts>;
  /** The tables that are parts of others, by whose name errors are told; part to whole. */
  readonly parts?: (db: Database) => Promise<ReadonlyMap<string, string>>;
  /** The keys as the parameters of a statement: as many of them however many keys there are. */
  readonly values: (terms: readonly SqlTerm[], keys: readonly Key[], known: ColumnFacts) => readonly unknown[];
  /** A source of rows `k` made of these parameters, one row for each key. */
  readonly keys: (values: readonly unknown[], terms: readonly SqlTerm[], table: SqlTable, known: ColumnFacts) => RawBuilder<unknown>;
  /** The running number of a key, from 0. */
  readonly ordinal: RawBuilder<unknown>;
  /** Running numbers of many rows as one text, with commas between. */
  readonly listed: (ordinal: RawBuilder<unknown>) => RawBuilder<unknown>;
  /** The value asked with. */
  readonly asked: (term: SqlTerm) => RawBuilder<unknown>;
  /** Reads no more rows than its bound for each key; without it all that match are numbered. */
  readonly bounded?: (parts: SelectParts & { readonly most: number }, columns: RawBuilder<unknown>) => RawBuilder<unknown> | undefined;
  /** What keeps the rows of a select as they are until the transaction ends; without it nobody else can write then anyway. */
  readonly lockingRows?: RawBuilder<unknown>;
  /** Whether there is any row, where `exists` reads more than the first. */
  readonly isThere?: (rows: RawBuilder<unknown>) => RawBuilder<unknown>;
  /** Each key has a bounded select of its own, since no derived table sees it: the value asked with, out of the key alone. */
  readonly apart?: (term: SqlTerm, key: unknown, known: ColumnFacts) => RawBuilder<unknown>;
  /** A column as it is compared, where that is not as it stands. */
  readonly compared?: (column: SqlColumn, known: ColumnFacts) => RawBuilder<unknown> | undefined;
  /** Why the values of a column cannot be compared or read as its kind; a sentence for the developer. */
  readonly unfit?: (column: SqlColumn, known: ColumnFacts) => string | undefined;
  /** The sum of a column, as text or as a JSON list of what is to be summed up where the database would lose digits. */
  readonly sum: (column: SqlColumn) => RawBuilder<unknown>;
  readonly ignoringCase: (column: SqlColumn, asked: RawBuilder<unknown>, known: ColumnFacts) => RawBuilder<unknown>;
  readonly otherThan: (column: SqlColumn, asked: RawBuilder<unknown>) => RawBuilder<unknown>;
  /** A column as its kind reads it. */
  readonly shown: (column: SqlColumn, known: ColumnFacts) => RawBuilder<unknown>;
  /** Keys that no row can equal, such as text that the database cannot hold. */
  readonly cannotHold?: (key: Key) => boolean;
  /**
   * Whether an error may say that some key is no value of its column's type. Only a cast of the keys alone tells: a view, a
   * policy or a constant of the rule may fail with the same code.
   */
  readonly isKeyError?: (error: unknown) => boolean;
  /** Casts the values of a term to its column's type, and reads no row; rejects when one cannot be cast. `undefined`: all can. */
  readonly cast?: (term: SqlTerm, values: Key, table: SqlTable, known: ColumnFacts) => RawBuilder<unknown> | undefined;
  /** Whether some key may fail to be cast, which would end a transaction. */
  readonly mayNotCast?: (term: SqlTerm, known: ColumnFacts) => boolean;
  /** What an error of the driver says of a constraint, in the names of the database. */
  readonly violation: (error: Violated) => Violation | undefined;
  /** Whether an error says that others were in the way, so that the same may succeed when it is tried again. */
  readonly mayTryAgain: (error: Violated) => boolean;
  /** Whether an error says that the transaction is over, whatever it is told next. */
  readonly endsTransaction: (error: Violated) => boolean;
  /** Any error ends a transaction unless a savepoint undoes it, and COMMIT does not say so. */
  readonly isEndedByErrors?: true;
  /** Whether an error is what the database answered; without it every error is. */
  readonly isAnswer?: (error: Violated) => boolean;
  /** Statements after which the COMMIT of a transaction is refused, whoever sends it. */
  readonly seal?: readonly string[];
  readonly language: Language;
  readonly locks: Locks;
  /** Every transaction is serialisable, and no level can be set. */
  readonly isAlwaysSerial?: true;
  /** What `checkStore` needs to know of it. */
  readonly inspector: Inspector;
}

/** What a database is to Kysely, which puts its statements together. */
export interface Language {
  readonly adapter: () => DialectAdapter;
  readonly compiler: () => QueryCompiler;
  /** The statements that begin a transaction, of a level where there is one to be set. */
  readonly begin: (level: string | undefined) => readonly string[];
}

/** Locks by name, which one connection holds from before a transaction until after it. */
export interface Locks {
  /**
   * @param names in an order that is the same for all, so that nobody waits in a circle
   * @param within milliseconds to wait at most
   * @throws an error that `mayTryAgain` when it was not to be had in that time
   */
  readonly take: (names: readonly string[], connection: Database, within: number) => Promise<unknown>;
  /** @returns whether the connection held them still */
  readonly release: (names: readonly string[], connection: Database) => Promise<boolean>;
  /** Ends the connection, and with it what it holds. */
  readonly cut?: string;
  /** Nobody can begin to write without one: there is but one for the whole database. */
  readonly isNeeded?: true;
}

/** An error of a driver: each has some of these. */
export interface Violated {
  readonly code?: unknown;
  readonly errno?: unknown;
  readonly rawCode?: unknown;
  readonly message?: unknown;
  readonly sqlMessage?: unknown;
  readonly sqlState?: unknown;
  readonly errcode?: unknown;
  /** The statement that failed (mysql2). */
  readonly sql?: unknown;
  readonly constraint?: unknown;
  readonly detail?: unknown;
  readonly table?: unknown;
  readonly schema?: unknown;
  readonly cause?: unknown;
}

/** As `Conflict`, in the names of the database. */
export interface Violation extends Pick<Conflict, 'sort' | 'constraint' | 'told' | 'columns' | 'ofKey'> {
  readonly table?: string;
  readonly refersTo?: string;
}
