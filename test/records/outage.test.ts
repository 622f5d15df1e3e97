import { createServer, connect as dial, type Server, type Socket } from 'node:net';
import { collection, intake, known, text } from 'jestril';
import { sql } from 'kysely';
import { connect, type Db, recordsOf } from '../support/connect.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

/** Stands between the application and the server, so that the server can be stopped, slow and there again. */
class Line {
  readonly #to: URL;
  #server: Server | undefined;
  readonly #sockets = new Set<Socket>();
  #isStuck = false;
  port = 0;

  constructor(to: URL) {
    this.#to = to;
  }

  async start(): Promise<void> {
    const server = createServer((socket) => {
      const further = dial(Number(this.#to.port), this.#to.hostname);
      for (const one of [socket, further]) {
        this.#sockets.add(one);
        one
          .on('error', () => undefined)
          .on('close', () => {
            socket.destroy();
            further.destroy();
          });
      }
      socket.on('data', (data) => void (this.#isStuck || further.write(data)));
      further.on('data', (data) => void socket.write(data));
    });
    this.#server = server;
    await new Promise<void>((done) => server.listen(this.port, '127.0.0.1', done));
    this.port = (server.address() as { port: number }).port;
  }

  async stop(): Promise<void> {
    for (const socket of this.#sockets) socket.destroy();
    this.#sockets.clear();
    await new Promise((done) => this.#server?.close(done) ?? done(undefined));
  }

  stick(isStuck: boolean): void {
    this.#isStuck = isStuck;
  }
}

const berths = collection('berths', { code: text }, { key: 'code' });
const form = intake('form', { berth: text('Berth') }, { rules: [known(berths, { code: 'berth' })] });

describeStores((open, name) => {
  if (name === 'SQLite') {
    test('a database that is closed leaves the rule undecided', async () => {
      const store = await open();
      const records = store.records(store.db);
      await store.close();
      expect(await form.judge({ berth: 'A1' }, { records })).toMatchObject({ outcome: 'undecided', unsettled: [{ why: 'unavailable' }] });
    });
    return;
  }

  let store: TestStore;
  let line: Line;
  let db: Db;
  beforeAll(async () => {
    store = await open();
    await sql`create table berths (code varchar(10) primary key)`.execute(store.db);
    await sql`insert into berths values ('A1')`.execute(store.db);
    const url = new URL(store.address);
    line = new Line(new URL(url.href));
    await line.start();
    url.port = String(line.port);
    db = connect(name, url.href);
  });
  afterAll(async () => {
    await db.destroy();
    await line.stop();
    await store.close();
  });

  test('a server that is stopped, slow, and there again: undecided meanwhile, and nobody is blamed', async () => {
    const records = recordsOf(name)(db);
    const outcome = async (options: object = {}) => {
      const verdict = await form.judge({ berth: 'A1' }, { records, ...options });
      return [verdict.outcome, ...verdict.unsettled.map(({ rule, why, cause }) => [rule, why, String(cause) !== ''])];
    };
    expect(await outcome()).toEqual(['accepted']);
    await line.stop();
    expect(await outcome()).toEqual(['undecided', ['known', 'unavailable', true]]);
    expect(await outcome()).toEqual(['undecided', ['known', 'unavailable', true]]);
    await line.start();
    expect(await outcome()).toEqual(['accepted']);
    line.stick(true);
    expect(await outcome({ within: 100 })).toEqual(['undecided', ['known', 'timed-out', true]]);
    const controller = new AbortController();
    setTimeout(() => controller.abort(new Error('the sender is gone')), 50);
    expect(await outcome({ signal: controller.signal })).toEqual(['undecided', ['known', 'aborted', true]]);
    line.stick(false);
    await line.stop();
    await line.start();
    expect(await outcome()).toEqual(['accepted']);
  });

  test('what nobody waits for any more is not asked once a connection is free', async () => {
    const asked: string[] = [];
    const busy = connect(name, store.address, 1, ({ query }) => asked.push(query.sql));
    const records = recordsOf(name)(busy);
    expect((await form.judge({ berth: 'A1' }, { records })).outcome).toBe('accepted');
    const before = asked.length;
    await busy.connection().execute(async () => {
      const late = await Promise.all([1, 2, 3, 4].map(() => form.judge({ berth: 'A1' }, { records, within: 50 })));
      expect(late.map(({ unsettled }) => unsettled[0]?.why)).toEqual(['timed-out', 'timed-out', 'timed-out', 'timed-out']);
    });
    expect((await form.judge({ berth: 'Z9' }, { records })).outcome).toBe('rejected');
    expect(asked.length).toBe(before + 1);
    await busy.destroy();
  });

  test('rows of many go on when the server is there again', async () => {
    const records = recordsOf(name)(db);
    const outcomes: string[] = [];
    async function* rows() {
      for (let row = 0; row < 6; row++) {
        if (row === 2) await line.stop();
        if (row === 4) await line.start();
        yield { berth: row === 5 ? 'Z9' : 'A1' };
        // The chunk before has been asked by now.
        await new Promise((done) => setTimeout(done, 100));
      }
    }
    for await (const { verdict } of form.judgeMany(rows(), { records, chunk: 1 })) outcomes.push(verdict.outcome);
    expect(outcomes).toEqual(['accepted', 'accepted', 'undecided', 'undecided', 'accepted', 'rejected']);
  });
});
