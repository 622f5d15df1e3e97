import { sql } from 'kysely';
import type { Records } from '../../../core/stored/records.ts';
import type { Database } from '../tables/database.ts';
import type { Dialect } from '../tables/dialect.ts';
import { errorsIn, Passing } from './errors.ts';

// create table jestril_answers (id char(64) primary key, answer text not null, stored_at timestamp not null default current_timestamp)

/** The answers that were given with keys, each a row that is stored in the same transaction. */
export function answersIn(dialect: Dialect, db: Database, table = 'jestril_answers'): NonNullable<Records['answers']> {
  return {
    async of(key) {
      const { rows } = await sql<{ answer: string }>`select answer from ${sql.table(table)} where id = ${await hashOf(key)}`.execute(db);
      return rows[0]?.answer;
    },
    async keep(key, answer) {
      try {
        await sql`insert into ${sql.table(table)} (id, answer) values (${await hashOf(key)}, ${answer})`.execute(db);
      } catch (error) {
        if (!errorsIn(error).some((each) => dialect.violation(each)?.sort === 'unique')) throw error;
        throw new Passing('The same request is stored at the moment; try again, and its answer is there.', { cause: error });
      }
    },
  };
}

/** Keys are as long as senders like, and told apart to the letter by no collation. */
async function hashOf(key: string): Promise<string> {
  const bytes = new Uint8Array(await crypto.subtle.digest('SHA-256', new TextEncoder().encode(key)));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}
