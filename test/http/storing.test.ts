import type { Readable } from 'node:stream';
import { collection, group, intake, known, list, refused, rule, text, unchangedSince, unique, upload, whole } from 'jestril';
import { type PlainRequest, receive } from 'jestril/request';
import type { SqlRecords } from 'jestril/sql';
import { sql } from 'kysely';
import { describeStores, type TestStore } from '../support/stores.ts';

// The door judges and stores in one transaction; the handler answers from what was stored.

const berths = collection('berths', { code: text }, { key: 'code' });
const stays = collection('stays', { id: whole, berth: text, mark: text, version: whole }, { key: 'id' });
const few = rule(
  'test/two-at-most',
  { berth: text },
  { looksUp: { n: stays.count({ berth: 'berth' }) }, holds: (_, { n }) => n < 2, message: 'Two at most.', blames: 'berth' },
);
const fields = { berth: text('Berth'), mark: text('Mark'), version: whole('Version').orAbsent().leftOut() };
const stay = intake('stay', fields, {
  storedIn: stays,
  rules: [few({ berth: 'berth' }, { on: 'create' }), unique(stays, { mark: 'mark' }), unchangedSince(stays, { version: 'version' })],
});
const where = intake('where', { berth: text('Berth') }, { rules: [known(berths, { code: 'berth' })] });
const about = intake('about', { mark: text('Mark') }, { storedIn: stays, rules: [unique(stays, { mark: 'mark' })] });

const rulesIn = ({ body }: { readonly body: string }) =>
  (JSON.parse(body).findings as { readonly rule: string }[]).map(({ rule: id }) => id);

