import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import type { Conflict, Verdict } from 'jestril';
import { checkStore, collection, day, flag, inOrder, intake, known, list, maybe, noOverlap, refusalOf, text, unique, whole } from 'jestril';
import { mysqlRecords, postgresRecords, type SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { connect } from '../support/connect.ts';
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
  });

  const insert = (value: object) => store.db.insertInto('bookings').values(value).execute();
  const refused = async (value: object): Promise<Verdict<unknown> | undefined> => {
    const error = await insert(value).then(
      () => undefined,
      (reason: unknown) => reason,
    );
    // Whatever stands between the driver and the application wraps the error.
    return refusalOf(booking, new Error('wrapped', { cause: error }), { records, locale: 'en' });
  };

  test('a missing reference is the finding of `known`, and what a named constraint refuses is that of its rule', async () => {
    if (name !== 'SQLite') {
      expect(blamesOf((await refused({ ...stay, berth: 'Z9' })) as Verdict<unknown>)).toEqual(['known /berth']);
      expect(blamesOf((await refused({ ...stay, owner: 99 })) as Verdict<unknown>)).toEqual(['known /owner']);
    }
    expect(blamesOf((await refused({ ...stay, departs: '2031-05-01' })) as Verdict<unknown>)).toEqual(['in-order /departs']);
    expect(await refused({ ...stay, berth: null })).toBeUndefined();
    expect(refusalOf(booking, new Error('gone'), { records })).toBeUndefined();
    expect(refusalOf(booking, undefined, { records })).toBeUndefined();
    // A row that others refer to is to be deleted: nobody has submitted anything wrong.
    const error = await sql`delete from berths where code = 'A2'`.execute(store.db).catch((reason: unknown) => reason);
    if (name !== 'SQLite') expect(refusalOf(booking, error, { records })).toBeUndefined();
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

  test('a key of another table that is called alike is no finding', async () => {
    await sql`create table guests (id int primary key, email varchar(80))`.execute(store.db);
    await sql`create unique index ${sql.id(name === 'MariaDB' ? 'owners_email' : 'guests_email')} on guests (email)`.execute(store.db);
    await sql`insert into guests values (1, 'ida@fjordmail.example')`.execute(store.db);
    const form = intake(
      'form',
      { email: text('E-mail') },
      { rules: [unique(owners, { email: 'email' }, name === 'MariaDB' ? { constraint: 'owners_email' } : {})] },
    );
    const storing = form.judgeAndStore({ email: 'bo@fjordmail.example' }, { records }, () =>
      store.db.insertInto('guests').values({ id: 2, email: 'ida@fjordmail.example' }).execute(),
    );
    await expect(storing).rejects.toThrow(/guests_email|owners_email|guests.email/);
  });

  test('of rows stored together, those that a constraint refuses are told, and the others are stored', async () => {
    await sql`create table marks (id int primary key, mark varchar(20) not null unique)`.execute(store.db);
    const rows = Array.from({ length: 200 }, (_, id) => ({ id, mark: id % 50 === 7 ? 'TAKEN' : id === 120 ? 'M-7x' : `M-${id}` }));
    let calls = 0;
    const refused = await records.storeRows(rows, (some, transaction) => {
      calls += 1;
      return transaction.insertInto('marks').values(some).execute();
    });
    const stored = async () => Number((await sql<{ n: unknown }>`select count(*) as n from marks`.execute(store.db)).rows[0]?.n);
    expect([refused.map(({ index, row }) => [index, row.mark]), await stored()]).toEqual([
      [
        [57, 'TAKEN'],
        [107, 'TAKEN'],
        [157, 'TAKEN'],
      ],
      197,
    ]);
    expect(calls).toBeLessThan(60);
    const marks = collection('marks', { id: whole, mark: text }, { key: 'id' });
    const form = intake(
      'form',
      { mark: text('Mark') },
      { rules: [unique(marks, { mark: 'mark' }, name === 'MariaDB' ? { constraint: 'mark' } : {})] },
    );
    expect(blamesOf(refusalOf(form, refused[0]?.error, { records }) as Verdict<unknown>)).toEqual(['unique /mark']);
    const broken = records.storeRows(
      [
        { id: 900, mark: 'x' },
        { id: 901, mark: 'TAKEN' },
      ],
      async (some, transaction) => {
        await transaction.insertInto('marks').values(some).execute();
        if (some.length === 1) throw new Error('disk full');
      },
    );
    await expect(broken).rejects.toThrow('disk full');
    expect([await records.storeRows([], async () => 1), await stored()]).toEqual([[], 197]);
  });

  test('entries of a list: the list is to blame, since the store does not say which one it was', async () => {
    const fleet = intake(
      'fleet',
      { mails: list('Addresses', text('E-mail')) },
      { rules: [unique(owners, { email: 'mails.*' }, { constraint: 'owners_email' })] },
    );
    const error = await sql`insert into owners (email) values ('ida@fjordmail.example')`
      .execute(store.db)
      .catch((reason: unknown) => reason);
    expect(blamesOf(refusalOf(fleet, error, { records }) as Verdict<unknown>)).toEqual(['unique /mails']);
  });
});

