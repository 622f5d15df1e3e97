import { CompiledQuery, type DatabaseConnection } from 'kysely';
import { connectionOf, replaced } from '../store/watched.ts';
import type { Locks } from '../tables/dialect.ts';

const restore = new WeakMap<DatabaseConnection, () => void>();

// Who means to write says so at the beginning, and waits there (`busy_timeout`); later it could only be refused.
export const sqliteLocks: Locks = {
  async take(_names, db) {
    const connection = await connectionOf(db);
    const leave = replaced(
      connection,
      'executeQuery',
      (send) => (query) => send(query.sql === 'begin' ? CompiledQuery.raw('begin immediate') : query) as never,
    );
    restore.set(connection, leave);
  },
  async release(_names, db) {
    restore.get(await connectionOf(db))?.();
    return true;
  },
  isNeeded: true,
};
