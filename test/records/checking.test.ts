import type { StoreGap, Verdict } from 'jestril';
import {
  checkStore,
  collection,
  day,
  exact,
  exactly,
  flag,
  intake,
  known,
  maybe,
  noOverlap,
  refusalOf,
  rule,
  text,
  unique,
  whole,
} from 'jestril';
import type { SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { blamesOf } from '../support/judging.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// What checkStore says is so: what it offers closes the gap, and then the database refuses what the rule does.

const owners = collection(
  'owners',
  { house: whole, id: whole, email: text, limit: exact, gone: flag },
  { key: ['house', 'id'], scope: 'house' },
);
const stays = collection(
  'stays',
  { house: whole, id: whole, berth: text, owner: whole, from: day, to: maybe(day), gone: flag },
  { key: ['house', 'id'], scope: 'house', only: { gone: exactly(false) } },
);
const withinLimit = rule(
  'test/within-limit',
  { owner: whole },
  { looksUp: { row: owners.one({ id: 'owner' }, ['limit']) }, holds: (_read, { row }) => row.limit !== '0', message: 'x', blames: 'owner' },
);
const stay = intake(
  'stay',
  { berth: text('Berth'), owner: whole('Owner'), from: day('From'), to: day('To').orAbsent() },
  {
    storedIn: stays,
    rules: [
      known(owners, { id: 'owner' }),
      withinLimit({ owner: 'owner' }),
      noOverlap(stays, { berth: 'berth', from: 'from', to: 'to' }, { interval: ['from', 'to'] }),
      unique(stays, { owner: 'owner', from: 'from' }, { constraint: 'one_a_day' }),
    ],
  },
);

describeStores((open, name) => {
  let store: TestStore;
  let records: SqlRecords;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
  });
  afterAll(() => store.close());
  const run = (...statements: string[]) =>
    statements.reduce<Promise<unknown>>((before, each) => before.then(() => sql.raw(each).execute(store.db)), Promise.resolve());
  const quote = (text: string) => (name === 'MariaDB' ? text.replaceAll('"', '`') : text);

  test('every statement closes its gap, and the database then refuses what the rules do', async () => {
    await run(
      quote(
        'create table owners (house int not null, id int not null, email varchar(80), "limit" numeric(10, 2), gone boolean not null, primary key (house, id))',
      ),
      quote(`create table stays (house int not null, id int not null, berth varchar(10), owner int, "from" date, "to" date, gone boolean not null, primary key (house, id)
        ${name === 'SQLite' ? ', foreign key (house, owner) references owners' : ''})`),
    );
    if (name === 'SQLite') await run('pragma foreign_keys = off');
    const gapsOf = async () =>
      (await checkStore(records, [stay])).map((gap) => ({ ...gap, told: `${gap.lacks} ${gap.collection} ${gap.columns.join()}` }));
    const gaps = await gapsOf();
    expect(gaps.map(({ told, statement }) => [told, statement !== undefined])).toEqual([
      ...(name === 'SQLite'
        ? [
            ['unique stays owner,from,house', true],
            ['reference stays ', true],
            ['overlap stays berth,house,from,to', false],
            ['presence owners limit', false],
          ]
        : []),
      ...(name === 'PostgreSQL'
        ? [
            ['unique stays owner,from,house', true],
            ['reference stays owner', true],
            ['overlap stays berth,house,from,to', true],
            ['presence owners limit', true],
          ]
        : []),
      ...(name === 'MariaDB'
        ? [
            ['unique stays owner,from,house', true],
            ['reference stays owner', true],
            ['overlap stays berth,house,from,to', false],
            ['presence owners limit', false],
          ]
        : []),
    ]);
    for (const { statement } of gaps) if (statement !== undefined) await run(statement);
    expect((await gapsOf()).map(({ told }) => told)).toEqual(
      gaps.filter(({ statement }) => statement === undefined).map(({ told }) => told),
    );

    await store.db
      .insertInto('owners')
      .values({ house: 1, id: 1, email: 'a', limit: '5.00', gone: name === 'SQLite' ? 0 : false })
      .execute();
    let id = 0;
    const insert = (row: object) =>
      store.db
        .insertInto('stays')
        .values({
          house: 1,
          id: id++,
          berth: 'A1',
          owner: 1,
          from: '2031-05-01',
          to: '2031-05-03',
          gone: name === 'SQLite' ? 0 : false,
          ...row,
        })
        .execute();
    const refused = async (row: object) => {
      const error = await insert(row).then(
        () => undefined,
        (reason: unknown) => reason,
      );
      const verdict = error && refusalOf(stay, error, { records: records.within({ house: 1 }) });
      return verdict
        ? blamesOf(verdict as Verdict<unknown>).map((blame) => blame.split(' ')[0])
        : error === undefined
          ? 'stored'
          : 'not explained';
    };
    expect(await refused({})).toBe('stored');
    // SQLite names no columns of a foreign key: the rules look again there.
    expect(await refused({ owner: 2, from: '2031-07-01', to: null })).toEqual(name === 'SQLite' ? 'not explained' : ['known']);
    expect(await refused({ berth: 'B1' })).toEqual(['unique']);
    expect(await refused({ from: '2031-05-02', to: null })).toEqual(name === 'PostgreSQL' ? ['no-overlap'] : 'stored');
    expect(await refused({ from: '2031-05-01', gone: name === 'SQLite' ? 1 : true })).toBe('stored');
  });

  test('another type is told, and what is compared otherwise than its kind decides nothing', async () => {
    const isMissing = name === 'SQLite' ? 'text' : 'varchar(20)';
    await run(
      `create table odd (id int primary key, number ${isMissing} not null, mark int not null, price ${name === 'SQLite' ? 'text' : 'double precision'} not null)`,
      "insert into odd values (1, 'x', 0, 0.5)",
    );
    const odd = collection('odd', { id: whole, number: whole, mark: text, price: exact }, { key: 'id' });
    const form = (column: 'number' | 'mark' | 'price', field: object) =>
      intake('form', { value: field as never }, { rules: [known(odd, { [column]: 'value' } as never)] });
    const all = [form('number', whole('Number')), form('mark', text('Mark')), form('price', exact('Price'))];
    const types = (await checkStore(records, all)).filter(({ lacks }) => lacks === 'type');
    // SQLite keeps a text in a column of numbers, too.
    expect(types.map(({ columns }) => columns[0])).toEqual(name === 'SQLite' ? ['number', 'price'] : ['number', 'mark', 'price']);
    const values = [0, 'y', '0.5'];
    const outcomes = await Promise.all(
      all.map(async (each, at) => (await each.judge({ value: values[at] }, { records } as never)).outcome),
    );
    expect(outcomes).toEqual(
      {
        SQLite: ['undecided', 'rejected', 'undecided'],
        MariaDB: ['undecided', 'undecided', 'undecided'],
        PostgreSQL: ['undecided', 'rejected', 'accepted'],
      }[name],
    );
  });

  test('a view, and a table whose rows are kept apart, get a sentence and no statement', async () => {
    await run('create table beneath (id int, mark varchar(10))', 'create view above_it as select * from beneath');
    const seen = collection('above_it', { id: whole, mark: maybe(text) }, { key: 'id' });
    const form = intake('form', { mark: text('Mark') }, { rules: [unique(seen, { mark: 'mark' }, { constraint: 'u' })] });
    const [gap, ...others] = (await checkStore(records, [form])) as [StoreGap, ...StoreGap[]];
    expect([gap.lacks, gap.statement, others]).toEqual(['unique', undefined, []]);
    expect(gap.message).toContain('It is a view');
    if (name === 'SQLite') return;
    await run(
      name === 'PostgreSQL'
        ? 'create table parted (id int, mark varchar(10), year int not null) partition by list (year)'
        : 'create table parted (id int, mark varchar(10), year int not null) partition by list (year) (partition p31 values in (2031))',
      ...(name === 'PostgreSQL' ? ['create table parted_31 partition of parted for values in (2031)'] : []),
    );
    const parted = collection('parted', { id: whole, mark: maybe(text), year: whole }, { key: 'id' });
    const inParts = (rules: readonly unknown[]) =>
      intake('form', { mark: text('Mark'), year: whole('Year') }, { storedIn: parted, rules: rules as never });
    const [apart] = (await checkStore(records, [inParts([unique(parted, { mark: 'mark' as never }, { constraint: 'u' })])])) as [StoreGap];
    expect([apart.statement, apart.message.includes('kept apart by "year"')]).toEqual([undefined, true]);
    const whole_ = inParts([
      unique(parted, { mark: 'mark' as never, year: 'year' as never }, name === 'MariaDB' ? { constraint: 'parted_mark' } : {}),
    ]);
    await run('create unique index parted_mark on parted (mark, year)', "insert into parted values (1, 'x', 2031)");
    expect(await checkStore(records, [whole_])).toEqual([]);
    // The database tells the name of the part.
    expect((await whole_.judge({ mark: 'y', year: 2031 }, { records } as never)).outcome).toBe('accepted');
    const error = await sql`insert into parted values (2, 'x', 2031)`.execute(store.db).catch((reason: unknown) => reason);
    expect(blamesOf(refusalOf(whole_, error, { records }) as Verdict<unknown>)).toEqual(['unique /mark /year']);
  });

  test('a constraint that a rule names stands for it, whichever table it is one of', async () => {
    await run('create table nights (id int primary key, berth varchar(4) not null, begins date not null, ends date)');
    const nights = collection('nights', { id: whole, berth: text, begins: day, ends: maybe(day) }, { key: 'id' });
    const gaps = async (use: object) =>
      (
        await checkStore(records, [
          intake(
            'night',
            { berth: text('Berth'), begins: day('Begins'), ends: day('Ends').orAbsent() },
            { rules: [noOverlap(nights, { berth: 'berth', begins: 'begins', ends: 'ends' }, { interval: ['begins', 'ends'], ...use })] },
          ),
        ])
      ).map(({ lacks }) => lacks);
    expect([await gaps({}), await gaps({ constraint: 'one_a_night' })]).toEqual([['overlap'], []]);
  });

  test('a table and columns that are not there are told', async () => {
    await run('create table few (id int primary key)');
    const piers = collection('piers', { code: text }, { key: 'code' });
    const few = collection('few', { id: whole, nick: text }, { key: 'id' });
    const form = intake('form', { nick: text('Nick') }, { rules: [unique(few, { nick: 'nick' }), known(piers, { code: 'nick' })] });
    const gaps = await checkStore(records, [form]);
    expect(gaps.map(({ lacks, collection: where, columns }) => [lacks, where, ...columns])).toEqual([
      ['column', 'few', 'nick'],
      ['collection', 'piers'],
    ]);
  });

  test('a column of fixed length lets go of blanks at its end, and so do the keys that it is compared with', async () => {
    if (name !== 'MariaDB') return;
    await run(
      'create table fixed (id int auto_increment primary key, mark char(10) collate utf8mb4_nopad_bin unique)',
      "insert into fixed (mark) values ('A1')",
    );
    const fixed = collection('fixed', { id: whole, mark: text }, { key: 'id' });
    const form = intake('form', { mark: text('Mark') }, { rules: [unique(fixed, { mark: 'mark' })] });
    const outcomes = await Promise.all(['A1', 'A1 ', ' A1', 'a1'].map(async (mark) => (await form.judge({ mark }, { records })).outcome));
    expect(outcomes).toEqual(['rejected', 'rejected', 'accepted', 'accepted']);
  });

  test('an index in another collation than the column is not enough', async () => {
    if (name === 'MariaDB') return;
    await run(
      ...(name === 'PostgreSQL'
        ? [
            "create collation folding (provider = icu, locale = 'und-u-ks-level2', deterministic = false)",
            'create table folded (id int, mark text collate folding)',
            'create unique index folded_mark on folded (mark collate "C")',
          ]
        : ['create table folded (id int, mark text collate nocase)', 'create unique index folded_mark on folded (mark collate binary)']),
    );
    const folded = collection('folded', { id: whole, mark: text }, { key: 'id' });
    const form = intake('form', { mark: text('Mark') }, { rules: [unique(folded, { mark: 'mark' })] });
    const [gap, ...others] = (await checkStore(records, [form])) as [StoreGap, ...StoreGap[]];
    expect([gap.lacks, others]).toEqual(['unique', []]);
    await run('drop index folded_mark', gap.statement as string);
    expect(await checkStore(records, [form])).toEqual([]);
    await run("insert into folded values (1, 'Gale')");
    await expect(run("insert into folded values (2, 'GALE')")).rejects.toThrow();
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
    expect(blamesOf(refusalOf(note, error, { records }) as Verdict<unknown>)).toEqual(['unique /title']);
  });

  const [mark, only] = [['mark'], { gone: exactly(false), marina: exactly("it's") }];
  const byHand: readonly [made: string, isEnough: boolean][] =
    name === 'MariaDB'
      ? [
          // More than the rule compares.
          ['alter table k add unique key u (mark)', false],
          ['alter table k add column w int as (case when gone = 0 then 1 end), add unique key u (mark, w)', true],
          ["alter table k add column w int as (case when gone = 0 and marina = 'it''s' then 1 end), add unique key u (mark, w)", true],
          ['alter table k add column w int as (case when gone = 1 then 1 end), add unique key u (mark, w)', false],
          ['alter table k add column w int as (case when gone = 0 and berth = 1 then 1 end), add unique key u (mark, w)', false],
          ['alter table k add unique key u (mark, gone)', false],
        ]
      : [
          // More than the rule compares.
          ['create unique index u on k (mark)', false],
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