// What servers say in other languages; the values in it are somebody else's text.
const key = "Key (lower(email), house)=(x'y), 7) already exists.";
const told: readonly [database: 'postgres' | 'mysql', error: object, conflict: object | undefined][] = [
  ['postgres', { code: '23505', table: 'owners', constraint: 'u', detail: key }, { sort: 'unique', columns: ['email', 'house'] }],
  [
    'postgres',
    { code: '23505', table: 'owners', detail: 'Schlüssel »(email)=(a=(b)« existiert bereits.' },
    { sort: 'unique', columns: ['email'] },
  ],
  [
    'postgres',
    {
      code: '23503',
      table: 'bookings',
      message: 'Einfügen oder Aktualisieren in Tabelle »bookings« verletzt Fremdschlüssel-Constraint »b«',
      detail: 'Schlüssel (berth)=("x) »y«) ist nicht in Tabelle »berths« vorhanden.',
    },
    { sort: 'known', columns: ['berth'], refersTo: ['berths'] },
  ],
  [
    'postgres',
    {
      code: '23503',
      table: 'bookings',
      message: 'Aktualisieren oder Löschen in Tabelle »berths« verletzt Fremdschlüssel-Constraint »b« von Tabelle »bookings«',
      detail: 'Auf Schlüssel (code)=(A2) wird noch aus Tabelle »bookings« verwiesen.',
    },
    undefined,
  ],
  [
    'postgres',
    {
      code: '23503',
      table: 'bookings',
      message: 'テーブル"bookings"への挿入、更新は外部キー制約"b"に違反しています',
      detail: 'テーブル"berths"にキー(berth)=(Z9)がありません',
    },
    { sort: 'known', columns: ['berth'] },
  ],
  [
    'mysql',
    { errno: 1062, sqlMessage: "'a' for key 'b' は索引 'owners_email' で重複しています。" },
    { sort: 'unique', constraint: 'owners_email' },
  ],
  [
    'mysql',
    { errno: 1062, sqlMessage: "Doppelter Eintrag 'x' für Schlüssel 'owners.email'" },
    { sort: 'unique', collections: ['owners'], columns: ['email'] },
  ],
  [
    'mysql',
    { errno: 1062, sqlMessage: "Duplicate entry 'x' for key 'email'", sql: 'INSERT INTO `db`.`guests` (`email`) values (?)' },
    { sort: 'unique', collections: ['guests'] },
  ],
  [
    'mysql',
    { errno: 1062, sqlMessage: "Duplicate entry 'x' for key 'PRIMARY'", sql: 'update guests set id = 1' },
    { sort: 'unique', collections: ['guests'], ofKey: true },
  ],
];
test.each(told)('%s tells %j', (database, error, conflict) => {
  const records = { postgres: postgresRecords, mysql: mysqlRecords }[database](connect('SQLite', ':memory:'));
  const found = records.conflictOf(Object.assign(new Error(), error));
  if (conflict === undefined) expect(found).toBeUndefined();
  else expect(found).toMatchObject(conflict);
});

test('an own adapter says what was refused in the words of its collections', async () => {
  const conflict: Conflict = { sort: 'known', collections: ['bookings'], columns: ['berth'] };
  const own = { ask: async () => [], conflictOf: () => conflict };
  expect(blamesOf(refusalOf(booking, 'anything', { records: own }) as Verdict<unknown>)).toEqual(['known /berth']);
  await expect(checkStore({ ask: async () => [] }, [booking])).rejects.toThrow('checkStore: these records have no `gaps`');
});
