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

/** Whether a text names a database rather than a file of data. */
export function isDatabase(text: string): boolean {
  return SORTS.some((sort) => sort.isAddress(text));
}

/** Milliseconds between tries to open a database that has been there before, one pause behind the other. */
const PAUSES = [200, 500, 1000, 2000, 4000, 8000];

/**
 * Opens the database of an address: `postgres://…`, `mysql://…`, or an SQLite file that is there.
 *
 * @param isPatient one that does not answer is tried again for some seconds: it was there before
 * @throws Misuse where the address is that of no database, or nobody answers there
 */
export async function databaseAt(address: string, isPatient = false): Promise<OpenedDatabase> {
  const sort = SORTS.find((each) => each.isAddress(address));
  if (!sort) throw new Misuse(`${withoutPassword(address)} is the address of no database; give one such as ${ADDRESSES}.`);
  if (sort.isFile && !existsSync(fileOf(address))) throw new Misuse(`There is no file ${address}.`);
  for (const pause of isPatient ? PAUSES : []) {
    try {
      return await opened(sort, address);
    } catch {
      await new Promise((resolve) => setTimeout(resolve, pause));
    }
  }
  return opened(sort, address);
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
