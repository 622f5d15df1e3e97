import type { Answer, Question, Records } from 'jestril';
import { collection, day, decimal, exact, exactly, flag, intake, known, maybe, moment, rule, text, unique, whole } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { sql } from 'kysely';
import { blamesOf } from '../support/judging.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

const rows = [
  { code: 'A1', maxLength: 12, price: '38.50', pier: 'north', open: true, since: '2031-05-01', seen: '2031-05-01T09:30:00.250Z' },
  { code: 'A2', maxLength: 15, price: '40.00', pier: 'north', open: false, since: '2030-12-31', seen: '2031-01-01T00:00:00.000Z' },
  { code: "b'; drop table berths; --", maxLength: 9, price: '12.00', pier: null, open: true, since: '2031-02-28', seen: null },
];

// The table and a column have other names than the collection, and awkward ones.
const tables = { berths: { table: 'ber"th`s', columns: { maxLength: 'max "length' } } };
const storedAs: Question['storedAs'] = {
  code: 'text',
  maxLength: 'real',
  price: 'numeric',
  pier: 'text',
  open: 'boolean',
  since: 'date',
  seen: 'timestamp',
};
const signal = new AbortController().signal;

async function fill({ db, address }: TestStore): Promise<void> {
  const isSqlite = !address.includes('://');
  const isMariadb = address.startsWith('mysql');
  await db.schema
    .createTable('ber"th`s')
    .addColumn('code', 'varchar(40)', (column) => column.primaryKey())
    .addColumn('max "length', 'double precision')
    .addColumn('price', 'numeric(10, 2)')
    .addColumn('pier', 'varchar(10)')
    .addColumn('open', 'boolean')
    .addColumn('since', isSqlite ? 'text' : 'date')
    .addColumn('seen', isSqlite ? 'text' : isMariadb ? 'datetime(3)' : 'timestamptz')
    .execute();
  for (const { maxLength, open, seen, ...row } of rows) {
    const moment = isMariadb && seen ? seen.replace('T', ' ').replace('Z', '') : seen;
    await db
      .insertInto('ber"th`s')
      .values({ ...row, 'max "length': maxLength, open: isSqlite ? Number(open) : open, seen: moment })
      .execute();
  }
}

type Terms = [string, Question['terms'][number]['is']][];
const ask = (terms: Terms, keys: Question['keys'], more: Partial<Question> = {}): Question => ({
  collection: 'berths',
  terms: terms.map(([column, is]) => ({ column, is })),
  columns: [],
  want: 'exists',
  keys,
  storedAs,
  ...more,
});
const many = Array.from({ length: 2500 }, (_, index) => [index % 500 === 0 ? 'A1' : `none ${index}`]);

const table: [what: string, question: Question, answer: Answer][] = [
  [
    'rows by equality, one answer a key',
    ask([['code', 'equal']], [['A2'], ['x'], ['A1']], { want: 'rows', columns: ['maxLength', 'pier'], most: 2 }),
    [[{ maxLength: 15, pier: 'north' }], [], [{ maxLength: 12, pier: 'north' }]],
  ],
  [
    'text is only ever text',
    ask([['code', 'equal']], [["b'; drop table berths; --"], ['a" or 1=1'], ['A1\0'], ['⛵'], ['{A1}'], ['A1\\'], ['x'.repeat(5000)]]),
    [1, 0, 0, 0, 0, 0, 0],
  ],
  ['ignoring case', ask([['code', 'ignoringCase']], [['a1'], ['a9']]), [1, 0]],
  ['above', ask([['maxLength', 'above']], [[12], [8]], { want: 'count' }), [1, 3]],
  ['below', ask([['maxLength', 'below']], [[12], [9]], { want: 'count' }), [1, 0]],
  ['not above', ask([['maxLength', 'notAbove']], [[12]], { want: 'count' }), [2]],
  ['not below', ask([['maxLength', 'notBelow']], [[12]], { want: 'count' }), [2]],
  ['a flag', ask([['open', 'equal']], [[true], [false]], { want: 'count' }), [2, 1]],
  ['a day', ask([['since', 'above']], [['2031-02-28'], ['2029-01-01']], { want: 'count' }), [1, 3]],
  ['a day that is equal', ask([['since', 'equal']], [['2031-05-01'], ['2031-05-02']]), [1, 0]],
  ['a moment', ask([['seen', 'notAbove']], [['2031-05-01T09:30:00.250Z'], ['2031-05-01T09:30:00.249Z']], { want: 'count' }), [2, 1]],
  [
    'what holds nothing',
    ask(
      [
        ['pier', 'missing'],
        ['maxLength', 'below'],
      ],
      [
        [true, 10],
        [true, 9],
      ],
    ),
    [1, 0],
  ],
  ['nothing but that', ask([['pier', 'missing']], [[true]], { want: 'count' }), [1]],
  [
    'several terms',
    ask(
      [
        ['pier', 'equal'],
        ['maxLength', 'above'],
        ['code', 'otherThan'],
      ],
      [
        ['north', 11, 'A1'],
        ['north', 13, 'A2'],
      ],
      { want: 'count' },
    ),
    [1, 0],
  ],
  [
    'nothing equals a missing value, and it is other than any',
    ask([['pier', 'otherThan']], [['north']], { want: 'rows', columns: ['maxLength'], most: 9 }),
    [[{ maxLength: 9 }]],
  ],
  ['so many rows at most', ask([['maxLength', 'above']], [[10]], { want: 'rows', columns: ['pier'], most: 1 }), [[{ pier: 'north' }]]],
  ['thousands of keys', ask([['code', 'equal']], many), many.map((_, index) => (index % 500 === 0 ? 1 : 0))],
];

