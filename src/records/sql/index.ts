// Records in SQL databases, through Kysely.
export { sqliteRecords } from './sqlite.ts';
export type { SqlOptions, TableNames } from './tables.ts';
