import { existsSync, readFileSync } from 'node:fs';
import { createServer, connect as dial, type Server, type Socket } from 'node:net';
import { join } from 'node:path';
import { sql } from 'kysely';
import { commandIn, linesOf } from '../support/command.ts';
import { begun, MODULE, turnsDone } from '../support/screening.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// A database that is away for some seconds stops no screening: here a door before it that is shut for a while.

class Door {
  readonly #sockets = new Set<Socket>();
  readonly #server: Server;
  #isShut = false;

  constructor(port: number, host: string) {
    this.#server = createServer((socket) => {
      if (this.#isShut) return void socket.destroy();
      const behind = dial(port, host);
      for (const [one, other] of [
        [socket, behind],
        [behind, socket],
      ] as const) {
        this.#sockets.add(one);
        one.on('error', () => other.destroy()).on('close', () => other.destroy());
        one.pipe(other);
      }
    });
  }

  async open(): Promise<number> {
    await new Promise<void>((resolve) => this.#server.listen(0, '127.0.0.1', resolve));
    return (this.#server.address() as { readonly port: number }).port;
  }
  async shutFor(milliseconds: number): Promise<void> {
    this.#isShut = true;
    for (const socket of this.#sockets) socket.destroy();
    await new Promise((resolve) => setTimeout(resolve, milliseconds));
    this.#isShut = false;
  }
  close(): void {
    for (const socket of this.#sockets) socket.destroy();
    this.#server.close();
  }
}

describeStores((open, name) => {
  // A file is never away.
  if (name === 'SQLite') return;
  const { folder, file } = commandIn();
  let store: TestStore;
  beforeAll(async () => {
    store = await open();
    await sql`create table stays (id int primary key, mark text, berth text, arrives date, departs date)`.execute(store.db);
  });
  afterAll(() => store?.close());

  test('when threads open it, and while they ask it', async () => {
    const library = (path: string) => `'${join(process.cwd(), 'dist', path)}'`;
    const module = file(
      'quay.mjs',
      MODULE.replace("'jestril'", library('index.js')).replace("'jestril/memory'", library('records/memory.js')),
    );
    const rows = Array.from({ length: 6000 }, (_, at) => {
      const berth = `B${at}`;
      return `${JSON.stringify({ mark: `M${at}`, berth, arrives: '2031-02-01', departs: '2031-02-03', name: 'Ida' })}\n`;
    });
    const path = file('rows.ndjson', rows.join(''));
    const to = join(folder, 'away');
    const address = new URL(store.address);
    const door = new Door(Number(address.port), address.hostname);
    address.hostname = '127.0.0.1';
    address.port = String(await door.open());
    const args = ['screen', 'start', module, path, '--records', address.href, '--to', to, '--range-bytes', '20000', '--workers', '2'];
    const until = async (is: () => boolean) => {
      while (!is()) await new Promise((resolve) => setTimeout(resolve, 5));
    };
    const run = begun(args, process.cwd());
    await until(() => existsSync(join(to, 'job.json')));
    await door.shutFor(3000);
    // Again, once threads have it open: what was asked meanwhile is undecided, and nothing stops.
    await until(() => existsSync(join(to, 'summary.json')) || turnsDone(to) > 3);
    await door.shutFor(3000);
    const { code, told } = await run.ended;
    const outcomes = () => new Set(linesOf(readFileSync(join(to, 'verdicts.ndjson'), 'utf8')).map(({ outcome }) => outcome));
    expect([[0, 2].includes(code as number), told]).toEqual([true, expect.stringContaining('index.html shows them')]);
    expect(outcomes().has('rejected')).toBe(false);
    if (code === 2) {
      expect((await begun([...args, '--resume', '--undecided'], process.cwd()).ended).code).toBe(0);
      expect([...outcomes()]).toEqual(['accepted']);
    }
    door.close();
  });
});