function answers(records: () => Records): void {
  test.each(table)('%s', async (_what, question, answer) => {
    expect(await records().ask([question], signal)).toEqual([answer]);
  });

  test('several questions at once, answered in order', async () => {
    const questions = [ask([['code', 'equal']], [['A1']]), ask([['code', 'equal']], [['x']])];
    expect(await records().ask(questions, signal)).toEqual([[1], [0]]);
  });

  test('a collection that is not there has an error for its answer, and the others theirs', async () => {
    const asked = ask([['code', 'equal']], [['A1']]);
    const answer = await records().ask([{ ...asked, collection: 'piers' }, asked], signal);
    expect(answer).toEqual([expect.objectContaining({ message: expect.stringMatching(/piers/) }), [1]]);
  });
}

describe('memory', () => answers(() => memoryRecords({ berths: rows })));

describeStores((open, name) => {
  let store: TestStore;
  let records: Records;
  beforeAll(async () => {
    store = await open();
    await fill(store);
    records = store.records(store.db, { tables });
  });
  afterAll(() => store.close());

  answers(() => records);

  test('columns are read by their kinds: exact numbers, days, moments, flags', async () => {
    const berths = collection(
      'berths',
      { code: text, price: exact, open: flag, since: day, seen: maybe(moment), maxLength: decimal },
      { key: 'code' },
    );
    const seen: unknown[] = [];
    const watch = rule(
      'test/watch',
      { code: text },
      {
        looksUp: { found: berths.one({ code: 'code' }, ['price', 'open', 'since', 'seen', 'maxLength']) },
        holds: (_read, { found }) => seen.push(found) > 0,
        message: 'x',
        blames: 'code',
      },
    );
    const form = intake('form', { code: text('Code') }, { rules: [watch({ code: 'code' })] });
    for (const { code } of rows) expect((await form.judge({ code }, { records })).outcome).toBe('accepted');
    // What a column is written with it keeps; SQLite has no places.
    const [first, second, third] = name === 'SQLite' ? ['38.5', '40', '12'] : ['38.50', '40.00', '12.00'];
    expect(seen).toEqual([
      { price: first, open: true, since: '2031-05-01', seen: '2031-05-01T09:30:00.250Z', maxLength: 12 },
      { price: second, open: false, since: '2030-12-31', seen: '2031-01-01T00:00:00.000Z', maxLength: 15 },
      { price: third, open: true, since: '2031-02-28', maxLength: 9 },
    ]);
  });

  test('in a transaction of the application', async () => {
    const berths = collection('berths', { code: text, maxLength: decimal }, { key: 'code' });
    const fields = { code: text('Code'), like: text('Like') };
    const form = intake('form', fields, { rules: [unique(berths, { code: 'code' }), known(berths, { code: 'like' })] });
    const submission = { code: 'C1', like: 'C1' };
    await store.db
      .transaction()
      .execute(async (transaction) => {
        await transaction.insertInto('ber"th`s').values({ code: 'C1', 'max "length': 5 }).execute();
        const inside = store.records(store.db, { tables }).in(transaction);
        expect(blamesOf(await form.judge(submission, { records: inside }))).toEqual(['unique /code']);
        throw new Error('roll back');
      })
      .catch((error) => expect(error.message).toBe('roll back'));
    expect((await form.judge({ code: 'C1', like: 'A1' }, { records })).outcome).toBe('accepted');
    expect(await form.judge(submission, { records: store.records(store.db) })).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ why: 'unavailable' }, { why: 'unavailable' }],
    });
  });

  test('rows marked as deleted are not there, and nothing is equal to nothing', async () => {
    const berths = collection('berths', { code: text, pier: maybe(text), open: flag }, { key: 'code', only: { open: exactly(true) } });
    const form = intake(
      'form',
      { code: text('Code'), pier: text('Pier').orAbsent() },
      { rules: [unique(berths, { code: 'code' }), unique(berths, { pier: 'pier' }, { only: { code: exactly(rows[2]?.code ?? '') } })] },
    );
    expect(blamesOf(await form.judge({ code: 'A1' }, { records }))).toEqual(['unique /code']);
    expect(blamesOf(await form.judge({ code: 'A2', pier: 'north' }, { records }))).toEqual([]);
  });

  if (name === 'PostgreSQL') {
    test('a key that is no value of its column is equal to none, and does not stop the others', async () => {
      await sql`create domain title as text check (value <> 'x')`.execute(store.db);
      await sql`create table tags (id uuid primary key, level int, title title default 'y')`.execute(store.db);
      const id = 'f81d4fae-7dec-11d0-a765-00a0c91e6bf6';
      await sql`insert into tags (id, level) values (${id}, 3)`.execute(store.db);
      const question = {
        ...ask([['id', 'equal']], [['nonsense'], [id.toUpperCase()], ["'"], ['']]),
        collection: 'tags',
        storedAs: { id: 'text' as const },
      };
      expect(await records.ask([question], signal)).toEqual([[0, 1, 0, 0]]);
      const large = { ...ask([['level', 'equal']], [[2 ** 40], [3]]), collection: 'tags', storedAs: { level: 'integer' as const } };
      expect(await records.ask([large], signal)).toEqual([[0, 1]]);
      const title = { ...ask([['title', 'equal']], [['x'], ['y']]), collection: 'tags', storedAs: { title: 'text' as const } };
      expect(await records.ask([title], signal)).toEqual([[0, 1]]);
    });
  }
});

