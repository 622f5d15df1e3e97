import type { RawBuilder } from 'kysely';
import type { Scalar } from '../../../core/basics/verdict.ts';
import type { StoredAs } from '../../../core/declared/kind.ts';
import type { OverlapNeed, UniqueNeed } from '../../../core/stored/records.ts';
import type { Database, SqlColumn, SqlTable } from './database.ts';

// What `checkStore` needs to know of a database.

/** A table as it is declared. */
export interface TableFacts {
  readonly columns: ReadonlyMap<string, { readonly type: string; readonly mayBeMissing: boolean }>;
  /** Its rows come from other tables, and it has no constraints of its own. */
  readonly isView: boolean;
  /** Rows are kept apart by these columns, which every unique key has to have. */
  readonly partedBy: readonly string[];
  /** Other tables inherit it: their rows are its own, and no key of it knows them. */
  readonly isInherited?: boolean;
  /** What keeps it, where that knows no transactions. */
  readonly engine?: string;
  /** Columns that a trigger gives another value before a row is stored. */
  readonly rewritten?: readonly string[];
}

/** One unique constraint or index of a table. */
export interface UniqueKey {
  readonly name: string;
  readonly columns: readonly KeyColumn[];
  /** It covers only the rows for which this is true, in the database's own words. */
  readonly within?: string;
}
export interface KeyColumn {
  readonly name: string;
  readonly ignoresCase: boolean;
  /** It takes values for different that the column's own comparison takes for the same. */
  readonly isNarrower?: boolean;
  /** It compares the beginning alone, so that values count as the same that are not. */
  readonly isCut?: boolean;
  /** Of a column that is worked out from others: it holds something, so that the key compares the row, when this is true. */
  readonly within?: string;
}

/** One foreign key of a table. */
export interface Reference {
  readonly columns: readonly string[];
  readonly table: string;
  /** The columns referred to; empty for the key of the other table. */
  readonly referred: readonly string[];
}

/** One constraint against rows that overlap: columns that are alike, and an expression of a range. */
export interface Exclusion {
  readonly alike: readonly string[];
  readonly range: string;
  /** Intervals that only touch are refused, too. */
  readonly touching: boolean;
  readonly within?: string;
}

export interface Inspector {
  readonly quote: (name: string) => string;
  /** `undefined` when the table is not there. */
  readonly describe: (db: Database, table: SqlTable) => Promise<TableFacts | undefined>;
  /** Why a column of this type does not keep what its kind reads; a sentence for the developer. */
  readonly misfit?: (column: SqlColumn, type: string) => string | undefined;
  readonly uniqueKeysOf: (db: Database, table: SqlTable) => Promise<readonly UniqueKey[]>;
  /** A row of the table that holds these values, called `r`, and nothing else that matters. */
  readonly rowOf: (table: SqlTable, values: readonly (readonly [column: string, value: Scalar])[]) => RawBuilder<unknown>;
  /** The statement that creates what is needed. */
  readonly createUnique: (
    table: string,
    need: UniqueNeed,
    columnName: (column: string) => string,
    name: string,
    foldsCase: (column: string) => boolean,
  ) => string;
  /** Whether errors name the constraint only, and not its columns. */
  readonly namesOnly: boolean;
  readonly referencesOf: (db: Database, table: SqlTable) => Promise<readonly Reference[]>;
  /** A statement without which no reference is enforced; `undefined` when all are. */
  readonly enforcing?: (db: Database) => Promise<string | undefined>;
  /** References can be added to a table that is there. */
  readonly addsReferences: boolean;
  /** Of a database that has constraints against overlaps. */
  readonly exclusionsOf?: (db: Database, table: SqlTable) => Promise<readonly Exclusion[]>;
  readonly createExclusion?: (
    table: string,
    need: OverlapNeed,
    columnName: (column: string) => string,
    storedAs: StoredAs,
    name: string,
  ) => string | undefined;
  /** Whether a column takes letters of either case for the same. */
  readonly foldsCase: (db: Database, table: SqlTable, column: string) => Promise<boolean>;
  /** Has a column hold something in every row. */
  readonly requirePresence?: (table: string, column: string) => string;
}
