import { mysqlWriting } from './mysql/writing.ts';
import { postgresWriting } from './postgres/writing.ts';
import { sqliteWriting } from './sqlite/writing.ts';
import type { Writing } from './tables/writing.ts';

/** The databases that statements are written for. */
export const WRITINGS = { postgres: postgresWriting, mysql: mysqlWriting, sqlite: sqliteWriting } satisfies {
  readonly [name: string]: Writing;
};
/** The name of a database that statements are written for. */
export type SqlDialect = keyof typeof WRITINGS;
/** Their names, in the order in which they are told. */
export const DIALECTS = Object.keys(WRITINGS) as readonly SqlDialect[];
