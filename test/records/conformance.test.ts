import type { Answer, Question, Records, StoredRow } from 'jestril';
import { describeRecords, type SampleTables } from 'jestril/jest';
import { memoryRecords } from 'jestril/memory';
import { sql } from 'kysely';
import type { StoreName } from '../support/connect.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

const inMemory = (tables: SampleTables): Records =>
  memoryRecords(Object.fromEntries(Object.entries(tables).map(([name, { rows }]) => [name, rows])));

describeRecords('memory', (tables) => ({ records: inMemory(tables) }));

const TYPES: { readonly [kind: string]: string | { readonly [name in StoreName]: string } } = {
  text: { SQLite: 'text', PostgreSQL: 'text', MariaDB: 'text' },
  whole: 'integer',
  decimal: 'double precision',
  exact: 'numeric(12, 3)',
  flag: 'boolean',
  day: { SQLite: 'text', PostgreSQL: 'date', MariaDB: 'date' },
  moment: { SQLite: 'text', PostgreSQL: 'timestamptz', MariaDB: 'datetime(3)' },
  'time-of-day': { SQLite: 'text', PostgreSQL: 'time', MariaDB: 'time' },
};

async function fill({ db }: TestStore, name: StoreName, tables: SampleTables): Promise<void> {
  const stored = (raw: unknown, kind: string | undefined) => {
    if (name === 'SQLite' && kind === 'flag') return Number(raw);
    return name === 'MariaDB' && kind === 'moment' && typeof raw === 'string' ? raw.replace('T', ' ').replace('Z', '') : raw;
  };
  for (const [table, { columns, rows }] of Object.entries(tables)) {
    const made = Object.entries(columns).map(([column, { kind }]) => {
      const type = TYPES[kind] as (typeof TYPES)[string];
      return sql`${sql.id(column)} ${sql.raw(typeof type === 'string' ? type : type[name])}${sql.raw(column === 'id' ? ' primary key' : '')}`;
    });
    await sql`create table ${sql.table(table)} (${sql.join(made)})`.execute(db);
    for (const row of rows)
      await db
        .insertInto(table)
        .values(Object.fromEntries(Object.entries(row).map(([column, raw]) => [column, stored(raw, columns[column]?.kind)])))
        .execute();
  }
}

describeStores((open, name) => {
  describeRecords('as it answers', async (tables) => {
    const store = await open();
    await fill(store, name, tables);
    return {
      records: store.records(store.db),
      insert: (table, row) => store.db.insertInto(table).values(row).execute(),
      close: store.close,
    };
  });
});

type Ask = (questions: readonly Question[]) => Promise<readonly Answer[]>;
const rowsIn = (answers: readonly Answer[], change: (rows: readonly StoredRow[], at: number) => readonly StoredRow[]): readonly Answer[] =>
  answers.map((answer) => answer.map((each, at) => (Array.isArray(each) ? change(each as readonly StoredRow[], at) : each)) as Answer);
const asking =
  (change: (question: Question) => Question) =>
  (ask: Ask): Ask =>
  (questions) =>
    ask(questions.map(change));
const answering =
  (change: (answers: readonly Answer[]) => readonly Answer[]) =>
  (ask: Ask): Ask =>
  async (questions) =>
    change(await ask(questions));
const terms = (change: (term: Question['terms'][number]) => object) =>
  asking((question) => ({ ...question, terms: question.terms.map((term) => ({ ...term, ...change(term) })) }));

