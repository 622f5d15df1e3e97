import type { Answer, Question } from 'jestril';
import { collection, decimal, intake, known, text, unique } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { sqliteRecords } from 'jestril/sql';
import { Kysely, SqliteDialect } from 'kysely';
import Database from 'libsql';
import { blamesOf } from '../support/judging.ts';

const rows = [
  { code: 'A1', maxLength: 12, price: 38.5, pier: 'north' },
  { code: 'A2', maxLength: 15, price: 40, pier: 'north' },
  { code: "b'; drop table berths; --", maxLength: 9, price: 12, pier: null },
];

// The table and a column have other names than the collection, and awkward ones.
function sqlite() {
  const database = new Database(':memory:');
  database.exec('create table "ber""ths" (code text primary key, max_length real, price numeric, pier text)');
  for (const { code, maxLength, price, pier } of rows)
    database.prepare('insert into "ber""ths" values (?, ?, ?, ?)').run(code, maxLength, price, pier);
  // biome-ignore lint/suspicious/noExplicitAny: tables of a test
  return new Kysely<any>({ dialect: new SqliteDialect({ database: database as never }) });
}
const tables = { berths: { table: 'ber"ths', columns: { maxLength: 'max_length' } } };

const db = sqlite();
afterAll(() => db.destroy());
const adapters = { memory: memoryRecords({ berths: rows }), SQLite: sqliteRecords(db, { tables }) };
const signal = new AbortController().signal;

const ask = (terms: [string, Question['terms'][number]['is']][], keys: Question['keys'], more: Partial<Question> = {}): Question => ({
  collection: 'berths',
  terms: terms.map(([column, is]) => ({ column, is })),
  columns: [],
  want: 'exists',
  keys,
  ...more,
});
const many = Array.from({ length: 2500 }, (_, index) => [index % 500 === 0 ? 'A1' : `none ${index}`]);

const table: [what: string, question: Question, answer: Answer][] = [
  [
    'rows by equality, one answer a key',
    ask([['code', 'equal']], [['A2'], ['x'], ['A1']], { want: 'rows', columns: ['maxLength', 'price'], most: 2 }),
    [[{ maxLength: 15, price: 40 }], [], [{ maxLength: 12, price: 38.5 }]],
  ],
  ['text is only ever text', ask([['code', 'equal']], [["b'; drop table berths; --"], ['a" or 1=1'], ['A1\0'], ['⛵']]), [1, 0, 0, 0]],
  ['case counts', ask([['code', 'equal']], [['a1']]), [0]],
  ['ignoring case', ask([['code', 'ignoringCase']], [['a1'], ['a9']]), [1, 0]],
  ['above', ask([['maxLength', 'above']], [[12], [8]], { want: 'count' }), [1, 3]],
  ['below', ask([['maxLength', 'below']], [[12], [9]], { want: 'count' }), [1, 0]],
  ['not above', ask([['maxLength', 'notAbove']], [[12]], { want: 'count' }), [2]],
  ['not below', ask([['maxLength', 'notBelow']], [[12]], { want: 'count' }), [2]],
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
    ask([['pier', 'otherThan']], [['north']], { want: 'rows', columns: ['price'], most: 9 }),
    [[{ price: 12 }]],
  ],
  [
    'so many rows at most',
    ask([['price', 'above']], [[0]], { want: 'rows', columns: ['code'], most: 2 }),
    [[{ code: 'A1' }, { code: 'A2' }]],
  ],
  ['thousands of keys', ask([['code', 'equal']], many), many.map((_, index) => (index % 500 === 0 ? 1 : 0))],
];

describe.each(Object.entries(adapters))('%s', (_name, records) => {
  test.each(table)('%s', async (_what, question, answer) => {
    expect(await records.ask([question], signal)).toEqual([answer]);
  });

  test('several questions at once, answered in order', async () => {
    expect(await records.ask([ask([['code', 'equal']], [['A1']]), ask([['code', 'equal']], [['x']])], signal)).toEqual([[1], [0]]);
  });

  test('a collection that is not there is refused', async () => {
    await expect(records.ask([{ ...ask([['code', 'equal']], [['A1']]), collection: 'piers' }], signal)).rejects.toThrow(/piers/);
  });
});

test('in a transaction of the application, and what the store cannot do is left undecided', async () => {
  const berths = collection('berths', { code: text, maxLength: decimal }, { key: 'code' });
  const form = intake(
    'form',
    { code: text('Code'), like: text('Like') },
    { rules: [unique(berths, { code: 'code' }), known(berths, { code: 'like' })] },
  );
  await db
    .transaction()
    .execute(async (transaction) => {
      await transaction.insertInto('ber"ths').values({ code: 'C1', max_length: 5, price: 1 }).execute();
      expect(blamesOf(await form.judge({ code: 'C1', like: 'C1' }, { records: sqliteRecords(transaction, { tables }) }))).toEqual([
        'unique /code',
      ]);
      throw new Error('roll back');
    })
    .catch(() => undefined);
  expect((await form.judge({ code: 'C1', like: 'A1' }, { records: adapters.SQLite })).outcome).toBe('accepted');
  expect(await form.judge({ code: 'C1', like: 'A1' }, { records: sqliteRecords(db) })).toMatchObject({
    outcome: 'undecided',
    unsettled: [{ why: 'unavailable' }, { why: 'unavailable' }],
  });
});
