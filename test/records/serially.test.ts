import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { collection, intake, rule, whole } from 'jestril';
import type { SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { describeStores, type TestStore } from '../support/stores.ts';

const run = promisify(execFile);

describeStores((open, name) => {
  let store: TestStore;
  let records: SqlRecords;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
    const id = { SQLite: sql`integer primary key`, PostgreSQL: sql`serial primary key`, MariaDB: sql`int auto_increment primary key` }[
      name
    ];
    await sql`create table open_bookings (id ${id}, owner int not null)`.execute(store.db);
    await sql`create index open_bookings_owner on open_bookings (owner)`.execute(store.db);
  });
  afterAll(() => store.close());

  const book = async (times: number, attempts: number) => {
    await store.db.deleteFrom('open_bookings').execute();
    const program = [
      'node_modules/jiti/lib/jiti-cli.mjs',
      'test/support/three-at-most.ts',
      name,
      store.address,
      String(times),
      String(attempts),
    ];
    const printed = await Promise.all([1, 2, 3, 4].map(() => run('node', program)));
    const outcomes = printed.flatMap(({ stdout }) => JSON.parse(stdout) as string[]);
    const { rows } = await sql<{ n: unknown }>`select count(*) as n from open_bookings`.execute(store.db);
    return { outcomes, stored: Number(rows[0]?.n) };
  };

  test('at most three open bookings: two hundred at once in four processes store three, and the others are told the rule', async () => {
    const { outcomes, stored } = await book(50, 50);
    expect(outcomes).toHaveLength(200);
    const counts = Object.fromEntries(
      [...new Set(outcomes)].sort().map((outcome) => [outcome, outcomes.filter((each) => each === outcome).length]),
    );
    expect({ stored, counts }).toEqual({ stored: 3, counts: { accepted: 3, 'test/three-at-most': 197 } });
  });

  const bookings = collection('open_bookings', { id: whole, owner: whole }, { key: 'id' });
  const few = rule(
    'test/few',
    { owner: whole },
    { looksUp: { there: bookings.count({ owner: 'owner' }) }, holds: (_read, { there }) => there < 1, message: 'x', blames: 'owner' },
  );
  const form = intake('form', { owner: whole('Owner') }, { rules: [few({ owner: 'owner' })] });

  test('what goes on being in the way is undecided, and any other error is thrown with nothing stored', async () => {
    const passing = { PostgreSQL: { code: '40001' }, MariaDB: { errno: 1213 }, SQLite: { code: 'SQLITE_BUSY_SNAPSHOT' } }[name];
    let attempts = 0;
    const verdict = await records.serially(
      (inside, transaction) =>
        form.judgeAndStore({ owner: 7 }, { records: inside }, async ({ owner }) => {
          await transaction.insertInto('open_bookings').values({ owner }).execute();
          attempts += 1;
          throw Object.assign(new Error('again'), { cause: passing });
        }),
      { attempts: 3 },
    );
    expect([attempts, verdict.outcome, verdict.unsettled[0]?.why]).toEqual([3, 'undecided', 'contended']);
    await expect(
      records.serially((inside, transaction) =>
        form.judgeAndStore({ owner: 7 }, { records: inside }, async ({ owner }) => {
          await transaction.insertInto('open_bookings').values({ owner }).execute();
          throw new Error('broken');
        }),
      ),
    ).rejects.toThrow('broken');
    expect((await form.judge({ owner: 7 }, { records })).outcome).toBe('accepted');
    expect([records.mayTryAgain(new Error('x', { cause: passing })), records.mayTryAgain(new Error('x'))]).toEqual([true, false]);
    expect(records.conflictOf(passing)).toBeUndefined();
  });

  test('rows of one transaction see each other; a transaction of the application has its own', async () => {
    const outcomes = await records.serially(async (inside, transaction) => {
      const judged: string[] = [];
      for (const owner of [8, 8, 9]) {
        const verdict = await form.judgeAndStore({ owner }, { records: inside }, () =>
          transaction.insertInto('open_bookings').values({ owner }).execute(),
        );
        judged.push(verdict.outcome);
      }
      return judged;
    });
    expect(outcomes).toEqual(['accepted', 'rejected', 'accepted']);
    await store.db.transaction().execute(async (transaction) => {
      await expect(records.in(transaction).serially(async () => 1)).rejects.toThrow('serially begins its own transaction');
    });
    await expect(records.serially(async () => 1, { attempts: 0 })).rejects.toThrow('attempts 0');
  });
});