describeStores((open, name) => {
  let store: TestStore;
  let records: SqlRecords;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
    const id = { SQLite: sql`integer`, PostgreSQL: sql`serial`, MariaDB: sql`int auto_increment` }[name];
    await sql`create table berths (code varchar(20) primary key)`.execute(store.db);
    await sql`create table stays (id ${id} primary key, berth varchar(20) not null, mark varchar(20) not null unique, version int not null default 1)`.execute(
      store.db,
    );
    await store.db.insertInto('berths').values({ code: 'A1' }).execute();
  });
  beforeEach(() => store.db.deleteFrom('stays').execute());
  afterAll(() => store.close());

  const request = (method: string, body: object, params = {}): PlainRequest => ({
    method,
    url: '/stays',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
    params,
  });
  const marks = async () => (await store.db.selectFrom('stays').select('mark').execute()).map(({ mark }) => mark).sort();

  test('twelve posts at once of a rule "at most two" store two, and the others are told the rule', async () => {
    const post = receive(
      stay,
      {
        records,
        store: async (value, { transaction, records: inside }) => {
          expect(inside.isSerial).toBe(true);
          await transaction.insertInto('stays').values(value).execute();
          return value.mark.toLowerCase();
        },
      },
      (_, { stored }) => ({ location: `/stays/${stored}`, body: { stored } }),
    );
    const answers = await Promise.all(Array.from({ length: 12 }, (_, at) => post(request('POST', { berth: 'A1', mark: `M${at}` }))));
    const told = answers
      .filter(({ status }) => status === 201)
      .map(({ body }) => (JSON.parse(body) as { stored: string }).stored.toUpperCase());
    expect(answers.map(({ status }) => status).sort()).toEqual([201, 201, ...Array.from({ length: 10 }, () => 422)]);
    expect(await marks()).toEqual(told.sort());
    expect(answers.filter(({ body }) => body.includes('Two at most.'))).toHaveLength(10);
  });

  test('what a constraint refuses is a lost race; an error of the store is thrown on; neither leaves anything', async () => {
    const logged: unknown[] = [];
    let stores: (value: { berth: string; mark: string }) => object = (value) => value;
    const post = receive(
      stay,
      {
        records,
        statuses: { 'lost-race': 409 },
        log: ({ outcome, status }) => logged.push([outcome, status]),
        store: async (value, { transaction }) => {
          await transaction.insertInto('stays').values({ berth: 'B2', mark: 'before' }).execute();
          await transaction.insertInto('stays').values(stores(value)).execute();
        },
      },
      () => ({ status: 201 }),
    );
    // The rule has seen no such row, and the constraint has.
    stores = (value) => ({ ...value, mark: 'before' });
    const lost = await post(request('POST', { berth: 'A1', mark: 'M1' }));
    expect([lost.status, rulesIn(lost)]).toEqual([409, ['unique']]);
    stores = () => {
      throw new Error('broken');
    };
    await expect(post(request('POST', { berth: 'A1', mark: 'M1' }))).rejects.toThrow('broken');
    expect([await marks(), logged]).toEqual([
      [],
      [
        ['lost-race', 409],
        ['error', undefined],
      ],
    ]);
  });

  test('a change: what is left out is judged, the row is read again, and an update that touched none refuses by its rule', async () => {
    await store.db.insertInto('stays').values({ id: 7, berth: 'A1', mark: 'M7', version: 3 }).execute();
    let isGone = false;
    const patch = receive(
      stay,
      {
        records,
        amends: () => ({ stored: { berth: 'A1', mark: 'M7' }, itself: { id: 7 } }),
        store: async (value, { transaction, changed }) => {
          expect(changed).toEqual(['mark']);
          const found = transaction
            .updateTable('stays')
            .set({ ...value, version: 4 })
            .where('id', '=', isGone ? 8 : 7);
          if (Number((await found.executeTakeFirst()).numUpdatedRows) === 0) throw refused('unchanged-since');
        },
      },
      (_, { changed }) => ({ body: { changed } }),
    );
    const sent = async (body: object) => {
      const { status, body: answer } = await patch(request('PATCH', body));
      return [status, JSON.parse(answer).findings?.[0].rule ?? JSON.parse(answer).changed];
    };
    expect(await sent({ mark: 'M8' })).toEqual([422, 'needed']);
    expect(await sent({ mark: 'M8', version: 2 })).toEqual([422, 'unchanged-since']);
    isGone = true;
    expect(await sent({ mark: 'M8', version: 3 })).toEqual([422, 'unchanged-since']);
    isGone = false;
    expect(await sent({ mark: 'M8', version: 3 })).toEqual([200, ['mark']]);
    expect(await marks()).toEqual(['M8']);
  });

  test('several parts: nothing is stored unless each of them is accepted', async () => {
    const post = receive(
      { params: where, body: about },
      {
        records,
        store: ({ params, body }, { transaction }) =>
          transaction
            .insertInto('stays')
            .values({ ...params, ...body })
            .execute(),
      },
      () => ({ status: 201 }),
    );
    const refusedAt = await post(request('POST', { mark: 4 }, { berth: 'Z9' }));
    expect(rulesIn(refusedAt)).toEqual(['known', 'readable']);
    expect((await post(request('POST', { mark: 'M1' }, { berth: 'Z9' }))).status).toBe(422);
    expect(await marks()).toEqual([]);
    expect((await post(request('POST', { mark: 'M1' }, { berth: 'A1' }))).status).toBe(201);
    expect(await marks()).toEqual(['M1']);
  });

  test('the same request again is not stored again, and gets the same answer, at once or later', async () => {
    await sql`drop table if exists jestril_answers`.execute(store.db);
    await sql`create table jestril_answers (id char(64) primary key, answer text not null, stored_at timestamp not null default current_timestamp)`.execute(
      store.db,
    );
    let stores = 0;
    const post = receive(
      stay,
      {
        records,
        once: ({ request: { headers } }) => headers['idempotency-key'],
        store: async (value, { transaction }) => {
          stores++;
          await transaction.insertInto('stays').values(value).execute();
          return { stores: 12n, mark: value.mark };
        },
      },
      (_, { stored }) => ({ body: stored, status: 201 }),
    );
    const send = async (mark: string, key?: string) => {
      const sent = request('POST', { berth: 'A1', mark });
      const answer = await post({ ...sent, headers: { ...sent.headers, ...(key !== undefined && { 'idempotency-key': key }) } });
      return [answer.status, answer.status === 201 ? JSON.parse(answer.body) : rulesIn(answer)];
    };
    const first = [201, { stores: 12, mark: 'M1' }];
    expect(await Promise.all([1, 2, 3, 4].map(() => send('M1', 'a')))).toEqual([first, first, first, first]);
    expect(await send('M1', 'a')).toEqual(first);
    expect(await marks()).toEqual(['M1']);
    // Another key is another request, and one without a key is judged as ever.
    expect(await send('M1', 'A')).toEqual([422, ['unique']]);
    expect(await send('M1')).toEqual([422, ['unique']]);
    // What was refused may be accepted the next time.
    expect(await send('M2', 'A')).toEqual([201, { stores: 12, mark: 'M2' }]);
    expect(stores).toBeGreaterThan(1);
    // The same key with another request, or for somebody else, is another one, and its answer nobody else's.
    expect(await send('M4', 'b')).toEqual([422, ['test/two-at-most']]);
    const owned = intake(
      'owned',
      {
        mark: text('Mark'),
        pass: text('Pass').secret(),
        of: list('Of', group('One', { pin: text('Pin').secret() })),
        by: text('By').given(),
      },
      { storedIn: stays, rules: [unique(stays, { mark: 'mark' })] },
    );
    const own = (by: string, mark: string) =>
      records.serially((inside, transaction) => {
        const sent = { mark, pass: 'sesame', of: [{ pin: 'sesame' }] };
        return owned.judgeAndStore(sent, { records: inside, once: 'key', given: { by } }, (value) =>
          transaction
            .insertInto('stays')
            .values({ mark: value.mark, berth: value.pass.slice(0, 1) })
            .execute(),
        );
      });
    expect(await own('Ida', 'M9')).toMatchObject({ outcome: 'accepted', value: { mark: 'M9', of: [{}] } });
    expect((await own('Ida', 'M9')).outcome).toBe('accepted');
    expect((await own('Bo', 'M9')).outcome).toBe('rejected');
    const kept = await store.db.selectFrom('jestril_answers').select('answer').execute();
    expect(kept.filter(({ answer }) => answer.includes('M9') && !answer.includes('sesame'))).toHaveLength(1);
    expect(JSON.stringify(kept)).not.toContain('sesame');
    const outside = stay.judgeAndStore({ berth: 'A1', mark: 'M3' }, { records: { ...records, isSerial: true }, once: 'b' }, () => 1);
    await expect(outside).rejects.toThrow('once needs the records of a transaction');
  });

  test('the file of a request that comes again goes, and that of the first stays', async () => {
    await store.db.deleteFrom('jestril_answers').execute();
    const kept: string[] = [];
    const files = {
      async keep(_file: object, bytes: Readable) {
        for await (const _chunk of bytes);
        kept.push(`file ${kept.length + 1}`);
        return kept.at(-1);
      },
      discard: (content: unknown) => void kept.splice(kept.indexOf(String(content)), 1, 'gone'),
    };
    const planned = intake('planned', { ...fields, plan: upload('Plan') }, { storedIn: stays, rules: [unique(stays, { mark: 'mark' })] });
    const storing = {
      store: (value: { mark: string }, { transaction }: { transaction: TestStore['db'] }) => insert(transaction, value.mark),
    };
    const insert = async (transaction: TestStore['db'], mark: string) => {
      await transaction.insertInto('stays').values({ berth: 'A1', mark }).execute();
      return 7;
    };
    const post = receive(planned, { records, files, once: () => 'key', ...storing }, (_, { stored }) => ({ body: stored }));
    const part = (head: string, body: string) => `--b\r\ncontent-disposition: form-data; ${head}\r\n\r\n${body}\r\n`;
    const body = `${part('name="berth"', 'A1')}${part('name="mark"', 'M9')}${part('name="plan"; filename="a.pdf"', 'x')}--b--\r\n`;
    const send = () => post({ method: 'POST', url: '/', headers: { 'content-type': 'multipart/form-data; boundary=b' }, body });
    expect([(await send()).body, kept]).toEqual(['7', ['file 1']]);
    expect([(await send()).body, kept, await marks()]).toEqual(['7', ['file 1', 'gone'], ['M9']]);
  });
});
