import {
  type BoundRule,
  checkStore,
  collection,
  day,
  exact,
  type Fields,
  intake,
  known,
  moment,
  noOverlap,
  places,
  text,
  unique,
  whole,
} from 'jestril';
import { sql } from 'kysely';
import { describeStores, type TestStore } from '../support/stores.ts';

// Tables that keep less, or refuse more, than rules say, each planted by hand: checkStore tells it, and nothing of a table without.

const rows = collection(
  'planted',
  { house: text, id: whole, mark: text, price: exact, at: moment, from: day, to: day, owner: whole },
  { key: ['house', 'id'], scope: 'house' },
);
const owners = collection('planted_owners', { id: whole }, { key: 'id' });
const ofMark = unique(rows, { mark: 'mark' } as never, { constraint: 'one_mark' });
const ofMarkFolded = unique(rows, { mark: 'mark' } as never, { constraint: 'one_mark', ignoringCase: ['mark'] });
const free = (touching?: 'refused') =>
  noOverlap(rows, { mark: 'mark', from: 'from', to: 'to' } as never, { interval: ['from', 'to'], ...(touching && { touching }) });
const ofOwner = known(owners, { id: 'owner' } as never);

type Planted = readonly [what: string, statements: readonly string[], rules: readonly unknown[], lacks: readonly string[]];

const KEY = 'create unique index one_mark on planted (house, mark)';
const EXCLUDE = (bounds: string) =>
  `create extension if not exists btree_gist; alter table planted add constraint free exclude using gist (house with =, mark with =, daterange("from", "to"${bounds}) with &&)`;
const TRIGGER = `create function lowered() returns trigger language plpgsql as $$ begin if new.id = 1 then new.mark := lower(new.mark); end if; return new; end $$;
  create trigger lowered before insert on planted for each row execute function lowered()`;

const PLANTED: { readonly [name: string]: readonly Planted[] } = {
  SQLite: [
    ['nothing amiss', [KEY], [ofMark], []],
    ['a key without the scope', [KEY, 'create unique index of_all on planted (mark)'], [ofMark], ['scope']],
    [
      'a key of the scope without case',
      ['alter table planted rename column house to h', 'alter table planted add column house text collate nocase'],
      [],
      ['scope'],
    ],
  ],
  PostgreSQL: [
    ['nothing amiss', [KEY, EXCLUDE('')], [ofMark, free()], []],
    ['a key without the scope alone', ['create unique index of_all on planted (mark)'], [ofMark], ['scope']],
    [
      'whose a row is, in any case',
      ['create extension if not exists citext', 'alter table planted alter column house type citext'],
      [],
      ['scope'],
    ],
    ['a price without places', ['alter table planted alter column price type numeric(10,0)'], [], ['precision']],
    ['a price of fewer places', ['alter table planted alter column price type numeric(10,1)'], [], ['precision']],
    ['a moment of whole seconds', ['alter table planted alter column at type timestamptz(0)'], [], ['precision']],
    ['intervals that may touch, where the rule says no', [EXCLUDE('')], [free('refused')], ['overlap']],
    ['intervals that may not touch, where the rule says yes', [EXCLUDE(", '[]'")], [free()], ['overlap']],
    ['intervals that may not touch', [EXCLUDE(", '[]'")], [free('refused')], []],
    ['a table that others inherit', [KEY, 'create table planted_more () inherits (planted)'], [ofMark], ['unique']],
    ['a reference that is kept', ['alter table planted add foreign key (owner) references planted_owners'], [ofOwner], []],
    [
      'triggers that are switched off',
      ['alter table planted add foreign key (owner) references planted_owners', 'alter table planted disable trigger all'],
      [ofOwner],
      ['reference'],
    ],
    ['a trigger that rewrites', [KEY, TRIGGER], [ofMark], ['trigger']],
    ['a trigger that is switched off', [KEY, TRIGGER, 'alter table planted disable trigger lowered'], [ofMark], []],
  ],
  MariaDB: [
    ['nothing amiss', [KEY], [ofMark], []],
    ['a key without the scope alone', ['create unique index one_mark on planted (mark)'], [ofMark], ['scope']],
    ['the beginning of a text', ['create unique index one_mark on planted (house, mark(3))'], [ofMark], ['unique']],
    ['whose a row is, in any case', ['alter table planted modify house varchar(20) collate utf8mb4_general_ci not null'], [], ['scope']],
    ['a price without places', ['alter table planted modify price decimal(10,0)'], [], ['precision']],
    ['a moment of whole seconds', ['alter table planted modify at datetime'], [], ['precision']],
    ['an engine without transactions', ['alter table planted engine = MyISAM'], [], ['engine']],
    [
      'a trigger that rewrites',
      [KEY, 'create trigger lowered before insert on planted for each row set new.mark = lower(new.mark)'],
      [ofMark],
      ['trigger'],
    ],
    [
      'a key in any case, of a column that tells them apart',
      ['alter table planted modify mark varchar(20) collate utf8mb4_bin'],
      [ofMarkFolded],
      ['unique'],
    ],
  ],
};

