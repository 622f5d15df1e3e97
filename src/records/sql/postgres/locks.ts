import { sql } from 'kysely';
import type { Locks } from '../tables/dialect.ts';
import { arrayOf } from './array.ts';

/** The numbers of names, each once and in order. */
const idsOf = (names: readonly string[]) =>
  sql`(select distinct hashtextextended(name, 0) as id from unnest(${arrayOf(names)}::text[]) as name order by id) as ids`;

// Locks of the session, not of the transaction: a serialisable one sees what was there when it asked first, even for a lock.
export const postgresLocks: Locks = {
  async take(names, connection, within) {
    const wait = (limit: string) => sql`select set_config('lock_timeout', ${limit}, false)`.execute(connection);
    const { rows } = await sql<{ own: string }>`select current_setting('lock_timeout') as own`.execute(connection);
    await wait(`${Math.max(1, Math.ceil(within))}ms`);
    try {
      await sql`select pg_advisory_lock(id) from ${idsOf(names)}`.execute(connection);
    } finally {
      await wait(rows[0]?.own ?? '0');
    }
  },
  async release(names, connection) {
    const { rows } = await sql<{ held: boolean }>`select bool_and(pg_advisory_unlock(id)) as held from ${idsOf(names)}`.execute(connection);
    return rows[0]?.held === true;
  },
  cut: 'select pg_terminate_backend(pg_backend_pid())',
};
