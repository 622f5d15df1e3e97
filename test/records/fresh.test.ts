import { jest } from '@jest/globals';
import {
  cached,
  collection,
  exact,
  intake,
  known,
  moment,
  type Question,
  type Records,
  rule,
  storedChoice,
  text,
  unchangedSince,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { sql } from 'kysely';
import { describeStores } from '../support/stores.ts';

// How old an answer may be: of reference tables some time, of what is stored next not at all.

const berths = collection('berths', { marina: whole, code: text }, { key: ['marina', 'code'], scope: 'marina' });
const plugs = collection('plugs', { code: text }, { key: 'code' });
const owners = collection('owners', { id: whole, code: text }, { key: 'id' });
const order = intake(
  'order',
  { berth: text('Berth'), plug: text('Plug'), mark: text('Mark') },
  {
    rules: [
      known(berths, { code: 'berth' }),
      storedChoice(plugs, { code: 'plug' }),
      unique(plugs, { code: 'mark' }),
      unique(owners, { code: 'mark' }),
    ],
  },
);

describe('cached', () => {
  const data = { berths: [{ marina: 1, code: 'A1' }], plugs: [{ code: '16A' }], owners: [] as { id: number; code: string }[] };
  let asked: string[] = [];
  const memory = memoryRecords(data);
  const listening = (records: ReturnType<typeof memoryRecords>): ReturnType<typeof memoryRecords> => ({
    ...records,
    within: (scope) => listening(records.within(scope)),
    async ask(questions: readonly Question[], signal) {
      asked.push(...questions.map(({ collection: name, keys, isFresh }) => `${name} ${keys.length}${isFresh ? ' fresh' : ''}`));
      return records.ask(questions, signal);
    },
  });
  const options = { collections: ['berths', 'plugs', 'owners'], seconds: 60 };
  const judge = async (records: Records, submission = { berth: 'A1', plug: '16A', mark: 'x' }) => {
    asked = [];
    const verdict = await order.judge(submission, { records });
    return [verdict.outcome, ...asked.sort()];
  };

  test('reference tables are asked once, `unique` every time; each scope and each key by itself', async () => {
    const records = cached(listening(memory), options);
    const fresh = ['owners 1 fresh', 'plugs 1 fresh'];
    expect(await judge(records.within({ marina: 1 }))).toEqual(['accepted', 'berths 1', ...fresh.slice(0, 1), 'plugs 1', 'plugs 1 fresh']);
    expect(await judge(records.within({ marina: 1 }))).toEqual(['accepted', ...fresh]);
    expect(await judge(records.within({ marina: 2 }))).toEqual(['rejected', 'berths 1', ...fresh]);
    expect(await judge(records.within({ marina: 1 }), { berth: 'B9', plug: '16A', mark: 'x' })).toEqual(['rejected', 'berths 1', ...fresh]);
    data.owners.push({ id: 1, code: 'x' });
    expect((await judge(records.within({ marina: 1 })))[0]).toBe('rejected');
    data.owners.length = 0;
  });

  test('an answer lasts as long as it was given, at most so many are kept, and errors are not', async () => {
    let now = 1e12;
    const clock = jest.spyOn(Date, 'now').mockImplementation(() => now);
    let isDown = false;
    const failing = listening(memory);
    const records = cached(
      {
        ...failing,
        scope: { marina: 1 },
        ask: (...all: Parameters<Records['ask']>) => (isDown ? Promise.reject(new Error('down')) : failing.ask(...all)),
      },
      { ...options, most: 2 },
    );
    expect((await judge(records)).includes('berths 1')).toBe(true);
    now += 59_999;
    expect((await judge(records)).includes('berths 1')).toBe(false);
    now += 60_001;
    isDown = true;
    expect((await judge(records))[0]).toBe('undecided');
    isDown = false;
    expect((await judge(records)).includes('berths 1')).toBe(true);
    for (const berth of ['B1', 'B2', 'B3']) await judge(records, { berth, plug: '16A', mark: 'x' });
    expect((await judge(records)).includes('berths 1')).toBe(true);
    clock.mockRestore();
  });

  test.each<[options: object, sentence: string]>([
    [{ collections: ['berths'] }, 'undefined is not a number of seconds'],
    [{ collections: 'berths', seconds: 1 }, 'collections is a list'],
    [{ collections: ['berths'], second: 1 }, 'no option "second"; did you mean "seconds"'],
  ])('%j is refused', (wrong, sentence) => {
    expect(() => cached(memory, wrong as never)).toThrow(sentence);
  });
});

const kept = collection('kept', { id: whole, version: whole, price: exact, changed: moment }, { key: 'id' });
const formOf = (column: 'version' | 'price' | 'changed', field: object) =>
  intake(
    'form',
    { name: text('Name'), seen: field as never },
    { storedIn: kept, rules: [unchangedSince(kept, { [column]: 'seen' } as never)] },
  );

describeStores((open, name) => {
  let store: Awaited<ReturnType<typeof open>>;
  let records: ReturnType<typeof store.records>;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
    const type = { SQLite: 'text', PostgreSQL: 'timestamptz', MariaDB: 'datetime(6)' }[name];
    await sql`create table kept (id int primary key, name varchar(40), version int, price numeric(10, 2), changed ${sql.raw(type)})`.execute(
      store.db,
    );
    const changed = name === 'MariaDB' ? '2031-05-01 08:00:00.250' : '2031-05-01T08:00:00.250Z';
    await store.db.insertInto('kept').values({ id: 1, name: 'Ida', version: 3, price: '1.50', changed }).execute();
  });
  afterAll(() => store.close());

  const findingsOf = async (column: 'version' | 'price' | 'changed', field: object, change: object, id = 1) => {
    const verdict = await formOf(column, field).amend({ name: 'Ida' }, { name: 'Bo', ...change }, { records, itself: { id } } as never);
    return verdict.outcome === 'rejected'
      ? verdict.findings.map(({ rule: broken, places }) => `${broken} ${places[0]?.pointer}`)
      : verdict.outcome;
  };
  test('unchangedSince: the version that the form was made from is needed on amend, and is the one stored', async () => {
    const version = whole('Version').orAbsent().leftOut();
    expect(await findingsOf('version', version, { seen: 3 })).toBe('accepted');
    expect(await findingsOf('version', version, { seen: 2 })).toEqual(['unchanged-since /seen']);
    expect(await findingsOf('version', version, {})).toEqual(['needed /seen']);
    expect(await findingsOf('version', version, { seen: 3 }, 9)).toEqual(['unchanged-since /seen']);
    expect(await findingsOf('price', exact('Price').orAbsent().leftOut(), { seen: '1.5' })).toBe('accepted');
    const changed = moment('Changed').orAbsent().leftOut();
    expect(await findingsOf('changed', changed, { seen: '2031-05-01T10:00:00.250+02:00' })).toBe('accepted');
    expect(await findingsOf('changed', changed, { seen: '2031-05-01T08:00:00.251Z' })).toEqual(['unchanged-since /seen']);
    const fresh = formOf('version', version);
    expect(await fresh.judge({ name: 'Ida' }, { records } as never)).toMatchObject({ outcome: 'accepted', value: { name: 'Ida' } });
    expect(await fresh.judge({ name: 'Ida', seen: 3 }, { records } as never)).toMatchObject({ findings: [{ rule: 'absent' }] });
    expect(await fresh.amend({ name: 'Ida' }, { seen: 3 }, { records } as never)).toMatchObject({ unsettled: [{ why: 'fault' }] });
  });

  test('of twenty who change one version at once, one does', async () => {
    const form = formOf('version', whole('Version').orAbsent().leftOut());
    const outcomes = await Promise.all(
      Array.from({ length: 20 }, (_, index) =>
        records.serially((inside, transaction) =>
          form.amendAndStore({ name: 'Ida' }, { name: `Bo ${index}`, seen: 3 }, { records: inside, itself: { id: 1 } } as never, () =>
            sql`update kept set version = version + 1 where id = 1`.execute(transaction),
          ),
        ),
      ),
    );
    const told = outcomes.map((verdict) => (verdict.outcome === 'rejected' ? verdict.findings[0]?.rule : verdict.outcome));
    expect(told.sort()).toEqual(['accepted', ...Array.from({ length: 19 }, () => 'unchanged-since')]);
    const { rows } = await sql<{ version: number }>`select version from kept`.execute(store.db);
    expect(rows).toEqual([{ version: 4 }]);
  });
});

