// Records in SQL databases, through Kysely.
export { mysqlRecords } from './mysql.ts';
export { postgresRecords } from './postgres.ts';
export type { SqlRecords } from './records.ts';
export type { SerialOptions, Undecided } from './serially.ts';
export { sqliteRecords } from './sqlite.ts';
export type { SqlOptions, TableNames } from './tables.ts';
