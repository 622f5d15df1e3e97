import {
  cached,
  checkStore,
  collection,
  condition,
  intake,
  moment,
  needed,
  refused,
  rule,
  storedChoice,
  unchangedSince,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import type { SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { type Db, describeStores, type TestStore } from '../support/stores.ts';

const id = whole;
const loads = collection('loads', { id, fore: whole, aft: whole, version: whole }, { key: 'id' });
const marks = collection('loads', { id, at: moment }, { key: 'id' });
const ten = rule('test/ten', { a: whole, b: whole }, { holds: ({ a, b }) => a + b <= 10, message: 'Ten at most.', blames: ['a', 'b'] });
const load = intake(
  'load',
  { fore: whole('Fore'), aft: whole('Aft'), version: whole('Version').orAbsent().leftOut() },
  { storedIn: loads, rules: [ten({ a: 'fore', b: 'aft' }), unchangedSince(loads, { version: 'version' })] },
);
const unversioned = intake('load', { fore: whole('Fore'), aft: whole('Aft') }, { storedIn: loads, rules: [ten({ a: 'fore', b: 'aft' })] });
const few = rule(
  'test/few',
  { fore: whole },
  { looksUp: { n: loads.count({ fore: 'fore' }) }, holds: (_, { n }) => n < 3, message: 'Three at most.', blames: 'fore' },
);
const counted = (use: object) =>
  intake('counted', { fore: whole('Fore'), aft: whole('Aft') }, { storedIn: loads, rules: [few({ fore: 'fore' }, use as never)] });

describeStores((open, name) => {
  let store: TestStore;
  let records: SqlRecords;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
    const at = { SQLite: sql`text`, PostgreSQL: sql`timestamptz`, MariaDB: sql`datetime(6)` }[name];
    await sql`create table loads (id int primary key, fore int not null, aft int not null, version int not null, at ${at})`.execute(
      store.db,
    );
  });
  beforeEach(async () => {
    await store.db.deleteFrom('loads').execute();
    await store.db.insertInto('loads').values({ id: 1, fore: 1, aft: 1, version: 1 }).execute();
  });
  afterAll(() => store.close());

  const row = async () => (await store.db.selectFrom('loads').select(['fore', 'aft']).execute())[0];
  const update =
    (db: Db) =>
    (_: unknown, changed: readonly string[], value: object = _ as object) =>
      db
        .updateTable('loads')
        .set(Object.fromEntries(changed.map((column) => [column, (value as { [name: string]: unknown })[column]])))
        .where('id', '=', 1)
        .execute();

  test('a rule that counts is not stored by outside serially, unless its use says that it is unguarded', async () => {
    const body = { fore: 1, aft: 2 };
    const store1 = (form: typeof unversioned, inside: SqlRecords) => form.judgeAndStore(body, { records: inside }, () => 1);
    const plain = counted({});
    await expect(store1(plain, records)).rejects.toThrow(
      'Intake "counted", test/few@fore: others may store a row after it has asked (loads.count), and break it; judge and store inside records.serially(…), or say unguarded: true where it is used.',
    );
    await expect(plain.amendAndStore({}, body, { records, itself: { id: 1 } }, () => 1)).rejects.toThrow('(loads.count)');
    expect((await plain.judge(body, { records })).outcome).toBe('accepted');
    expect(await records.serially(async (inside) => (await store1(plain, inside)).outcome)).toBe('accepted');
    for (const use of [{ unguarded: true }, { severity: 'warning' }, { trial: true }, { constraint: 'three' }, { on: 'amend' }])
      expect((await store1(counted(use), records)).outcome).toBe('accepted');
    await store.db.transaction().execute(async (transaction) => {
      // One that is serialisable by itself says so; SQLite knows no other.
      if (name !== 'SQLite') await expect(store1(plain, records.in(transaction))).rejects.toThrow('(loads.count)');
      expect((await store1(plain, records.in(transaction, { isSerial: true }))).outcome).toBe('accepted');
    });
    const told = async (...more: [{ serially: boolean }?]) => (await checkStore(records, [plain], ...more)).map(({ lacks }) => lacks);
    expect(await told()).toEqual(['guard']);
    expect(await told({ serially: true })).toEqual([]);
    expect(await checkStore(records, [counted({ unguarded: true })])).toEqual([]);
  });

  test('a condition that counts is no more guarded than a rule that does', async () => {
    const some = condition('test/some', { fore: whole }, { looksUp: { n: loads.count({ fore: 'fore' }) }, holds: (_, { n }) => n > 0 });
    const form = intake(
      'conditional',
      { fore: whole('Fore'), aft: whole('Aft').orAbsent() },
      { storedIn: loads, rules: [needed('aft', { when: some({ fore: 'fore' }) })] },
    );
    await expect(form.judgeAndStore({ fore: 1 }, { records }, () => 1)).rejects.toThrow('(loads.count)');
  });

  test('two patches at once: each is judged with what is stored by then', async () => {
    const read = { fore: 1, aft: 1 };
    const patch = (change: object, run: (patched: (inside: SqlRecords, transaction: Db) => Promise<string>) => Promise<unknown>) =>
      run(async (inside, transaction) => {
        const verdict = await unversioned.amendAndStore(read, change, { records: inside, itself: { id: 1 } }, (value, changed) =>
          update(transaction)(value, changed),
        );
        return verdict.outcome;
      });
    const serial: Parameters<typeof patch>[1] = (patched) => records.serially(patched);
    const own: Parameters<typeof patch>[1] = (patched) =>
      store.db.transaction().execute((transaction) => patched(records.in(transaction), transaction));
    for (const run of [serial, own]) {
      await store.db.updateTable('loads').set({ fore: 1, aft: 1 }).execute();
      const outcomes = await Promise.all([patch({ fore: 8 }, run), patch({ aft: 8 }, run)]);
      expect(outcomes.sort()).toEqual(['accepted', 'rejected']);
      const { fore, aft } = (await row()) as { fore: number; aft: number };
      expect([fore, aft].sort()).toEqual([1, 8]);
    }
  });

  test('an update that touched no row says which rule refused, and nothing of it stays', async () => {
    const change = (name: string) =>
      records.serially((inside, transaction) =>
        load.amendAndStore({ fore: 1, aft: 1 }, { fore: 2, version: 1 }, { records: inside, itself: { id: 1 } }, async () => {
          await transaction.updateTable('loads').set({ fore: 2 }).execute();
          throw refused(name);
        }),
      );
    for (const each of ['unchanged-since', 'unchanged-since@version'])
      expect(await change(each)).toMatchObject({
        outcome: 'rejected',
        findings: [{ rule: 'unchanged-since', places: [{ pointer: '/version' }], message: expect.stringContaining('Somebody else') }],
      });
    expect(await row()).toEqual({ fore: 1, aft: 1 });
    await expect(change('unchanged')).rejects.toThrow(
      'Intake "load": what stores refused by "unchanged", and there is no such rule; there are: test/ten@fore',
    );
  });

  if (name !== 'SQLite')
    test('a version that is finer than a moment is not taken for the same', async () => {
      const dated = intake(
        'dated',
        { at: moment('At').orAbsent().leftOut() },
        { storedIn: marks, rules: [unchangedSince(marks, { at: 'at' })] },
      );
      const judged = async (stored: string) => {
        await store.db.updateTable('loads').set({ at: stored }).execute();
        const verdict = await dated.amend({}, { at: '2031-05-01T09:30:00.123Z' }, { records, itself: { id: 1 } });
        return verdict.outcome === 'undecided' ? String(verdict.unsettled[0]?.cause) : verdict.outcome;
      };
      expect(await judged('2031-05-01 09:30:00.123000Z'.slice(0, name === 'MariaDB' ? -1 : undefined))).toBe('accepted');
      expect(await judged('2031-05-01 09:30:00.124000Z'.slice(0, name === 'MariaDB' ? -1 : undefined))).toBe('rejected');
      expect(await judged('2031-05-01 09:30:00.123456Z'.slice(0, name === 'MariaDB' ? -1 : undefined))).toContain(
        'keeps more digits of a second',
      );
    });

  test('cached: rules of one’s own about what is stored into are asked afresh', async () => {
    const remembered = cached(records, { collections: ['loads'], seconds: 60 });
    const form = counted({ unguarded: true });
    const outcomes: string[] = [];
    for (let made = 2; made < 7; made++) {
      const verdict = await form.judgeAndStore({ fore: 1, aft: 1 }, { records: remembered }, (value) =>
        store.db
          .insertInto('loads')
          .values({ id: made, version: 1, ...value })
          .execute(),
      );
      outcomes.push(verdict.outcome);
    }
    expect(outcomes).toEqual(['accepted', 'accepted', 'rejected', 'rejected', 'rejected']);
  });
});

