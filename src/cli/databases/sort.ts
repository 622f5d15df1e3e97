import type { sql } from 'kysely';
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
  /** A value that was accepted, as its driver writes it into a column of a type. */
  written(value: unknown, type: string): unknown;
  /** The type of a text of any length. */
  readonly longText: string;
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

/** Lists and groups are written as JSON. */
export function asJson(value: unknown): unknown {
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : value;
}