describeStores((open, name) => {
  let store: TestStore;
  beforeAll(async () => {
    store = await open();
  });
  afterAll(() => store.close());

  test.each(PLANTED[name] as readonly Planted[])('%s', async (_what, statements, rules, lacks) => {
    const { db } = store;
    for (const table of ['planted_more', 'planted', 'planted_owners']) await sql.raw(`drop table if exists ${table}`).execute(db);
    if (name === 'PostgreSQL') await sql.raw('drop function if exists lowered cascade').execute(db);
    const [from, to] = name === 'MariaDB' ? ['`from`', '`to`'] : ['"from"', '"to"'];
    const [at, house, price] = {
      SQLite: ['text', 'text', 'numeric'],
      PostgreSQL: ['timestamptz(3)', 'text', 'numeric(10,2)'],
      MariaDB: ['datetime(3)', 'varchar(20) collate utf8mb4_bin', 'decimal(10,2)'],
    }[name] as [string, string, string];
    await sql.raw('create table planted_owners (id int primary key)').execute(db);
    const columns = `house ${house} not null, id int not null, mark varchar(20) not null, price ${price}, at ${at}, ${from} date not null, ${to} date not null, owner int`;
    await sql.raw(`create table planted (${columns})`).execute(db);
    for (const statement of statements)
      for (const part of statement.startsWith('create ext') ? statement.split('; ') : [statement]) await sql.raw(part).execute(db);
    const fields = {
      mark: text('Mark'),
      price: exact('Price', places(2)).orAbsent(),
      at: moment('At').orAbsent(),
      from: day('From'),
      to: day('To'),
      owner: whole('Owner').orAbsent(),
    };
    const form = intake('form', fields, { storedIn: rows, rules: rules as BoundRule<Fields>[] as never });
    const records = store.records(db);
    const gaps = (await checkStore(records, [form])).filter(({ lacks: each }) => each !== 'presence');
    expect(gaps.map((gap) => gap.lacks)).toEqual(lacks);
    // What is offered closes the gap.
    for (const { statement } of gaps) if (statement !== undefined) await sql.raw(statement).execute(db);
    const left = (await checkStore(records, [form])).filter(({ lacks: each }) => each !== 'presence');
    expect(left.map(({ message }) => message)).toEqual(
      gaps.filter(({ statement }) => statement === undefined).map(({ message }) => message),
    );
    if (lacks.includes('engine')) {
      const verdict = await records
        .within({ house: 'a' })
        .serially((inside) =>
          intake('counted', fields, { storedIn: rows, rules: [ofMark] as never }).judge(
            { mark: 'x', from: '2031-05-01', to: '2031-05-02' },
            { records: inside } as never,
          ),
        );
      expect(verdict).toMatchObject({ outcome: 'undecided' });
      expect(String(verdict.outcome === 'undecided' && verdict.unsettled[0]?.cause)).toContain('knows no transactions');
    }
  });
});
