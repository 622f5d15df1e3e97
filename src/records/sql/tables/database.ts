import type { Kysely, RawBuilder } from 'kysely';
import type { StoredAs } from '../../../core/declared/kind.ts';

/** The application's own database, whatever its rows are. */
// biome-ignore lint/suspicious/noExplicitAny: Kysely is invariant in its tables, and any database will do
export type Database = Kysely<any>;

/** A column of a question, in the database's own name. */
export interface SqlColumn {
  readonly name: string;
  /** What the application takes it to keep. */
  readonly storedAs: StoredAs;
  /** It with its table's alias, quoted. */
  readonly ref: RawBuilder<unknown>;
}

/** The table of a question: `schema` where it is not the one that the connection is in. */
export interface SqlTable {
  readonly schema: string | undefined;
  readonly name: string;
  readonly ref: RawBuilder<unknown>;
}
