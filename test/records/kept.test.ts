import { type AnyField, collection, decimal, exact, moment, rule, timeOfDay, whole } from 'jestril';
import { sql } from 'kysely';
import { looseIntake } from '../support/judging.ts';
import { Random } from '../support/random.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// A key is looked for as its column would keep it: what a row becomes that is stored is found again, beside the database's own insert.

const KINDS = { exact, decimal, moment, time: timeOfDay } as const;
type Kind = keyof typeof KINDS;
const NUMBERS = ['10.005', '10.01', '10', '9.995', '0.1', '0.125', '-2.5', '-3', '16777217', '16777216', '2', '1.5', '999.999', '70000'];
const VALUES: { readonly [K in Kind]: readonly string[] } = {
  exact: NUMBERS,
  decimal: NUMBERS,
  moment: [
    '2031-05-01T09:30:00.400Z',
    '2031-05-01T09:30:00.600Z',
    '2031-05-01T09:30:01Z',
    '2031-05-01T09:30:00Z',
    '2031-12-31T23:59:59.999Z',
  ],
  time: ['09:30:00', '09:30', '23:59:59'],
};
const TYPES: { readonly [name: string]: readonly (readonly [Kind, string])[] } = {
  SQLite: [
    ['exact', 'numeric'],
    ['decimal', 'real'],
    ['moment', 'text'],
  ],
  PostgreSQL: [
    ...['numeric', 'numeric(10,2)', 'numeric(8,0)', 'integer', 'smallint', 'kept_money'].map((type) => ['exact', type] as const),
    ...['real', 'double precision', 'numeric(6,1)'].map((type) => ['decimal', type] as const),
    ...['timestamptz', 'timestamptz(0)', 'timestamptz(1)'].map((type) => ['moment', type] as const),
    ...['time', 'time(0)'].map((type) => ['time', type] as const),
  ],
  MariaDB: [
    ...['decimal(20,6)', 'decimal(10,2)', 'decimal(8,0)', 'int'].map((type) => ['exact', type] as const),
    ...['float', 'double', 'decimal(8,1)'].map((type) => ['decimal', type] as const),
    ...['datetime', 'datetime(1)', 'datetime(3)', 'timestamp null', 'timestamp(1) null', 'timestamp(3) null'].map(
      (type) => ['moment', type] as const,
    ),
    ...['time', 'time(2)'].map((type) => ['time', type] as const),
  ],
};

describeStores((open, name) => {
  let store: TestStore;
  beforeAll(async () => {
    store = await open();
    if (name === 'PostgreSQL') await sql`create domain kept_money as numeric(10,2)`.execute(store.db);
  });
  afterAll(() => store.close());

  test.each(TYPES[name] as never as [Kind, string][])('%s in %s', async (kind, type) => {
    const { db } = store;
    await sql`drop table if exists kept`.execute(db);
    await sql`create table kept (id int primary key, v ${sql.raw(type)})`.execute(db);
    const field = KINDS[kind];
    const kept = collection('kept', { id: whole, v: field as never }, { key: 'id' });
    const isNew = rule('test/is-new', { v: field as never }, {
      looksUp: { is: kept.exists({ v: 'v' } as never) },
      holds: (_: unknown, { is }: { is: boolean }) => !is,
      message: 'x',
      blames: 'v',
    } as never);
    const form = looseIntake({ v: (field as (label: string) => AnyField)('V') }, [isNew({ v: 'v' } as never)]);
    const records = store.records(db);
    const stored = (value: string) => {
      const told = kind === 'moment' ? new Date(value).toISOString() : value;
      return kind === 'moment' && name === 'MariaDB' ? told.replace('T', ' ').replace('Z', '') : told;
    };
    const zone = name === 'MariaDB' ? sql`set time_zone = '+00:00'` : undefined;
    const insert = (id: number, value: string) =>
      db.connection().execute(async (connection) => {
        await zone?.execute(connection);
        // As a number, which a column may round, and not as a text that it would refuse.
        const cast = name === 'PostgreSQL' && kind === 'exact' ? sql`::numeric` : sql``;
        return sql`insert into kept values (${id}, ${stored(value)}${cast})`.execute(connection);
      });
    const random = new Random(5);
    for (let run = 0; run < Number(process.env.JESTRIL_RANDOM ?? 25); run++) {
      const [was, now] = [random.pick(VALUES[kind]), random.pick(VALUES[kind])];
      await db.deleteFrom('kept').execute();
      const isThere = await insert(1, was).then(
        () => true,
        () => false,
      );
      const verdict = await form.judge({ v: kind === 'decimal' ? Number(now) : now }, { records });
      const isKept = await insert(2, now).then(
        () => true,
        () => false,
      );
      const same = await sql<{ n: unknown }>`select count(*) as n from kept a join kept b on a.v = b.v where a.id = 1 and b.id = 2`.execute(
        db,
      );
      const expected = isThere && isKept && Number(same.rows[0]?.n) > 0 ? 'rejected' : 'accepted';
      expect({ type, was, now, outcome: verdict.outcome }).toEqual({ type, was, now, outcome: expected });
    }
  });
});
