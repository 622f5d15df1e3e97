import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import type { Conflict, Verdict } from 'jestril';
import { checkStore, collection, day, exactly, flag, inOrder, intake, known, list, maybe, noOverlap, text, unique, whole } from 'jestril';
import type { SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { blamesOf } from '../support/judging.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

const owners = collection('owners', { id: whole, email: text, gone: flag }, { key: 'id' });
const berths = collection('berths', { code: text }, { key: 'code' });
const bookings = collection(
  'bookings',
  { id: whole, berth: text, owner: whole, arrives: day, departs: day, guests: maybe(whole) },
  { key: 'id' },
);

const booking = intake(
  'booking',
  {
    berth: text('Berth'),
    owner: whole('Owner'),
    arrives: day('Arrival'),
    departs: day('Departure'),
    guests: whole('Guests').orAbsent(),
  },
  {
    storedIn: bookings,
    rules: [
      known(berths, { code: 'berth' }),
      known(owners, { id: 'owner' }),
      noOverlap(bookings, { berth: 'berth', arrives: 'arrives', departs: 'departs' }, { interval: ['arrives', 'departs'] }),
      inOrder({ earlier: 'arrives', later: 'departs' }, { constraint: 'in_order' }),
    ],
  },
);
const stay = { berth: 'A1', owner: 1, arrives: '2031-05-10', departs: '2031-05-12' };

/** The records, which answer everything as if it were free: what another process sees just before this one writes. */
function blind(records: SqlRecords): SqlRecords {
  return {
    ...records,
    ask: async (questions) => questions.map(({ collection: name, keys }) => keys.map(() => (name === 'bookings' ? 0 : 1))),
  };
}

describeStores((open, name) => {
  let store: TestStore;
  let records: SqlRecords;
  beforeAll(async () => {
    store = await open();
    const { db } = store;
    records = store.records(db);
    const id = { SQLite: sql`integer primary key`, PostgreSQL: sql`serial primary key`, MariaDB: sql`int auto_increment primary key` }[
      name
    ];
    const email = name === 'SQLite' ? sql`text not null collate nocase` : sql`varchar(80) not null`;
    await sql`create table owners (id ${id}, email ${email}, gone boolean not null default false)`.execute(db);
    await sql`create unique index owners_email on owners (${name === 'PostgreSQL' ? sql`lower(email)` : sql`email`})`.execute(db);
    await sql`create table berths (code varchar(10) primary key)`.execute(db);
    if (name === 'PostgreSQL') await sql`create extension if not exists btree_gist`.execute(db).catch(() => undefined);
    const exclusion =
      name === 'PostgreSQL' ? sql`, exclude using gist (berth gist_text_ops with =, daterange(arrives, departs) with &&)` : sql``;
    await sql`create table bookings (id ${id}, berth varchar(10) not null, owner int not null, arrives date not null, departs date not null,
      guests int, constraint in_order check (arrives < departs), constraint bookings_berth foreign key (berth) references berths (code),
      constraint bookings_owner foreign key (owner) references owners (id)${exclusion})`.execute(db);
    await sql`insert into owners (id, email) values (1, 'ida@fjordmail.example')`.execute(db);
    if (name === 'PostgreSQL') await sql`alter sequence owners_id_seq restart with 2`.execute(db);
    await sql`insert into berths values ('A1'), ('A2')`.execute(db);
    await sql`insert into bookings (berth, owner, arrives, departs) values ('A2', 1, '2031-05-10', '2031-05-14')`.execute(db);
  });
  afterAll(() => store.close());

  test('two hundred sign-ups with one address, in four processes: one is stored, all others have the same finding', async () => {
    const run = promisify(execFile);
    const program = ['node_modules/jiti/lib/jiti-cli.mjs', 'test/support/sign-up.ts', name, store.address, '50'];
    const printed = await Promise.all([1, 2, 3, 4].map(() => run('node', program)));
    const outcomes = printed.flatMap(({ stdout }) => JSON.parse(stdout) as unknown[]);
    const { rows } = await sql<{ n: unknown }>`select count(*) as n from owners where lower(email) = 'eva@fjordmail.example'`.execute(
      store.db,
    );
    expect(Number(rows[0]?.n)).toBe(1);
    expect(outcomes).toHaveLength(200);
    expect(outcomes.filter((outcome) => outcome === 'accepted')).toHaveLength(1);
    const findings = new Set(outcomes.filter((outcome) => outcome !== 'accepted').map((outcome) => JSON.stringify(outcome)));
    expect([...findings].map((text) => JSON.parse(text))).toEqual([
      [
        {
          rule: 'unique',
          use: 'unique@email',
          severity: 'error',
          places: [{ field: 'email', pointer: '/email', label: 'E-mail' }],
          facts: { takenBy: 'record' },
          message: 'E-mail is already in use.',
        },
      ],
    ]);
  }, 60_000);

  const insert = (value: object) => store.db.insertInto('bookings').values(value).execute();
  const refused = async (value: object): Promise<Verdict<unknown> | undefined> => {
    const error = await insert(value).then(
      () => undefined,
      (reason: unknown) => reason,
    );
    // Whatever stands between the driver and the application wraps the error.
    return booking.refusalOf(new Error('wrapped', { cause: error }), { records, locale: 'en' });
  };

  test('a missing reference is the finding of `known`, and what a named constraint refuses is that of its rule', async () => {
    if (name !== 'SQLite') {
      expect(blamesOf((await refused({ ...stay, berth: 'Z9' })) as Verdict<unknown>)).toEqual(['known /berth']);
      expect(blamesOf((await refused({ ...stay, owner: 99 })) as Verdict<unknown>)).toEqual(['known /owner']);
    }
    expect(blamesOf((await refused({ ...stay, departs: '2031-05-01' })) as Verdict<unknown>)).toEqual(['in-order /departs']);
    expect(await refused({ ...stay, berth: null })).toBeUndefined();
    expect(booking.refusalOf(new Error('gone'), { records })).toBeUndefined();
    expect(booking.refusalOf(undefined, { records })).toBeUndefined();
    // A row that others refer to is to be deleted: nobody has submitted anything wrong.
    const error = await sql`delete from berths where code = 'A2'`.execute(store.db).catch((reason: unknown) => reason);
    if (name !== 'SQLite') expect(booking.refusalOf(error, { records })).toBeUndefined();
  });

  test('a constraint that does not say which rule it stands for has the rules look again', async () => {
    let isFirst = true;
    const late: SqlRecords = {
      ...records,
      ask: (...asked) => {
        const answer = isFirst ? blind(records).ask(...asked) : records.ask(...asked);
        isFirst = false;
        return answer;
      },
    };
    const verdict = await booking.judgeAndStore({ ...stay, owner: 98 }, { records: late }, insert);
    expect(blamesOf(verdict)).toEqual(['known /owner']);
  });

  test('storing what holds gives what was stored; other errors are thrown', async () => {
    const verdict = await booking.judgeAndStore(
      { ...stay, arrives: '2031-05-11' },
      { records },
      async (value) => Object.keys(value).length,
    );
    expect(verdict).toMatchObject({ outcome: 'accepted', stored: 4 });
    const broken = booking.judgeAndStore(stay, { records }, () => Promise.reject(new Error('disk full')));
    await expect(broken).rejects.toThrow('disk full');
    expect((await booking.judgeAndStore({}, { records }, insert)).outcome).toBe('rejected');
  });

  if (name === 'PostgreSQL') {
    test('an exclusion constraint is the finding of `noOverlap`', async () => {
      const verdict = await booking.judgeAndStore({ ...stay, berth: 'A2' }, { records: blind(records) }, insert);
      expect(blamesOf(verdict)).toEqual(['no-overlap /berth /arrives /departs']);
    });
  }

  test('entries of a list: the list is to blame, since the store does not say which one it was', async () => {
    const fleet = intake(
      'fleet',
      { mails: list('Addresses', text('E-mail')) },
      { rules: [unique(owners, { email: 'mails.*' }, { constraint: 'owners_email' })] },
    );
    const error = await sql`insert into owners (email) values ('ida@fjordmail.example')`
      .execute(store.db)
      .catch((reason: unknown) => reason);
    expect(blamesOf(fleet.refusalOf(error, { records }) as Verdict<unknown>)).toEqual(['unique /mails']);
  });

  test('what the rules need and the store lacks, with the statement that creates it', async () => {
    const piers = collection('piers', { code: text }, { key: 'code' });
    const more = collection('owners', { id: whole, email: text, gone: flag, nick: text }, { key: 'id', only: { gone: exactly(false) } });
    const other = intake(
      'other',
      { email: text('E-mail'), nick: text('Nick'), pier: text('Pier'), guests: whole('Guests'), berth: text('Berth') },
      {
        rules: [
          unique(more, { email: 'email' }, { ignoringCase: ['email'] }),
          unique(more, { nick: 'nick' }),
          known(piers, { code: 'pier' }),
          unique(berths, { code: 'berth' }),
          unique(bookings, { berth: 'berth', guests: 'guests' }),
        ],
      },
    );
    expect(await checkStore(records, [booking])).toEqual([]);
    const gaps = await checkStore(records, [other, booking]);
    expect(gaps.map(({ lacks, collection: where, columns }) => [lacks, where, ...columns])).toEqual([
      ['column', 'owners', 'nick'],
      ...(name === 'MariaDB' ? [['constraint-name', 'owners', 'email']] : []),
      ['collection', 'piers'],
      ['unique', 'bookings', 'berth', 'guests'],
    ]);
    const { statement } = gaps.at(-1) as { statement: string };
    expect(statement).toMatch(/^create unique index .bookings_berth_guests_unique. on .bookings. \(.berth., .guests.\)$/);
    await sql.raw(statement).execute(store.db);
    expect((await checkStore(records, [other])).map(({ lacks }) => lacks)).not.toContain('unique');
  });

  test('a constraint for some rows, and one that folds case: what checkStore offers closes the gap', async () => {
    await sql`create table notes (id int primary key, title varchar(20), gone boolean)`.execute(store.db);
    const notes = collection('notes', { id: whole, title: text, gone: flag }, { key: 'id', only: { gone: exactly(false) } });
    const note = intake(
      'note',
      { title: text('Title') },
      { rules: [unique(notes, { title: 'title' }, { ignoringCase: ['title'], constraint: 'one_title' })] },
    );
    const [gap] = await checkStore(records, [note]);
    expect(gap?.lacks).toBe('unique');
    await sql.raw((gap as { statement: string }).statement).execute(store.db);
    expect(await checkStore(records, [note])).toEqual([]);
    await sql`insert into notes (id, title, gone) values (1, 'Gale', false), (2, 'gale', true), (4, 'gale', true)`.execute(store.db);
    const error = await sql`insert into notes (id, title, gone) values (3, 'GALE', false)`
      .execute(store.db)
      .catch((reason: unknown) => reason);
    expect(blamesOf(note.refusalOf(error, { records }) as Verdict<unknown>)).toEqual(['unique /title']);
  });

  const [mark, only] = [['mark'], { gone: exactly(false), marina: exactly("it's") }];
  const byHand: readonly [made: string, isEnough: boolean][] =
    name === 'MariaDB'
      ? [
          ['alter table k add unique key u (mark)', true],
          ['alter table k add column w int as (case when gone = 0 then 1 end), add unique key u (mark, w)', true],
          ["alter table k add column w int as (case when gone = 0 and marina = 'it''s' then 1 end), add unique key u (mark, w)", true],
          ['alter table k add column w int as (case when gone = 1 then 1 end), add unique key u (mark, w)', false],
          ['alter table k add column w int as (case when gone = 0 and berth = 1 then 1 end), add unique key u (mark, w)', false],
          ['alter table k add unique key u (mark, gone)', false],
        ]
      : [
          ['create unique index u on k (mark)', true],
          ['create unique index u on k (mark) where gone = false', true],
          ["create unique index u on k (mark) where not gone and marina in ('it''s', 'x where y')", true],
          ['create unique index u on k (mark) where gone = true', false],
          ["create unique index u on k (mark) where marina = 'elsewhere'", false],
          ['create unique index u on k (mark) where berth is null', false],
          ['create unique index u on k (mark) where gone = false and "berth" > 3', false],
          ['create unique index u on k (mark, gone)', false],
          ['create unique index u on k (lower(mark), berth)', false],
          ...(name === 'PostgreSQL'
            ? ([['alter table k add constraint u unique (mark) deferrable initially deferred', false]] as [string, boolean][])
            : []),
        ];
  test.each(byHand)('%s: is it enough? %s', async (made, isEnough) => {
    await sql`drop table if exists k`.execute(store.db);
    await sql
      .raw(`create table k (id int primary key, mark varchar(20), gone boolean not null, marina varchar(20), berth int)`)
      .execute(store.db);
    await sql.raw(made).execute(store.db);
    const k = collection('k', { id: whole, mark: text, gone: flag, marina: text }, { key: 'id' });
    const form = intake('k', { mark: text('Mark') }, { rules: [unique(k, { mark: 'mark' }, { only, constraint: 'u' })] });
    expect((await checkStore(store.records(store.db), [form])).map(({ lacks, columns }) => [lacks, columns])).toEqual(
      isEnough ? [] : [['unique', mark]],
    );
  });
});

test('an own adapter says what was refused in the words of its collections', async () => {
  const conflict: Conflict = { sort: 'known', collections: ['bookings'], columns: ['berth'] };
  const own = { ask: async () => [], conflictOf: () => conflict };
  expect(blamesOf(booking.refusalOf('anything', { records: own }) as Verdict<unknown>)).toEqual(['known /berth']);
  await expect(checkStore({ ask: async () => [] }, [booking])).rejects.toThrow('checkStore: these records have no `gaps`');
});