test('judgeMany tells which rules count stored rows only; with chunk 1 it asks for each row in its turn', async () => {
  const notes = collection('notes', { id: whole, parent: text, name: text }, { key: 'id' });
  const few = rule(
    'test/few',
    { name: text },
    { looksUp: { there: notes.count({ name: 'name' }) }, holds: (_read, { there }) => there < 1, message: 'x', blames: 'name' },
  );
  const note = intake(
    'note',
    { name: text('Name'), parent: text('Parent').orAbsent() },
    { storedIn: notes, rules: [few({ name: 'name' }), known(notes, { name: 'parent' })] },
  );
  const rows = [{ name: 'a' }, { name: 'b', parent: 'a' }, { name: 'a' }, { name: 'c', parent: 'b' }];
  const outcomesWith = async (chunk: number) => {
    const stored: { id: number; name: string; parent: string | undefined }[] = [];
    const outcomes: string[] = [];
    for await (const { row, verdict, countsStored } of note.judgeMany(rows, { records: memoryRecords({ notes: stored }), chunk })) {
      if (verdict.outcome === 'accepted') stored.push({ id: row, name: verdict.value.name, parent: verdict.value.parent });
      outcomes.push(`${verdict.outcome} ${countsStored?.join() ?? ''}`.trim());
    }
    return outcomes;
  };
  expect(await outcomesWith(1)).toEqual([
    'accepted test/few@name,known@parent',
    'accepted test/few@name,known@parent',
    'rejected',
    'accepted test/few@name,known@parent',
  ]);
  expect((await outcomesWith(100)).map((outcome) => outcome.split(' ')[0])).toEqual(['accepted', 'rejected', 'accepted', 'rejected']);
});
