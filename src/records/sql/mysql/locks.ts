import { type RawBuilder, sql } from 'kysely';
import type { Locks } from '../tables/dialect.ts';

/** Names are those of the whole server, and at most 64 characters. */
function each(names: readonly string[], run: (name: RawBuilder<unknown>) => RawBuilder<unknown>): RawBuilder<unknown> {
  return sql.join(
    names.map((name) => run(sql`sha1(concat(coalesce(database(), ''), ' ', ${name}))`)),
    sql` + `,
  );
}

export const mysqlLocks: Locks = {
  async take(names, connection, within) {
    const seconds = sql.lit(Math.max(1, Math.ceil(within / 1000)));
    const { rows } = await sql<{ held: unknown }>`select ${each(names, (name) => sql`get_lock(${name}, ${seconds})`)} as held`.execute(
      connection,
    );
    // ER_LOCK_WAIT_TIMEOUT is what a lock of rows says.
    if (Number(rows[0]?.held) !== names.length) throw Object.assign(new Error('A lock was not to be had in time.'), { errno: 1205 });
  },
  async release(names, connection) {
    const freed = each(names, (name) => sql`coalesce(release_lock(${name}), 0)`);
    const { rows } = await sql<{ freed: unknown }>`select ${freed} as freed`.execute(connection);
    return Number(rows[0]?.freed) === names.length;
  },
  cut: 'kill connection_id()',
};
