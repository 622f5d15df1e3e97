import { existsSync } from 'node:fs';
import { Misuse } from '../basics/misuse.ts';
import { packageOf } from '../basics/package-of.ts';
import { withoutPassword } from './address.ts';
import { mysql } from './mysql.ts';
import { postgres } from './postgres.ts';
import type { DatabaseSort, OpenedDatabase } from './sort.ts';
import { fileOf, sqlite } from './sqlite.ts';

const SORTS: readonly DatabaseSort[] = [postgres, mysql, sqlite];

/** The addresses of databases, as help shows them. */
export const ADDRESSES = SORTS.map(({ shown }) => shown).join(', ');
/** Of those that several machines can share. */
export const SHARED_ADDRESSES = SORTS.filter(({ isFile }) => !isFile)
  .map(({ shown }) => shown)
  .join(', ');

/** Whether a text names a database rather than a file of data. */
export function isDatabase(text: string): boolean {
  return SORTS.some((sort) => sort.isAddress(text));
}

/**
 * Opens the database of an address: `postgres://…`, `mysql://…`, or an SQLite file that is there.
 *
 * @throws Misuse where the address is that of no database, or nobody answers there
 */
export async function databaseAt(address: string): Promise<OpenedDatabase> {
  const sort = SORTS.find((each) => each.isAddress(address));
  if (!sort) throw new Misuse(`${withoutPassword(address)} is the address of no database; give one such as ${ADDRESSES}.`);
  if (sort.isFile && !existsSync(fileOf(address))) throw new Misuse(`There is no file ${address}.`);
  return opened(sort, address);
}

/** Opens an SQLite file, or makes it. */
export function sqliteAt(file: string): Promise<OpenedDatabase> {
  return opened(sqlite, file);
}

async function opened(sort: DatabaseSort, address: string): Promise<OpenedDatabase> {
  const { db, records } = await sort.open(address);
  try {
    const { sql } = await packageOf<typeof import('kysely')>('kysely', withoutPassword(address));
    await sql`select 1`.execute(db);
  } catch (cause) {
    await db.destroy();
    throw new Misuse(`${withoutPassword(address)} cannot be opened: ${(cause as Error).message || (cause as { code?: string }).code}.`);
  }
  return { sort, db, records, close: () => db.destroy() };
}
