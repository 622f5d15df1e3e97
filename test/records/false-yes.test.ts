import fc from 'fast-check';
import {
  above,
  checkStore,
  collection,
  day,
  entries,
  exact,
  exactly,
  flag,
  group,
  intake,
  known,
  list,
  maybe,
  moment,
  noOverlap,
  notAbove,
  type Records,
  rule,
  text,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { CamelCasePlugin, sql } from 'kysely';
import { blamesOf } from '../support/judging.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// What a store says is what is decided on: no error, cut list or odd type of a real database passes for "there is none".

const ID = 'f81d4fae-7dec-11d0-a765-00a0c91e6bf6';
const tags = collection('tags', { id: text, state: text, small: flag, note: maybe(text), born: day }, { key: 'id' });

describeStores((open, name) => {
  let store: TestStore;
  let records: Records;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
  });
  afterAll(() => store.close());

  if (name === 'PostgreSQL') {
    describe('an error of class 22', () => {
      beforeAll(async () => {
        await sql`create type state as enum ('open', 'closed')`.execute(store.db);
        await sql`create table tags (id uuid primary key, state state, small smallint, note text, born date)`.execute(store.db);
        await sql`insert into tags values (${ID}, 'open', 1, 'x', '2031-05-01')`.execute(store.db);
      });
      const of = (rules: unknown[], fields: object) =>
        intake('form', fields as never, { rules: rules as never }) as never as ReturnType<typeof plain>;
      const plain = () => intake('form', { id: text('Id') }, { rules: [] });

      test('of a view, a policy, a constant or a flag is no "there is none"', async () => {
        await sql`create view broken as select id, state, small, (length(note) / (length(note) - 1))::text as note, born from tags`.execute(
          store.db,
        );
        const broken = collection('broken', { id: text, note: maybe(text) }, { key: 'id' });
        const undecided = { outcome: 'undecided', unsettled: [{ why: 'unavailable' }] };
        expect(
          await of([unique(broken, { note: 'note' } as never)], { note: text('Note') }).judge({ note: 'y' } as never, { records }),
        ).toMatchObject(undecided);
        const fixed = unique(tags, { note: 'note' } as never, { only: { state: exactly('opened') } });
        expect(await of([fixed], { note: text('Note') }).judge({ note: 'x' } as never, { records })).toMatchObject(undecided);
        expect(
          await of([unique(tags, { small: 'small' } as never)], { small: flag('Small') }).judge({ small: true } as never, { records }),
        ).toMatchObject(undecided);
        expect(
          await of([known(tags, { small: 'small' } as never)], { small: flag('Small') }).judge({ small: true } as never, { records }),
        ).toMatchObject(undecided);

        const role = `jestril_role_${process.pid}`;
        await sql`create table guarded (id uuid primary key, owner int)`.execute(store.db);
        await sql`alter table guarded enable row level security`.execute(store.db);
        await sql`create policy own on guarded using (owner = current_setting('app.owner')::int)`.execute(store.db);
        await sql`insert into guarded values (${ID}, 1)`.execute(store.db);
        const guarded = collection('guarded', { id: text }, { key: 'id' });
        await store.db
          .transaction()
          .execute(async (transaction) => {
            await sql`create role ${sql.id(role)}`.execute(transaction);
            await sql`grant select on guarded to ${sql.id(role)}`.execute(transaction);
            const { rows } = await sql<{ name: string }>`select current_schema() as name`.execute(transaction);
            await sql`grant usage on schema ${sql.id(rows[0]?.name ?? '')} to ${sql.id(role)}`.execute(transaction);
            await sql`set local role ${sql.id(role)}`.execute(transaction);
            await sql`select set_config('app.owner', '', true)`.execute(transaction);
            const inside = store.records(store.db).in(transaction);
            const verdict = await of([unique(guarded, { id: 'id' } as never)], { id: text('Id') }).judge({ id: ID }, { records: inside });
            expect(verdict).toMatchObject(undecided);
            throw new Error('roll back');
          })
          .catch((error) => expect(error.message).toBe('roll back'));
      });

      test('of one odd key leaves the others decided, and a transaction going', async () => {
        const form = intake(
          'form',
          { id: text('Id'), state: text('State'), born: day('Born') },
          {
            rules: [unique(tags, { id: 'id' }), known(tags, { state: 'state' }), unique(tags, { born: 'born' })],
          },
        );
        const good = { id: ID.replace('f8', 'f9'), state: 'open', born: '2031-06-01' };
        const rows = [
          good,
          { ...good, id: 'nonsense' },
          { ...good, id: ID },
          { ...good, id: `{${ID.toUpperCase().replaceAll('-', '')}}` },
          { ...good, state: 'opened' },
          { ...good, born: '0000-01-01', id: 'odd too' },
          { ...good, born: '2031-05-01', id: 'odd' },
        ];
        const expected = [[], [], ['unique /id'], ['unique /id'], ['known /state'], [], ['unique /born']];
        // Rows claim their days and ids from each other: each is judged for itself.
        const judge = async (from: Records) => {
          const found: string[][] = [];
          for (const row of rows) found.push(blamesOf(await form.judge(row, { records: from })));
          return found;
        };
        expect(await judge(records)).toEqual(expected);
        await store.db.transaction().execute(async (transaction) => {
          expect(await judge(store.records(store.db).in(transaction))).toEqual(expected);
          // The transaction goes on.
          expect((await sql`select 1 as one`.execute(transaction)).rows).toEqual([{ one: 1 }]);
        });
        const ids = intake('ids', { id: text('Id') }, { rules: [unique(tags, { id: 'id' })] });
        const many = Array.from({ length: 1200 }, (_, index) => ({
          id: index === 700 ? 'nonsense' : index === 900 ? ID : `f81d4fae-7dec-11d0-a765-${String(index).padStart(12, '0')}`,
        }));
        const outcomes: string[] = [];
        for await (const { row, verdict } of ids.judgeMany(many, { records }))
          if (verdict.outcome !== 'accepted') outcomes.push(`${row} ${verdict.outcome}`);
        expect(outcomes).toEqual(['901 rejected']);
      });
    });

    test('a reference is told in time, however long the value', async () => {
      const { conflictOf } = store.records(store.db);
      const long = '(a) "x ,'.repeat(40_000);
      const error = {
        code: '23503',
        constraint: 'fk',
        table: 'vessels',
        detail: `Key (owner)=(${long}) is not present in table "owners".`,
      };
      expect(conflictOf(error)).toEqual({
        sort: 'known',
        constraint: 'fk',
        collections: ['vessels'],
        columns: ['owner'],
        refersTo: ['owners'],
      });
      const german = { ...error, detail: `Schlüssel (owner)=(${long}) ist nicht in Tabelle »owners« vorhanden.` };
      expect(conflictOf(german)).toEqual(conflictOf(error));
    });
  }

  if (name === 'MariaDB') {
    test('a list that the session cuts is noticed, wherever it is cut', async () => {
      await sql`create table marks (mark varchar(20) primary key)`.execute(store.db);
      await store.db
        .insertInto('marks')
        .values(Array.from({ length: 1250 }, (_, index) => ({ mark: `m${index}` })))
        .execute();
      const marks = collection('marks', { mark: text }, { key: 'mark' });
      const form = intake('form', { mark: text('Mark') }, { rules: [unique(marks, { mark: 'mark' })] });
      await store.db.connection().execute(async (connection) => {
        for (const length of [64, 1023, 4095, 4096, 4097, 4098]) {
          await sql`set session group_concat_max_len = ${sql.lit(length)}`.execute(connection);
          const accepted: number[] = [];
          const rows = Array.from({ length: 1251 }, (_, index) => ({ mark: `m${index}` }));
          for await (const { row, verdict } of form.judgeMany(rows, { records: store.records(connection) }))
            if (verdict.outcome !== 'rejected') accepted.push(row);
          expect([length, accepted]).toEqual([length, [1251]]);
        }
      });
    });
  }

  test('more rows than a look-up takes decide nothing', async () => {
    await sql`create table items (owner int, amount int)`.execute(store.db);
    await store.db
      .insertInto('items')
      .values(Array.from({ length: 30 }, () => ({ owner: 1, amount: 1 })))
      .execute();
    const items = collection('items', { owner: whole, amount: whole }, { key: 'owner' });
    const within = (most: number) =>
      rule(
        'test/within',
        { owner: whole },
        {
          looksUp: { all: items.all({ owner: 'owner' }, ['amount'], { most }) },
          holds: (_read, { all }) => all.reduce((sum, { amount }) => sum + amount, 0) <= 29,
          message: 'x',
          blames: 'owner',
        },
      );
    const judge = (most: number) =>
      intake('form', { owner: whole('Owner') }, { rules: [within(most)({ owner: 'owner' })] }).judge({ owner: 1 }, { records });
    expect(await judge(30)).toMatchObject({ outcome: 'rejected' });
    const cut = await judge(29);
    expect(cut).toMatchObject({ outcome: 'undecided', unsettled: [{ why: 'too-many-rows' }] });
    expect(String(cut.unsettled[0]?.cause)).toContain('More than 29 rows of items match');
  });

  test('the record that is judged again belongs to its own collection', async () => {
    await sql`create table owners (id int primary key, email varchar(40))`.execute(store.db);
    await sql`create table guests (id int primary key, email varchar(40))`.execute(store.db);
    await sql`insert into owners values (1, 'ida')`.execute(store.db);
    await sql`insert into guests values (1, 'ida')`.execute(store.db);
    const owners = collection('owners', { id: whole, email: text }, { key: 'id' });
    const guests = collection('guests', { id: whole, email: text }, { key: 'id' });
    const form = intake(
      'form',
      { email: text('E-mail') },
      { storedIn: owners, rules: [unique(owners, { email: 'email' }), unique(guests, { email: 'email' }, { as: 'guest' })] },
    );
    expect(await form.judge({ email: 'ida' }, { records, itself: { id: 1 } })).toMatchObject({ findings: [{ use: 'guest' }] });
  });

  test('intervals that are open go on: in the store, in memory, among rows and against each other', async () => {
    const isSqlite = name === 'SQLite';
    await sql`create table stays (id int primary key, berth varchar(5), since ${sql.raw(isSqlite ? 'text' : 'date')}, until ${sql.raw(isSqlite ? 'text' : 'date')})`.execute(
      store.db,
    );
    const stays = collection('stays', { id: whole, berth: text, since: maybe(day), until: maybe(day) }, { key: 'id' });
    const form = (touching: 'allowed' | 'refused') =>
      intake(
        'form',
        { berth: text('Berth'), since: day('Since').orAbsent(), until: day('Until').orAbsent() },
        {
          rules: [noOverlap(stays, { berth: 'berth', since: 'since', until: 'until' }, { interval: ['since', 'until'], touching })],
        },
      );
    const forms = { allowed: form('allowed'), refused: form('refused') };
    const at = fc.option(fc.integer({ min: 1, max: 6 }), { nil: undefined });
    const interval = fc.tuple(fc.constantFrom('A', 'B'), at, at).map(([berth, a, b]) => {
      const [from, to] = a !== undefined && b !== undefined && a > b ? [b, a] : [a, b];
      const text = (each: number | undefined) => (each === undefined ? undefined : `2031-05-0${each}`);
      return { berth, ...(from !== undefined && { since: text(from) as string }), ...(to !== undefined && { until: text(to) as string }) };
    });
    type Stay = { berth: string; since?: string; until?: string };
    const overlap = (a: Stay, b: Stay, isTouching: boolean) => {
      const isBefore = (end?: string, beginning?: string) =>
        end === undefined || beginning === undefined || (isTouching ? beginning <= end : beginning < end);
      return a.berth === b.berth && isBefore(a.until, b.since) && isBefore(b.until, a.since);
    };
    await fc.assert(
      fc.asyncProperty(
        fc.array(interval, { maxLength: 3 }),
        fc.array(interval, { minLength: 1, maxLength: 5 }),
        fc.constantFrom('allowed', 'refused'),
        async (kept, rows, touching) => {
          await store.db.deleteFrom('stays').execute();
          const held = kept.map((stay, id) => ({ id, since: null, until: null, ...stay }));
          if (held.length > 0) await store.db.insertInto('stays').values(held).execute();
          const there: Stay[] = [...kept];
          const expected = rows.map((row) => {
            const isFree = !there.some((other) => overlap(other, row, touching === 'refused'));
            // A row that is refused for a stored one claims its interval all the same.
            if (isFree || !there.slice(kept.length).some((other) => overlap(other, row, touching === 'refused'))) there.push(row);
            return isFree ? 'accepted' : 'rejected';
          });
          for (const from of [records, memoryRecords({ stays: held })]) {
            const outcomes: string[] = [];
            for await (const { verdict } of forms[touching].judgeMany(rows, { records: from })) outcomes.push(verdict.outcome);
            expect({ held, rows, touching, outcomes }).toEqual({ held, rows, touching, outcomes: expected });
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  test('what a constraint refuses after a first insert leaves nothing of it behind, in a transaction of the application', async () => {
    await sql`create table bookings (id int primary key)`.execute(store.db);
    await sql`create table nights (night varchar(10) primary key)`.execute(store.db);
    await sql`insert into nights values ('taken')`.execute(store.db);
    const nights = collection('nights', { night: text }, { key: 'night' });
    const form = intake('form', { night: text('Night') });
    const mirrored = intake('mirrored', { night: text('Night') }, { rules: [unique(nights, { night: 'night' })] });
    // The look-up is answered as if the night were free, as somebody faster would have it.
    const blind = (from: Records): Records => ({ ...from, ask: async (questions) => questions.map(({ keys }) => keys.map(() => 0)) });
    await store.db.transaction().execute(async (transaction) => {
      const inside = store.records(store.db).in(transaction);
      const verdict = await mirrored.judgeAndStore({ night: 'taken' }, { records: blind(inside) }, async ({ night }) => {
        await transaction.insertInto('bookings').values({ id: 1 }).execute();
        await transaction.insertInto('nights').values({ night }).execute();
      });
      expect(blamesOf(verdict as never)).toEqual(['unique /night']);
      await form.judgeAndStore({ night: 'free' }, { records: inside }, () =>
        transaction.insertInto('bookings').values({ id: 2 }).execute(),
      );
    });
    const { rows } = await sql<{ id: number }>`select id from bookings`.execute(store.db);
    expect(rows.map(({ id }) => Number(id))).toEqual([2]);
  });

  test('moments are asked with and read in one way, whatever the zone and the style of the session are', async () => {
    const types = { PostgreSQL: ['timestamptz', 'timestamp'], MariaDB: ['timestamp(6) null', 'datetime(6)'], SQLite: ['text', 'text'] }[
      name
    ];
    const seen = collection('seen', { id: whole, at: moment, plain: moment }, { key: 'id' });
    const read: unknown[] = [];
    const watch = rule(
      'test/watch',
      { at: moment },
      {
        looksUp: {
          row: seen.oneOrNone({ at: 'at', plain: 'at' }, ['at', 'plain']),
          later: seen.count({ at: above('at') }),
          before: seen.count({ plain: notAbove('at') }),
        },
        holds: (_read, found) => read.push(found) > 0,
        message: 'x',
        blames: 'at',
      },
    );
    const form = intake('form', { at: moment('At') }, { rules: [watch({ at: 'at' })] });
    await store.db.connection().execute(async (db) => {
      const set = async (...statements: string[]) => {
        for (const statement of statements) await sql.raw(statement).execute(db);
      };
      await set(`create table seen (id int primary key, at ${types[0]}, plain ${types[1]})`);
      if (name === 'PostgreSQL') await set(`set timezone to 'UTC'`);
      if (name === 'MariaDB') await set(`set time_zone = '+00:00'`);
      const written =
        name === 'SQLite' ? ['2031-05-01T09:30:00.250Z', '2031-10-26T00:30:00.000Z'] : ['2031-05-01 09:30:00.25', '2031-10-26 00:30:00'];
      await set(...written.map((at, id) => `insert into seen values (${id}, '${at}', '${at}')`));
      if (name === 'PostgreSQL') await set(`set timezone to 'Asia/Tokyo'`, `set datestyle to 'SQL, DMY'`);
      if (name === 'MariaDB') await set(`set time_zone = '+05:00'`);
      const from = store.records(db);
      for (const at of ['2031-05-01T11:30:00.250+02:00', '2031-10-26T00:30:00Z'])
        expect((await form.judge({ at }, { records: from })).outcome).toBe('accepted');
    });
    expect(read).toEqual([
      { row: { at: '2031-05-01T09:30:00.250Z', plain: '2031-05-01T09:30:00.250Z' }, later: 1, before: 1 },
      { row: { at: '2031-10-26T00:30:00.000Z', plain: '2031-10-26T00:30:00.000Z' }, later: 0, before: 2 },
    ]);
  });

  if (name === 'SQLite') {
    test('a column that nobody can compare with a moment or an exact number is a gap, and decides nothing', async () => {
      await sql`create table odd (id int primary key, at integer, price text, good numeric)`.execute(store.db);
      const odd = collection('odd', { id: whole, at: moment, price: exact, good: exact }, { key: 'id' });
      const form = (column: 'price' | 'good') =>
        intake('form', { price: exact('Price') }, { rules: [unique(odd, { [column]: 'price' } as never)] });
      const at = intake('at', { at: moment('At') }, { rules: [unique(odd, { at: 'at' })] });
      await sql`insert into odd values (1, 5, '12.50', 12.5)`.execute(store.db);
      expect(await form('price').judge({ price: '12.5' }, { records })).toMatchObject({
        outcome: 'undecided',
        unsettled: [{ why: 'unavailable' }],
      });
      expect(blamesOf(await form('good').judge({ price: '12.50' }, { records }))).toEqual(['unique /price']);
      expect((await at.judge({ at: '2031-05-01T00:00:00Z' }, { records })).outcome).toBe('undecided');
      const gaps = await checkStore(records, [form('price'), at]);
      expect(gaps.filter(({ lacks }) => lacks === 'type').map(({ columns }) => columns)).toEqual([['price'], ['at']]);
    });
  }

  test('schemas and plugins of the database are heeded: for look-ups, refusals and the look at the tables', async () => {
    const isSqlite = name === 'SQLite';
    const { rows } = isSqlite
      ? { rows: [{ name: 'main' }] }
      : await (name === 'MariaDB'
          ? sql<{ name: string }>`select database() as name`
          : sql<{ name: string }>`select current_schema() as name`
        ).execute(store.db);
    await sql`create table guest_cards (card_no varchar(20) primary key, guest_name varchar(20))`.execute(store.db);
    await sql`create unique index guest_name on guest_cards (guest_name)`.execute(store.db);
    await sql`insert into guest_cards values ('c1', 'ida')`.execute(store.db);
    const cards = collection('guestCards', { cardNo: text, guestName: text }, { key: 'cardNo' });
    const form = intake(
      'form',
      { cardNo: text('Card'), guestName: text('Guest') },
      {
        storedIn: cards,
        rules: [unique(cards, { cardNo: 'cardNo' }), unique(cards, { guestName: 'guestName' }, { constraint: 'guest_name' })],
      },
    );
    const camel = store.db.withPlugin(new CamelCasePlugin());
    for (const db of [camel, camel.withSchema(rows[0]?.name ?? '')]) {
      const from = store.records(db);
      expect(await from.gaps([{ collection: 'guestCards', columns: ['cardNo', 'guestName'], unique: [] }])).toEqual([]);
      expect(blamesOf(await form.judge({ cardNo: 'c1', guestName: 'bo' }, { records: from }))).toEqual(['unique /cardNo']);
      await db.transaction().execute(async (transaction) => {
        expect(blamesOf(await form.judge({ cardNo: 'c2', guestName: 'ida' }, { records: from.in(transaction) }))).toEqual([
          'unique /guestName',
        ]);
      });
      const blind: Records = { ...from, ask: async (questions) => questions.map(({ keys }) => keys.map(() => 0)) };
      const keep = (value: object) => db.insertInto('guestCards').values(value).execute();
      expect(blamesOf((await form.judgeAndStore({ cardNo: 'c1', guestName: 'x' }, { records: blind }, keep)) as never)).toEqual([
        'unique /cardNo',
      ]);
    }
    if (!isSqlite) {
      const elsewhere = await form.judge({ cardNo: 'c1', guestName: 'bo' }, { records: store.records(camel.withSchema('nowhere')) });
      expect(elsewhere.outcome).toBe('undecided');
    }
  });

  test('the name of a table is understood as a text, too; what is no name is refused', async () => {
    const berths = collection('berths', { id: whole }, { key: 'id' });
    const form = intake('form', { id: whole('Id') }, { rules: [known(berths, { id: 'id' })] });
    expect(await form.judge({ id: 1 }, { records: store.records(store.db, { tables: { berths: 'owners' } }) })).toMatchObject({
      outcome: 'accepted',
    });
    expect(() => store.records(store.db, { tables: { berths: { tabel: 'owners' } as never } })).toThrow(
      'there is no option "tabel"; did you mean "table"?',
    );
    expect(() => store.records(store.db, { tables: { berths: 5 as never } })).toThrow('it has to be the name of a table');
  });
});

const marks = collection('marks', { mark: text, n: whole }, { key: 'mark' });

describe('an adapter of one’s own that answers oddly decides nothing', () => {
  const exists = intake('form', { mark: text('Mark') }, { rules: [unique(marks, { mark: 'mark' })] });
  const counts = rule(
    'test/few',
    { mark: text },
    { looksUp: { n: marks.count({ mark: 'mark' }) }, holds: (_, { n }) => n < 3, message: 'x', blames: 'mark' },
  );
  const one = rule(
    'test/one',
    { mark: text },
    { looksUp: { row: marks.oneOrNone({ mark: 'mark' }, ['n']) }, holds: (_, { row }) => (row?.n ?? 0) < 3, message: 'x', blames: 'mark' },
  );
  const all = [
    exists,
    intake('form', { mark: text('Mark') }, { rules: [counts({ mark: 'mark' })] }),
    intake('form', { mark: text('Mark') }, { rules: [one({ mark: 'mark' })] }),
  ];
  test.each([
    [[[null]]],
    [[[false]]],
    [[['0']]],
    [[[0n]]],
    [[[Number.NaN]]],
    [[[-1]]],
    [[[0.5]]],
    [[[[null]]]],
    [[[['x']]]],
    [[null]],
    [null],
    [[]],
    ['x'],
    [[{}]],
  ])('%#', async (answer) => {
    for (const form of all) {
      const verdict = await form.judge({ mark: 'x' }, { records: { ask: async () => answer as never } });
      expect(verdict.outcome).toBe('undecided');
    }
  });
});

test('a row of which the application says something odd is a verdict about that row, and the rest goes on', async () => {
  const form = intake(
    'form',
    { mark: text('Mark'), caller: group('Caller', { id: whole('Id') }).given() },
    { storedIn: marks, rules: [unique(marks, { mark: 'mark' })] },
  );
  const rows = [{ mark: 'a' }, null, { mark: 'b' }, { mark: 'c' }, { mark: 'd' }, { mark: 'e' }, { mark: 'f' }];
  const itself = (row: unknown) => {
    const { mark } = row as { mark: string };
    if (mark === 'b') throw new Error('no');
    return (mark === 'c' ? { nr: 1 } : mark === 'd' ? 5 : mark === 'e' ? null : undefined) as never;
  };
  const given = (_row: unknown, row: number) => ({ caller: { id: row === 7 ? ('x' as never) : row } });
  const outcomes: string[] = [];
  for await (const { verdict } of form.judgeMany(rows, { records: memoryRecords({ marks: [] }), itself, given }))
    outcomes.push(verdict.outcome);
  expect(outcomes).toEqual(['accepted', 'rejected', 'undecided', 'undecided', 'undecided', 'accepted', 'undecided']);
});

test('entries of a list are asked like any other', async () => {
  const form = intake(
    'form',
    { all: list('All', group('One', { mark: text('Mark') })) },
    {
      rules: [
        rule(
          'test/all',
          { all: entries({ mark: text }) },
          { holds: ({ all }) => all.length < 3, message: 'x', blames: 'all' },
        )({ all: { mark: 'all.*.mark' } }),
        unique(marks, { mark: 'all.*.mark' }),
      ],
    },
  );
  expect(
    blamesOf(await form.judge({ all: [{ mark: 'a' }, { mark: 'A' }] }, { records: memoryRecords({ marks: [{ mark: 'A', n: 1 }] }) })),
  ).toEqual(['unique /all/1/mark']);
});

describe('what a store refuses', () => {
  const owners = collection('owners', { id: whole, email: text }, { key: 'id' });
  const vessels = collection('vessels', { id: whole, owner: whole, skipper: whole }, { key: 'id' });
  const asks: number[] = [];
  const outside = rule(
    'test/outside',
    { owner: whole },
    { asks: async () => asks.push(1) > 0, within: 100, message: 'x', blames: 'owner' },
  );
  const form = intake(
    'vessel',
    { owner: whole('Owner'), skipper: whole('Skipper') },
    { storedIn: vessels, rules: [known(owners, { id: 'owner' }), known(owners, { id: 'skipper' }), outside({ owner: 'owner' })] },
  );
  const there = memoryRecords({ owners: [{ id: 1, email: 'x' }] });
  const store = (conflict: object | undefined, records: Records = there) =>
    form.judgeAndStore({ owner: 1, skipper: 1 }, { records: { ...records, conflictOf: () => conflict as never }, explain: true }, () => {
      throw new Error('refused');
    });

  test('blames the field that refers, of two to one collection', async () => {
    const conflict = { sort: 'known', collections: ['vessels'], columns: ['skipper'], refersTo: ['owners'] };
    expect(blamesOf((await store(conflict)) as never)).toEqual(['known /skipper']);
    expect(blamesOf((await store({ ...conflict, columns: ['owner'] })) as never)).toEqual(['known /owner']);
  });

  test('and no rule could explain is thrown as it came, without a second look', async () => {
    for (const conflict of [
      { sort: 'known', collections: ['audit'], columns: ['owner'], refersTo: ['owners'] },
      { sort: 'known', collections: ['vessels'], columns: ['berth'], refersTo: ['berths'] },
      { sort: 'unique', collections: ['vessels'], columns: ['mark'] },
      { sort: 'other', constraint: 'odd' },
    ]) {
      let rounds = 0;
      const counted: Records = {
        ...there,
        ask(questions, signal) {
          rounds += 1;
          return there.ask(questions, signal);
        },
      };
      await expect(store(conflict, counted)).rejects.toThrow('refused');
      expect(rounds).toBe(1);
    }
  });

  test('and names nothing has the rules look again: outside checks do not, and the trace tells each rule once', async () => {
    asks.length = 0;
    let isGone = false;
    const leaving: Records = { ask: (questions, signal) => (isGone ? memoryRecords({ owners: [] }) : there).ask(questions, signal) };
    const verdict = await form.judgeAndStore(
      { owner: 1, skipper: 1 },
      { records: { ...leaving, conflictOf: () => ({ sort: 'known' }) }, explain: true },
      () => {
        isGone = true;
        throw new Error('refused');
      },
    );
    expect(blamesOf(verdict as never)).toEqual(['known /owner', 'known /skipper']);
    expect(asks).toHaveLength(1);
    expect(verdict.trace?.map(({ use }) => use).sort()).toEqual(['known@owner', 'known@skipper', 'test/outside@owner']);
  });
});