describeStores((open, name) => {
  if (name === 'SQLite') return;
  test('the collation of the column decides which texts are equal, and a schema may stand before the table', async () => {
    const store = await open();
    try {
      const { db } = store;
      const isMariadb = name === 'MariaDB';
      if (!isMariadb) await sql`create collation folding (provider = icu, locale = 'und-u-ks-level1', deterministic = false)`.execute(db);
      const folding = isMariadb ? sql`collate utf8mb4_unicode_ci` : sql`collate folding`;
      const strict = isMariadb ? sql`collate utf8mb4_bin` : sql``;
      await sql`create table names (id int primary key, folding varchar(20) ${folding} unique, strict varchar(20) ${strict} unique)`.execute(
        db,
      );
      await sql`insert into names values (1, 'Zoë', 'Zoë'), (2, null, null), (3, null, null)`.execute(db);
      const schema = isMariadb ? sql`select database() as name` : sql`select current_schema() as name`;
      const [{ name: where }] = (await schema.execute(db)).rows as [{ name: string }];
      const names = collection('names', { id: whole, folding: maybe(text), strict: maybe(text) }, { key: 'id' });
      const form = intake(
        'form',
        { folding: text('Folding').orAbsent(), strict: text('Strict').orAbsent() },
        { rules: [unique(names, { folding: 'folding' }), unique(names, { strict: 'strict' })] },
      );
      const records = store.records(db, { tables: { names: { table: `${where}.names` } } });
      expect(blamesOf(await form.judge({ folding: 'ZOE', strict: 'ZOE' }, { records }))).toEqual(['unique /folding']);
      expect(blamesOf(await form.judge({ folding: 'Zo', strict: 'Zoë' }, { records }))).toEqual(['unique /strict']);
      expect((await form.judge({}, { records })).outcome).toBe('accepted');
    } finally {
      await store.close();
    }
  });
});
