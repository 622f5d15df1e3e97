// Records in SQL databases, through Kysely.
export { claimsIn, type SyncSqlite } from './claims-in.ts';
export { mysqlRecords } from './mysql.ts';
export { postgresRecords } from './postgres.ts';
export type { SqlRecords } from './records.ts';
export type { SerialOptions, Undecided } from './serially.ts';
export { sqliteRecords } from './sqlite.ts';
export type { RefusedRow } from './store-rows.ts';
export type { SqlOptions, TableNames } from './tables/tables.ts';
