import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { type AddressInfo, connect } from 'node:net';
import { hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { getRequestListener } from '@hono/node-server';
import express from 'express';
import { collection, intake, text, unique, upload } from 'jestril';
import { receive as receiveByExpress } from 'jestril/express';
import { receive as receiveByFetch } from 'jestril/fetch';
import { filesIn } from 'jestril/files';
import { memoryRecords } from 'jestril/memory';
import { receive as receivePlain } from 'jestril/request';

// A received file stays only where it stands in an accepted value and the answer is below 400, or where it may be stored.

const owners = collection('owners', { name: text }, { key: 'name' });
const records = memoryRecords({ owners: [{ name: 'Taken' }] });
const paper = intake('paper', { name: text('Name'), plan: upload('Plan').orAbsent() }, { rules: [unique(owners, { name: 'name' })] });
const bare = intake('bare', { name: text('Name') });
const sends = intake('sends', { id: text('Id') });

const folder = mkdtempSync(join(tmpdir(), 'jestril-kept-'));
afterAll(() => rmSync(folder, { recursive: true }));
const files = filesIn(folder);
const left = () => readdirSync(folder).map((name) => (name === '.coming' ? name : readFileSync(join(folder, name), 'utf8')));
/** Waits until the answer's end has been seen by whoever takes files away. */
async function soon(check: () => boolean): Promise<void> {
  for (let tries = 0; tries < 500 && !check(); tries++) await new Promise((resolve) => setTimeout(resolve, 5));
}

type Does = (about: { response?: express.Response; next?: (error: unknown) => void }) => unknown;
/** What a handler does; whether the file of the accepted value stays; what it is answered with. */
const ENDINGS: readonly [what: string, does: Does, stays: boolean, status: number][] = [
  ['is done', () => ({ body: { id: 'x' } }), true, 200],
  ['refuses by itself', () => ({ status: 409 }), false, 409],
  [
    'throws',
    () => {
      throw new Error('broken');
    },
    false,
    500,
  ],
  ['answers what does not fit', () => ({ body: { id: 7 } }), false, 500],
  ['answers by itself', ({ response }) => (response ? void response.status(201).end() : new Response(null, { status: 201 })), true, 201],
  [
    'answers badly by itself',
    ({ response }) => (response ? void response.status(502).end() : new Response('', { status: 502 })),
    false,
    502,
  ],
  ['answers later', ({ response }) => (response ? void setTimeout(() => response.end(), 20) : new Response()), true, 200],
];
let does: Does = () => ({});

const B = 'x-b';
const file = (name: string, body: string) =>
  `--${B}\r\ncontent-disposition: form-data; name="${name}"; filename="a.txt"\r\ncontent-type: text/plain\r\n\r\n${body}\r\n`;
const field = (name: string, value: string) => `--${B}\r\ncontent-disposition: form-data; name="${name}"\r\n\r\n${value}\r\n`;
const body = (name: string) => `${file('plan', 'plan')}${file('stranger', 'stranger')}${field('name', name)}--${B}--\r\n`;
const headers = { 'content-type': `multipart/form-data; boundary=${B}` };

// biome-ignore lint/suspicious/noExplicitAny: the same routes for two frameworks, each with its own request
type AnyReceive = (...all: any[]) => any;
const routes = (receive: AnyReceive): { [path: string]: AnyReceive } => ({
  '/paper': receive(paper, { records, files, sends }, (_value: unknown, told: object) => does(told)),
  '/bare': receive(bare, { files }, () => ({ body: {} })),
  '/few': receive(paper, { records, files, limits: { fileBytes: 9 } }, () => ({})),
  '/stored': receive(paper, { records, files, store: () => 7 }, (_value: unknown, told: object) => does(told)),
  '/unstored': receive(paper, { records, files, store: () => Promise.reject(new Error('full')) }, () => ({})),
});

const makers: { readonly [name: string]: () => Server } = {
  Express: () => {
    const app = express();
    for (const [path, handler] of Object.entries(routes(receiveByExpress))) app.post(path, handler);
    app.post(
      '/next',
      receiveByExpress(paper, { records, files }, (_value, { next }) => next(new Error('broken'))),
    );
    app.use((_error: unknown, _request: unknown, response: express.Response, _next: unknown) => void response.status(500).end());
    return createServer(app);
  },
  Fetch: () => {
    const handlers = routes(receiveByFetch);
    return createServer(
      getRequestListener(async (request) => {
        const handler = handlers[new URL(request.url).pathname] as AnyReceive;
        return handler(request).catch(() => new Response(null, { status: 500 }));
      }),
    );
  },
};

describe.each(Object.keys(makers))('%s', (name) => {
  let server: Server;
  let address: string;
  beforeAll(async () => {
    server = (makers[name] as () => Server)().listen(0, '127.0.0.1');
    await once(server, 'listening');
    address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });
  afterEach(() => {
    for (const each of readdirSync(folder)) rmSync(join(folder, each), { recursive: true });
  });
  const post = async (path: string, owner = 'Ida') => (await fetch(address + path, { method: 'POST', headers, body: body(owner) })).status;

  test.each(ENDINGS)('a handler that %s', async (_what, how, stays, status) => {
    does = how;
    expect(await post('/paper')).toBe(status);
    await soon(() => left().length === (stays ? 1 : 0));
    expect(left()).toEqual(stays ? ['plan'] : []);
  });

  test('what is refused, cut off, of no field, or not stored leaves nothing', async () => {
    const statuses = [await post('/paper', 'Taken'), await post('/bare'), await post('/few'), await post('/unstored')];
    if (name === 'Express') statuses.push(await post('/next'));
    await soon(() => left().length === 0);
    expect([statuses.slice(0, 4), left()]).toEqual([[422, 200, 413, 500], []]);
  });

  test('what is stored stays, whatever the handler does afterwards', async () => {
    does = () => ({ status: 503, body: {} });
    expect([await post('/stored'), left()]).toEqual([503, ['plan']]);
    expect([await post('/stored', 'Taken'), left()]).toEqual([422, ['plan']]);
  });

  test('a sender that goes away before the answer leaves nothing', async () => {
    let isHandling = false;
    let goOn: () => void = () => undefined;
    does = ({ response }) => {
      isHandling = true;
      if (response) return undefined;
      return new Promise((resolve) => {
        goOn = () => resolve(new Response(null, { status: 499 }));
      });
    };
    const { port } = server.address() as AddressInfo;
    const socket = connect(port, '127.0.0.1');
    const sent = body('Ida');
    socket.write(
      `POST /paper HTTP/1.1\r\nhost: x\r\ncontent-type: ${headers['content-type']}\r\ncontent-length: ${sent.length}\r\n\r\n${sent}`,
    );
    await soon(() => isHandling);
    expect(left().sort()).toEqual(['.coming', 'plan', 'stranger']);
    socket.destroy();
    goOn();
    await soon(() => left().length === 0);
    expect(left()).toEqual([]);
  });
});

test('a store that never settles ends with the time of the request, and what it gives later goes again', async () => {
  const discarded: unknown[] = [];
  let late: (content: unknown) => void = () => undefined;
  const never = {
    keep: () =>
      new Promise((resolve) => {
        late = resolve;
      }),
    discard: (content: unknown) => void discarded.push(content),
  };
  const answer = receivePlain(paper, { records, files: never, limits: { seconds: 0.1 } }, () => ({}));
  // A file that fills the parser keeps the body from being read on; a small one does not.
  for (const size of [10, 1_000_000]) {
    const long = `${file('plan', 'x'.repeat(size))}${field('name', 'Ida')}--${B}--\r\n`;
    const { status, headers: sent } = await answer({ method: 'POST', url: '/', headers, body: long });
    expect([status, sent['retry-after']]).toEqual([503, '5']);
    late('kept after all');
    await soon(() => discarded.length > 0);
    expect(discarded.splice(0)).toEqual(['kept after all']);
  }
  const slow = async function* () {
    yield Buffer.from(body('Ida').slice(0, 200));
    await new Promise(() => undefined);
  };
  expect((await answer({ method: 'POST', url: '/', headers, body: slow() })).status).toBe(408);
});

test('what a killed process has left behind goes with the next one’s first file; what is handed over stays', async () => {
  const own = mkdtempSync(join(tmpdir(), 'jestril-killed-'));
  const module = pathToFileURL(join(import.meta.dirname, '../../dist/http/files-in.js')).href;
  const program = `
    import { PassThrough, Readable } from 'node:stream';
    const { filesIn } = await import(${JSON.stringify(module)});
    const files = filesIn(${JSON.stringify(own)});
    const one = await files.keep({}, Readable.from(['handed over']));
    await files.keep({}, Readable.from(['whole']));
    const open = new PassThrough();
    open.write('part');
    void files.keep({}, open);
    await files.handOver(one);
    setTimeout(() => console.log('ready'), 100);
    setInterval(() => undefined, 1000);`;
  const child = spawn(process.execPath, ['--input-type=module', '-e', program], { stdio: ['ignore', 'pipe', 'inherit'] });
  await once(child.stdout, 'data');
  child.kill('SIGKILL');
  await once(child, 'exit');
  // Of another machine, or of a process that still runs, nobody knows before a day has passed.
  const [elsewhere, old, running] = ['elsewhere~1~5', 'elsewhere~2~5', `${encodeURIComponent(hostname())}~${process.ppid}~5`];
  for (const owner of [elsewhere, old, running]) {
    mkdirSync(join(own, '.coming', owner), { recursive: true });
    writeFileSync(join(own, '.coming', owner, `of ${owner}`), '');
    writeFileSync(join(own, `of ${owner}`), 'x');
  }
  utimesSync(join(own, '.coming', old), 0, 0);
  expect(readdirSync(own)).toHaveLength(7);
  const { Readable } = await import('node:stream');
  const path = await filesIn(own).keep({ field: 'plan', name: 'a', mediaType: 'text/plain' }, Readable.from(['new']));
  expect(readdirSync(own).filter((name) => name.startsWith('of'))).toEqual([`of ${elsewhere}`, `of ${running}`].sort());
  const kept = readdirSync(own).filter((name) => !name.startsWith('.') && !name.startsWith('of'));
  expect(kept.map((name) => readFileSync(join(own, name), 'utf8')).sort()).toEqual(['handed over', 'new']);
  expect(existsSync(String(path))).toBe(true);
  rmSync(own, { recursive: true });
});
