import { collection, day, exact, flag, intake, moment, rule, text, timeOfDay, unique, whole } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { claimsIn, type SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import Database from 'libsql';
import { connect } from '../support/connect.ts';
import { looseIntake, rulesOf } from '../support/judging.ts';
import { Random } from '../support/random.ts';
import { type Db, describeStores, type TestStore } from '../support/stores.ts';

const berths = collection('berths', { id: whole, code: text }, { key: 'id' });
const berth = intake('berth', { code: text('Code') }, { storedIn: berths, rules: [unique(berths, { code: 'code' })] });

describeStores((open, name) => {
  let store: TestStore;
  let records: SqlRecords;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
    const id = { SQLite: sql`integer`, PostgreSQL: sql`serial`, MariaDB: sql`int auto_increment` }[name];
    await sql`create table berths (id ${id} primary key, code varchar(60) not null unique)`.execute(store.db);
  });
  beforeEach(() => store.db.deleteFrom('berths').execute());
  afterAll(() => store.close());

  const codes = async () => (await store.db.selectFrom('berths').select('code').orderBy('id').execute()).map(({ code }) => code);

  test('of a thousand rows forty are refused: the others are stored, by few statements', async () => {
    const random = new Random(3);
    const odd = new Set<number>();
    while (odd.size < 40) odd.add(1 + random.below(999));
    const rows = Array.from({ length: 1000 }, (_, at) => (odd.has(at) ? 'row 0' : `row ${at}`));
    const told: string[] = [];
    const db = connect(name, store.address, 1, ({ query }) => told.push(query.sql));
    let calls = 0;
    const refused = await store.records(db).storeRows(rows, (some, transaction) => {
      calls++;
      return transaction
        .insertInto('berths')
        .values(some.map((code) => ({ code })))
        .execute();
    });
    await db.destroy();
    expect(refused.map(({ index }) => index)).toEqual([...odd].sort((a, b) => a - b));
    expect(refused.every(({ error }) => records.conflictOf(error)?.sort === 'unique')).toBe(true);
    expect(await codes()).toEqual(rows.filter((_, at) => !odd.has(at)));
    expect({ calls, few: calls <= 40 * Math.log2(1000), statements: told.length <= 1200 }).toMatchObject({ few: true, statements: true });
  });

  test('which rows are refused, whatever they are', async () => {
    const random = new Random(11);
    for (let run = 0; run < 15; run++) {
      await store.db.deleteFrom('berths').execute();
      const rows = Array.from({ length: 1 + random.below(40) }, () => `row ${random.below(30)}`);
      const refused = await records.storeRows(rows, (some, transaction) =>
        transaction
          .insertInto('berths')
          .values(some.map((code) => ({ code })))
          .execute(),
      );
      const expected = rows.flatMap((code, at) => (rows.indexOf(code) < at ? [at] : []));
      expect(refused.map(({ index }) => index)).toEqual(expected);
      expect(await codes()).toEqual([...new Set(rows)]);
    }
  });

  test('records of a transaction that is over ask nobody', async () => {
    let inside: SqlRecords | undefined;
    await store.db.transaction().execute(async (transaction) => {
      inside = records.in(transaction);
      expect((await berth.judge({ code: 'A1' }, { records: inside })).outcome).toBe('accepted');
    });
    const late = await berth.judge({ code: 'A1' }, { records: inside as SqlRecords });
    expect(late.outcome === 'undecided' && String(late.unsettled[0]?.cause)).toContain('The transaction of these records is over');
  });

  test('what stores a value is given one of its own, and a conflictOf that throws hides no error', async () => {
    const stored = await berth.judgeAndStore({ code: 'A1' }, { records }, async (value) => {
      (value as { code: string }).code = 'changed';
    });
    expect(stored).toMatchObject({ outcome: 'accepted', value: { code: 'A1' } });
    const broken = {
      ...records,
      conflictOf: () => {
        throw new Error('no idea');
      },
    };
    const failing = berth.judgeAndStore({ code: 'A1' }, { records: broken }, () => {
      throw new Error('disk full');
    });
    await expect(failing).rejects.toThrow('disk full');
  });

  test.each(['cause', 'driverError', 'originalError', 'parent', 'errors'])(
    'a constraint that refuses is known under %s',
    async (inside) => {
      await store.db.insertInto('berths').values({ code: 'A1' }).execute();
      const form = intake(
        'form',
        { code: text('Code') },
        { storedIn: berths, rules: [unique(berths, { code: 'code' }, name === 'MariaDB' ? { constraint: 'code' } : {})] },
      );
      const verdict = await form.judgeAndStore({ code: 'A2' }, { records }, async () => {
        const error = await store.db
          .insertInto('berths')
          .values({ code: 'A1' })
          .execute()
          .catch((reason: unknown) => reason);
        throw inside === 'errors' ? new AggregateError([new Error('x'), error]) : Object.assign(new Error('wrapped'), { [inside]: error });
      });
      expect(rulesOf(verdict)).toEqual(['unique']);
    },
  );

  if (name === 'PostgreSQL')
    test('a list that is asked as a text is undecided, in a transaction as outside', async () => {
      await sql`create table lists (id int primary key, code int[])`.execute(store.db);
      const lists = collection('lists', { id: whole, code: text }, { key: 'id' });
      const form = looseIntake({ code: text('Code') }, [unique(lists, { code: 'code' } as never)]);
      const outcome = async (inside: SqlRecords) => (await form.judge({ code: 'A1' }, { records: inside })).outcome;
      const own = await store.db.transaction().execute((transaction) => outcome(records.in(transaction)));
      expect([await outcome(records), own]).toEqual(['undecided', 'undecided']);
    });

  if (name === 'MariaDB')
    test('a session in which a backslash is a letter', async () => {
      const mode = (db: Db, to: string) => sql`set session sql_mode = ${sql.lit(to)}`.execute(db);
      await store.db.connection().execute(async (db) => {
        await mode(db, 'STRICT_TRANS_TABLES,NO_BACKSLASH_ESCAPES');
        const odd = 'say "A1" \\ \'x\'';
        const hex = Buffer.from(odd).toString('hex');
        await sql`insert into berths (code) values (convert(unhex(${hex}) using utf8mb4))`.execute(db);
        const own = store.records(db);
        for (const [code, expected] of [
          [odd, 'rejected'],
          ['say "A1"', 'accepted'],
        ])
          expect([code, (await berth.judge({ code }, { records: own })).outcome]).toEqual([code, expected]);
        await mode(db, 'STRICT_TRANS_TABLES');
      });
    });
});

