import type { RawBuilder, sql } from 'kysely';
import type { SqlRecords } from '../../records/sql/store/records.ts';
import type { Database, SqlTable } from '../../records/sql/tables/database.ts';
import type { Inspector } from '../../records/sql/tables/inspector.ts';

/** Kysely's, which is loaded only where a database is opened. */
type Sql = typeof sql;

/** What the command does with a sort of database; its addresses tell which one it is. */
export interface DatabaseSort {
  /** An address, as help shows it. */
  readonly shown: string;
  /** It is a file, which is there, and which one machine has. */
  readonly isFile?: true;
  /** Whether a text is the address of such a database. */
  isAddress(text: string): boolean;
  /** Opens it with the driver that the application has installed; nothing has been asked yet. */
  open(address: string): Promise<{ readonly db: Database; readonly records: SqlRecords }>;
  inspector(): Promise<Inspector>;
  /** The columns of a table, in their order; none where there is no such table. */
  columnsOf(own: Sql, db: Database, table: SqlTable): Promise<ColumnFacts[]>;
  readonly book: BookSql;
}

/** A database that is open. */
export interface OpenedDatabase {
  readonly sort: DatabaseSort;
  readonly db: Database;
  readonly records: SqlRecords;
  close(): Promise<void>;
}

export interface ColumnFacts {
  readonly name: string;
  /** As the database writes it, in lower case: `varchar(80)`. */
  readonly type: string;
  readonly isNeeded: boolean;
  /** The database fills it where nothing is given. */
  readonly isFilled: boolean;
  readonly isKey: boolean;
  /** Of an enumeration. */
  readonly options: readonly string[];
}

/** How the book of claims is kept in it. */
export interface BookSql {
  /** Statements before all others. */
  readonly first?: readonly string[];
  /** The type of names, which are hexadecimal and compared as they stand. */
  readonly name: string;
  /** The type of a text of any length. */
  readonly long: string;
  /** What stands behind the columns of a table. */
  readonly behind?: string;
  /** Keeps rows `h` that were read for this transaction alone. */
  readonly lock: string;
  /** A join that reads its left side first: planners know nothing of how many rows there are in a text. */
  readonly joined: string;
  /** JSON as rows `j`, with one parameter however many they are. */
  rows(own: Sql, json: string, isOfSpans: boolean): RawBuilder<unknown>;
  /** Inserts the rows of a select whose keys are not there yet. */
  insertNew(own: Sql, into: RawBuilder<unknown>, rows: RawBuilder<unknown>): RawBuilder<unknown>;
}

/** Inserts what is not there: where SQLite reads "on conflict" behind a select, it has to be kept from taking it for a join. */
export const insertNew: BookSql['insertNew'] = (own, into, rows) => own`insert into ${into} ${rows} where true on conflict do nothing`;
