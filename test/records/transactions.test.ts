import { once } from 'node:events';
import { type AddressInfo, connect as connectTo, createServer } from 'node:net';
import { collection, day, exactly, intake, locksFor, noOverlap, rule, text, unique, whole } from 'jestril';
import { InDoubt, type SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { connect } from '../support/connect.ts';
import { type Db, describeStores, type TestStore } from '../support/stores.ts';

const berths = collection('berths', { id: whole, owner: text, title: text }, { key: 'id' });
const few = rule(
  'test/few',
  { owner: text },
  { looksUp: { there: berths.count({ owner: 'owner' }) }, holds: (_, { there }) => there < 3, message: 'Three at most.', blames: 'owner' },
);
const slow = collection('slow_berths', { id: whole, title: text }, { key: 'id' });
const fields = { owner: text('Owner'), title: text('Title') };
const berth = intake('berth', fields, { storedIn: berths, rules: [few({ owner: 'owner' }), unique(berths, { title: 'title' })] });
/** What the application stores in transactions of its own. */
const plain = intake('plain', fields, { storedIn: berths, rules: [unique(berths, { title: 'title' })] });
const slowBerth = intake('slow-berth', fields, { rules: [unique(slow, { title: 'title' })] });

/** A way to a server that hands a word on, and then hears no answer any more. */
async function cuttingAt(word: string, to: string): Promise<{ readonly address: string; readonly close: () => Promise<unknown> }> {
  const url = new URL(to);
  const { hostname, port } = url;
  const proxy = createServer((client) => {
    const server = connectTo(Number(port), hostname);
    let isCut = false;
    client.on('data', (data) => {
      server.write(data);
      if (!data.toString('latin1').includes(word)) return;
      isCut = true;
      // By then the server has done what it was told.
      setTimeout(() => client.destroy(), 200);
    });
    server.on('data', (data) => !isCut && client.write(data));
    for (const end of [client, server]) end.on('error', () => undefined);
    client.on('close', () => server.destroy());
  });
  proxy.listen(0, '127.0.0.1');
  await once(proxy, 'listening');
  url.hostname = '127.0.0.1';
  url.port = String((proxy.address() as AddressInfo).port);
  return { address: url.href, close: () => new Promise((resolve) => proxy.close(resolve)) };
}

describeStores((open, name) => {
  let store: TestStore;
  let records: SqlRecords;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
    const id = { SQLite: sql`integer`, PostgreSQL: sql`serial`, MariaDB: sql`int auto_increment` }[name];
    await sql`create table berths (id ${id} primary key, owner varchar(20) not null, title varchar(20) not null unique)`.execute(store.db);
    if (name === 'PostgreSQL')
      await sql`create view slow_berths as with late as materialized (select pg_sleep(5)) select id, title from late left join berths on true`.execute(
        store.db,
      );
  });
  beforeEach(() => store.db.deleteFrom('berths').execute());
  afterAll(() => store.close());

  const insert = (db: Db) => (value: object) => db.insertInto('berths').values(value).execute();
  const stored = async () =>
    (await store.db.selectFrom('berths').select(['owner', 'title']).execute()) as { owner: string; title: string }[];
  const titles = async () => (await stored()).map(({ title }) => title).sort();

  test('several rows a run, forty at once: what is told accepted is stored, and nobody has four', async () => {
    const told: string[] = [];
    const runs = await Promise.all(
      Array.from({ length: 40 }, (_, at) =>
        records.serially(async (inside, transaction) => {
          const verdicts = [];
          for (const [row, owner] of [`o${at % 5}`, `o${(at + 2) % 5}`].entries())
            verdicts.push(
              await berth.judgeAndStore({ owner, title: `t${at} ${row}` }, { records: inside, within: 60_000 }, insert(transaction)),
            );
          return verdicts;
        }),
      ),
    );
    for (const verdicts of runs) {
      if (!Array.isArray(verdicts)) throw new Error(`left open: ${verdicts.unsettled[0]?.cause}`);
      for (const verdict of verdicts) {
        expect(verdict.outcome).not.toBe('undecided');
        if (verdict.outcome === 'accepted') told.push(verdict.value.title);
      }
    }
    const rows = await stored();
    expect(rows.map(({ title }) => title).sort()).toEqual(told.sort());
    expect(['o0', 'o1', 'o2', 'o3', 'o4'].map((owner) => rows.filter((row) => row.owner === owner).length)).toEqual([3, 3, 3, 3, 3]);
  });

  test('a statement of the application that failed and was swallowed: nothing is told stored that is not', async () => {
    const attempt = store.db.transaction().execute(async (transaction) => {
      const verdict = await plain.judgeAndStore({ owner: 'a', title: 'kept' }, { records: records.in(transaction) }, insert(transaction));
      await sql`insert into berths (owner, title) values ('a', 'kept')`.execute(transaction).catch(() => undefined);
      return verdict.outcome;
    });
    // PostgreSQL ends a transaction by any error, the others undo the statement alone.
    if (name === 'PostgreSQL') await expect(attempt).rejects.toThrow('nothing of it is stored');
    else expect(await attempt).toBe('accepted');
    expect(await titles()).toEqual(name === 'PostgreSQL' ? [] : ['kept']);
  });

  if (name === 'PostgreSQL')
    test.each(['serially', 'in'] as const)(
      'a look-up that takes too long leaves its own verdict open, and what was stored before it stays (%s)',
      async (how) => {
        const both = async (inside: SqlRecords, transaction: Db) => {
          await sql`set local statement_timeout = 300`.execute(transaction);
          const first = await plain.judgeAndStore({ owner: 'a', title: 'first' }, { records: inside }, insert(transaction));
          const second = await slowBerth.judge({ owner: 'a', title: 'second' }, { records: inside });
          const third = await plain.judgeAndStore({ owner: 'a', title: 'third' }, { records: inside }, insert(transaction));
          return [first.outcome, second.outcome, third.outcome];
        };
        const outcomes =
          how === 'serially'
            ? await records.serially(both)
            : await store.db.transaction().execute((transaction) => both(records.in(transaction), transaction));
        expect(outcomes).toEqual(['accepted', 'undecided', 'accepted']);
        expect(await titles()).toEqual(['first', 'third']);
      },
    );

  if (name !== 'SQLite')
    test('two in a deadlock, swallowed: one of them throws at its end, and what is told accepted is stored', async () => {
      for (const side of [0, 1]) await insert(store.db)({ owner: 'y', title: `row ${side}` });
      const meet: (() => void)[] = [];
      const both = [0, 1].map((side) => new Promise<void>((resolve) => (meet[side] = resolve)));
      const touch = (db: Db, side: number) => db.updateTable('berths').set({ owner: 'z' }).where('title', '=', `row ${side}`).execute();
      const told: string[] = [];
      const ends = await Promise.allSettled(
        [0, 1].map((side) =>
          store.db.transaction().execute(async (transaction) => {
            const inside = records.in(transaction);
            const before = await plain.judgeAndStore(
              { owner: `b${side}`, title: `before ${side}` },
              { records: inside },
              insert(transaction),
            );
            await touch(transaction, side);
            meet[side]?.();
            await both[1 - side];
            await plain
              .judgeAndStore({ owner: `w${side}`, title: `while ${side}` }, { records: inside }, async (value) => {
                await insert(transaction)(value);
                await touch(transaction, 1 - side);
              })
              .catch(() => undefined);
            const after = await plain
              .judgeAndStore({ owner: `a${side}`, title: `after ${side}` }, { records: inside }, insert(transaction))
              .catch(() => undefined);
            if (after?.outcome === 'undecided') expect(String(after.unsettled[0]?.cause)).toContain('nothing of it is stored');
            return [before, after].flatMap((each) => (each?.outcome === 'accepted' ? [each.value.title] : []));
          }),
        ),
      );
      for (const end of ends) if (end.status === 'fulfilled') told.push(...end.value);
      expect(ends.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
      expect(await titles()).toEqual(expect.arrayContaining(told));
      expect((await titles()).filter((title) => /before|after/.test(title)).sort()).toEqual(told.sort());
    });

  if (name !== 'SQLite')
    test('the answer to COMMIT is lost: that it is in doubt is told, and the same request again gets its answer', async () => {
      await sql`create table jestril_answers (id char(64) primary key, answer text not null, stored_at timestamp not null default current_timestamp)`.execute(
        store.db,
      );
      const { address, close } = await cuttingAt('commit', store.address);
      const broken = connect(name, address, 1);
      let runs = 0;
      const judgeOn = (db: Db) =>
        store.records(db).serially((inside, transaction) =>
          plain.judgeAndStore({ owner: 'a', title: 'once' }, { records: inside, once: 'key 1' }, async (value) => {
            runs++;
            await insert(transaction)(value);
            return 'stored';
          }),
        );
      await expect(judgeOn(broken)).rejects.toThrow(InDoubt);
      await broken.destroy().catch(() => undefined);
      await close();
      expect([runs, await titles()]).toEqual([1, ['once']]);
      expect(await judgeOn(store.db)).toMatchObject({ outcome: 'accepted', stored: 'stored' });
      expect(await titles()).toEqual(['once']);
    });

  test('two look-ups and an insert are at most eight statements', async () => {
    const told: string[] = [];
    const db = connect(name, store.address, 1, ({ query }) => told.push(query.sql));
    const own = store.records(db);
    const judgeOne = (title: string) =>
      own.serially((inside, transaction) => berth.judgeAndStore({ owner: 'a', title }, { records: inside }, insert(transaction)));
    await judgeOne('first');
    told.length = 0;
    expect((await judgeOne('second')).outcome).toBe('accepted');
    await db.destroy();
    expect(told.filter((statement) => statement.startsWith('insert'))).toHaveLength(1);
    expect({ told, few: told.length <= 8 }).toEqual({ told, few: true });
  });

  test('those of one lock follow one another in the order in which they came, and a failure lets the next one in', async () => {
    const log: string[] = [];
    const one = (who: string, lock: string[]) =>
      records.serially(
        async () => {
          log.push(`${who} in`);
          await new Promise((resolve) => setTimeout(resolve, 20));
          log.push(`${who} out`);
          if (who === 'b') throw new Error('broken');
        },
        { lock },
      );
    const ends = await Promise.allSettled([one('a', ['x']), one('b', ['x', 'y']), one('c', ['y'])]);
    expect(log).toEqual(['a in', 'a out', 'b in', 'b out', 'c in', 'c out']);
    expect(ends.map(({ status }) => status)).toEqual(['fulfilled', 'rejected', 'fulfilled']);
  });

  test('a lock that is held too long, here or elsewhere, is contended; whoever gives up waiting is told why', async () => {
    let free = () => {};
    const held = new Promise<void>((resolve) => {
      free = resolve;
    });
    const other = store.records(store.db.withTables());
    let begin = () => {};
    const begun = new Promise<void>((resolve) => {
      begin = resolve;
    });
    const first = records.serially(
      () => {
        begin();
        return held;
      },
      { lock: 'quay' },
    );
    await begun;
    const late = await records.serially(async () => 'in', { lock: 'quay', within: 50 });
    expect(late).toMatchObject({ outcome: 'undecided', unsettled: [{ why: 'contended' }] });
    // Of SQLite there is but one connection here.
    if (name !== 'SQLite')
      expect(await other.serially(async () => 'in', { lock: 'quay', within: 50 })).toMatchObject({ outcome: 'undecided' });
    await expect(records.serially(async () => 'in', { lock: 'quay', signal: AbortSignal.abort(new Error('left')) })).rejects.toThrow(
      'left',
    );
    free();
    await first;
    expect(await records.serially(async () => 'in', { lock: 'quay', within: 5000 })).toBe('in');
  });
});

test('the lock is what rules count by; what is unsound is not counted', async () => {
  const bookings = collection('bookings', { id: whole, owner: text, berth: text, arrives: day, departs: day, state: text }, { key: 'id' });
  const open = rule(
    'test/open',
    { owner: text },
    {
      looksUp: { n: bookings.count({ owner: 'owner', state: exactly('open') }) },
      holds: (_, { n }) => n < 3,
      message: 'x',
      blames: 'owner',
    },
  );
  const stay = intake(
    'stay',
    { owner: text('O'), berth: text('B'), arrives: day('A'), departs: day('D') },
    {
      storedIn: bookings,
      rules: [
        open({ owner: 'owner' }),
        noOverlap(bookings, { berth: 'berth', arrives: 'arrives', departs: 'departs' }, { interval: ['arrives', 'departs'] }),
      ],
    },
  );
  const body = { owner: 'Ida', berth: 'A1', arrives: '2031-05-01', departs: '2031-05-02' };
  expect(await locksFor(stay, body)).toEqual(['bookings berth ["a1"]', 'bookings owner,state ["ida","open"]']);
  expect(await locksFor(stay, { ...body, owner: 7 })).toEqual(['bookings berth ["a1"]']);
});