test('a file of claims that can grow no more says so', () => {
  const database = new Database('');
  const claims = claimsIn(database as never);
  database.exec('pragma max_page_count = 20');
  const fill = () => {
    for (let row = 0; row < 100_000; row++) claims.hold(1, `key ${row} ${'x'.repeat(50)}`, row);
  };
  expect(fill).toThrow('The disk is full, and what the rows claim cannot be kept any more');
});

test.each<[what: string, kind: unknown, held: unknown, asked: unknown]>([
  ['a whole number as a bigint', whole, 5n, 5],
  ['a whole number as a text', whole, '5', 5],
  ['an exact number as a bigint', exact, 5n, '5.0'],
  ['an exact number with other zeros', exact, '12.50', '12.5'],
  ['a flag as 1', flag, 1, true],
  ['a flag as 0', flag, 0, false],
  ['a flag as 1n', flag, 1n, true],
  ['a moment as a Date', moment, new Date('2031-05-01T09:30:00Z'), '2031-05-01T11:30:00+02:00'],
  ['a moment as SQL writes it', moment, '2031-05-01 09:30:00', '2031-05-01T09:30:00Z'],
  ['a time with seconds', timeOfDay, '09:30:00', '09:30'],
  ['a day', day, '2031-05-01', '2031-05-01'],
])('memory, as drivers give it: %s', async (_what, kind, held, asked) => {
  expect(await uniqueIn(kind, held, asked)).toBe('rejected');
});

test.each<[what: string, kind: unknown, held: unknown, asked: unknown]>([
  ['a day as a Date', day, new Date('2031-05-01'), '2031-05-01'],
  ['a day with a time', day, '2031-05-01T00:00:00Z', '2031-05-01'],
  ['a number as a text', text, 5, '5'],
  ['a flag as a text', flag, 'yes', true],
  ['a whole number as words', whole, 'five', 5],
  ['a moment that is none', moment, new Date(Number.NaN), '2031-05-01T09:30:00Z'],
  ['a time that is none', timeOfDay, '25:00', '09:30'],
])('memory, what is no value of its column decides nothing: %s', async (_what, kind, held, asked) => {
  expect(await uniqueIn(kind, held, asked)).toMatch(/^undecided TypeError: A row in memory holds an? \w+, where its column keeps/);
});

async function uniqueIn(kind: unknown, held: unknown, asked: unknown): Promise<string> {
  const rows = collection('rows', { id: whole, v: kind as typeof text }, { key: 'id' });
  const isNew = rule(
    'test/is-new',
    { v: kind as typeof text },
    { looksUp: { there: rows.exists({ v: 'v' }) }, holds: (_, { there }) => !there, message: 'x', blames: 'v' },
  );
  const form = looseIntake({ v: (kind as typeof text)('V') }, [isNew({ v: 'v' } as never)]);
  const verdict = await form.judge({ v: asked }, { records: memoryRecords({ rows: [{ id: 1, v: held }] }) });
  return verdict.outcome === 'undecided' ? `undecided ${verdict.unsettled[0]?.cause}` : verdict.outcome;
}
