// Records in SQL databases, through Kysely or any other client.

export type { Undecided } from '../../core/races/undecided.ts';
export { mysqlRecords } from './mysql/records.ts';
export { postgresRecords } from './postgres/records.ts';
export { sqliteRecords } from './sqlite/records.ts';
export { claimsIn, type SyncSqlite } from './store/claims-in.ts';
export type { RunStatement, SqlClient } from './store/client.ts';
export type { SqlRecords } from './store/records.ts';
export type { SerialOptions } from './store/serially.ts';
export type { RefusedRow } from './store/store-rows.ts';
export { InDoubt } from './store/watched.ts';
export type { SqlOptions, TableNames } from './tables/tables.ts';