test('cached: misses at once join one question, and what is no answer is not kept', async () => {
  const berths = collection('berths', { code: whole }, { key: 'code' });
  const memory = memoryRecords({ berths: [{ code: 1 }] });
  let asked = 0;
  let answer: (real: unknown) => unknown = (real) => real;
  const slow = {
    ask: async (...[questions, signal]: Parameters<typeof memory.ask>) => {
      asked += questions.reduce((sum, { keys }) => sum + keys.length, 0);
      await new Promise((resolve) => setTimeout(resolve, 5));
      return answer(await memory.ask(questions, signal)) as never;
    },
  };
  const there = rule(
    'test/there',
    { code: whole },
    { looksUp: { is: berths.exists({ code: 'code' }) }, holds: (_, { is }) => is, message: 'x', blames: 'code' },
  );
  const form = intake('form', { code: whole('Code') }, { rules: [there({ code: 'code' })] });
  const remembered = cached(slow, { collections: ['berths'], seconds: 60 });
  const judge = async (code: number, signal?: AbortSignal) =>
    (await form.judge({ code }, { records: remembered, ...(signal && { signal }) })).outcome;
  expect(await Promise.all([judge(1), judge(1), judge(2), judge(1)])).toEqual(['accepted', 'accepted', 'rejected', 'accepted']);
  expect(asked).toBe(2);
  answer = () => [['three']];
  expect(await judge(3)).toBe('undecided');
  answer = () => [new Error('down')];
  // Who joined a question that came to nothing asks for itself.
  expect(await Promise.all([judge(3), judge(3)])).toEqual(['undecided', 'undecided']);
  answer = (real) => real;
  expect([await judge(3), asked]).toEqual(['rejected', 6]);
});

test('unique is settled by its constraint, and what looks for a row that is there needs no guard', async () => {
  const decks = collection('decks', { fore: whole }, { key: 'fore' });
  const form = intake(
    'form',
    { fore: whole('Fore') },
    { storedIn: loads, rules: [unique(loads, { fore: 'fore' }), storedChoice(decks, { fore: 'fore' })] },
  );
  const records = { ...memoryRecords({ loads: [], decks: [{ fore: 1 }] }), isSerial: false };
  expect((await form.judgeAndStore({ fore: 1 }, { records }, () => 1)).outcome).toBe('accepted');
});