const broken: { readonly [what: string]: (ask: Ask) => Ask } = {
  'the last answer is lost': answering((answers) => answers.map((answer) => answer.slice(0, -1) as Answer)),
  'answers are in another order': answering((answers) => answers.map((answer) => [...answer].reverse() as Answer)),
  'questions are answered in another order': answering((answers) => [...answers].reverse()),
  'only a thousand keys are answered': asking((question) => ({
    ...question,
    keys: question.keys.map((key, at) => (at < 1000 ? key : ['-'])),
  })),
  'one row more than `most`': asking((question) => (question.most === undefined ? question : { ...question, most: question.most + 1 })),
  'one row fewer than `most`': asking((question) => (question.most === undefined ? question : { ...question, most: question.most - 1 })),
  '`most` for all keys together': answering((answers) => {
    let left = 7;
    return rowsIn(answers, (rows) => (rows.length === 7 ? rows.slice(0, left--) : rows));
  }),
  'counts are texts': answering((answers) =>
    answers.map((answer) => answer.map((each) => (typeof each === 'number' ? `${each}` : each)) as never),
  ),
  '`count` is answered like `exists`': asking((question) => ({ ...question, want: question.want === 'count' ? 'exists' : question.want })),
  'notAbove is below': terms(({ is }) => ({ is: is === 'notAbove' ? 'below' : is })),
  'above is notBelow': terms(({ is }) => ({ is: is === 'above' ? 'notBelow' : is })),
  'case is never ignored': terms(({ is }) => ({ is: is === 'ignoringCase' ? 'equal' : is })),
  'what is missing is not looked for': terms(() => ({ orMissing: undefined })),
  'exact numbers are compared as texts': asking((question) => ({ ...question, storedAs: {} })),
  'only the first term counts': asking((question) => ({ ...question, terms: question.terms.slice(0, 1) })),
  'only the last term counts': asking((question) => ({
    ...question,
    terms: question.terms.slice(-1),
    keys: question.keys.map((key) => key.slice(-1)),
  })),
  'alternatives are not heeded': asking(({ either: _, ...question }) => question),
  'of a group every alternative has to hold': asking(({ either, ...question }) => ({
    ...question,
    ...(either && { either: either.flat().map((list) => [list]) }),
  })),
  'columns are compared with what is asked': terms(() => ({ than: undefined })),
  'rows come in any order': asking(({ order: _, ...question }) => question),
  'the highest comes last': asking(({ order, ...question }) => ({
    ...question,
    ...(order && { order: order.map(({ column }) => ({ column, from: 'lowest' as const })) }),
  })),
  'sums are rounded': answering((answers) =>
    answers.map((answer) => answer.map((each) => (typeof each === 'string' ? Math.round(Number(each)) : each)) as Answer),
  ),
  'sums go through floating-point numbers': answering((answers) =>
    answers.map((answer) => answer.map((each) => (each === '0.3' ? 0.1 + 0.2 : typeof each === 'string' ? Number(each) : each)) as Answer),
  ),
  'white space is trimmed': answering((answers) =>
    rowsIn(answers, (rows) => rows.map((row) => (typeof row.word === 'string' ? { ...row, word: row.word.trim() } : row))),
  ),
  'long texts are cut': answering((answers) =>
    rowsIn(answers, (rows) => rows.map((row) => (typeof row.word === 'string' ? { ...row, word: row.word.slice(0, 255) } : row))),
  ),
  'digits of texts are numbers': answering((answers) =>
    rowsIn(answers, (rows) => rows.map((row) => (row.word === '01' ? { ...row, word: '1' } : row))),
  ),
  'milliseconds are lost': answering((answers) =>
    rowsIn(answers, (rows) => rows.map((row) => (typeof row.seen === 'string' ? { ...row, seen: `${row.seen.slice(0, 19)}Z` } : row))),
  ),
  'columns are left out': answering((answers) => rowsIn(answers, (rows) => rows.map(({ pier, ...row }) => row))),
  'a table that is not there is empty': answering((answers) => answers.map((answer) => (answer instanceof Error ? [0] : answer))),
};

/** Runs the suite as a test runner would, and gives the names of the tests that fail. */
async function failuresOf(records: (tables: SampleTables) => Records): Promise<string[]> {
  const runner = globalThis as unknown as { [name: string]: unknown };
  const kept = { describe: runner.describe, test: runner.test, beforeAll: runner.beforeAll, afterAll: runner.afterAll };
  const tests: { readonly name: string; readonly run: () => Promise<void> }[] = [];
  let before = async () => {};
  Object.assign(runner, {
    describe: (_name: string, body: () => void) => body(),
    test: (name: string, run: () => Promise<void>) => tests.push({ name, run }),
    beforeAll: (run: () => Promise<void>) => {
      before = run;
    },
    afterAll: () => {},
  });
  describeRecords('a store', (tables) => ({ records: records(tables) }));
  Object.assign(runner, kept);
  await before();
  const failed = await Promise.all(
    tests.map(({ name, run }) =>
      run().then(
        () => [],
        () => [name],
      ),
    ),
  );
  return failed.flat();
}

test.each(Object.keys(broken))('a store is found out in which %s', async (what) => {
  const failures = await failuresOf((tables) => {
    const { ask } = inMemory(tables);
    return { ask: broken[what]?.((questions) => ask(questions, new AbortController().signal) as ReturnType<Ask>) as Ask };
  });
  expect(failures).not.toEqual([]);
});

test('a store that translates any error, or swallows it, is found out', async () => {
  const failures = await failuresOf((tables) => ({ ...inMemory(tables), conflictOf: () => ({ sort: 'unique' }) }));
  expect(failures).toEqual(['an error that is no refusal of a constraint is not translated']);
  const swallowing = await failuresOf((tables) => ({
    ...inMemory(tables),
    orUndone: async (store) => Promise.resolve(store()).catch(() => undefined as never),
  }));
  expect(swallowing).toHaveLength(1);
});
