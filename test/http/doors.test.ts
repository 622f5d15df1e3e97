import { execFile } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { type AddressInfo, connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { getRequestListener } from '@hono/node-server';
import express from 'express';
import { Hono } from 'hono';
import { collection, group, inlineUpload, intake, known, list, text, upload, uploadSize } from 'jestril';
import { fileContent } from 'jestril/content';
import { receive as receiveByExpress } from 'jestril/express';
import { receive as receiveByFetch } from 'jestril/fetch';
import { filesIn } from 'jestril/files';
import { memoryRecords } from 'jestril/memory';

// What comes from the whole internet: whatever its bytes, it ends no process, is answered, and the two doors answer alike.

const berths = collection('berths', { code: text }, { key: 'code' });
const records = memoryRecords({ berths: [{ code: 'A1' }] });
const fields = { berth: text('Berth'), crew: list('Crew', group('Member', { name: text('Name') })).orEmpty() };
const stay = intake('stay', fields, { rules: [known(berths, { code: 'berth' })] });
const paper = intake('paper', { ...fields, plan: upload('Plan', uploadSize({ max: 1e6 })).orAbsent() });
const proof = intake('proof', { plan: upload('Plan', fileContent(['application/pdf', 'image/png'])) });
const inJson = intake('in-json', { plan: inlineUpload('Plan', fileContent(['application/pdf'])) });

const folder = mkdtempSync(join(tmpdir(), 'jestril-files-'));
afterAll(() => rmSync(folder, { recursive: true }));
let wasHandled: unknown[] = [];
let gives: object = {};

// biome-ignore lint/suspicious/noExplicitAny: the same routes for two frameworks, each with its own request
type AnyReceive = (...all: any[]) => any;
const routes = (receive: AnyReceive): { [path: string]: AnyReceive } => {
  const handle = (value: { plan?: { name: string; size: number; content?: unknown } }, { caller }: { caller: unknown }) => {
    wasHandled.push(caller);
    return { body: value.plan ? { name: value.plan.name, size: value.plan.size, path: typeof value.plan.content } : value, ...gives };
  };
  const limits = { bytes: 2000, fileBytes: 3000, parts: 5, seconds: 0.5 };
  return {
    '/stay': receive(stay, { records, limits }, handle),
    '/paper': receive(paper, { limits }, handle),
    '/proof': receive(proof, { limits }, handle),
    '/in-json': receive(inJson, {}, handle),
    '/open': receive(intake('open', { note: text('Note').orAbsent() }), {}, handle),
    '/kept': receive(paper, { limits, files: filesIn(folder) }, (value: { plan: { content: string } }) => {
      wasHandled.push(readFileSync(value.plan.content, 'utf8'));
      if ('fails' in gives) throw new Error('broken');
      return { body: {} };
    }),
    '/who': receive(
      stay,
      {
        records,
        caller: (request: { headers: { get?(name: string): string; caller?: string } }) =>
          JSON.parse(request.headers.get?.('caller') ?? request.headers.caller ?? 'null'),
      },
      handle,
    ),
    '/friends': receive(stay, { records, origins: ['https://friend.example'] }, handle),
    '/page': receive(stay, { records, page: ({ form }: { form: { value(name: string): string } }) => `<p>${form.value('berth')}` }, handle),
  };
};

const makers: { readonly [name: string]: () => Server } = {
  Express: () => {
    const app = express();
    for (const [path, handler] of Object.entries(routes(receiveByExpress))) app.all(path, handler);
    app.use((_error: unknown, _request: unknown, response: express.Response, _next: unknown) => void response.status(500).end());
    return createServer(app);
  },
  Fetch: () => {
    const app = new Hono();
    for (const [path, handler] of Object.entries(routes(receiveByFetch))) app.all(path, (context) => handler(context.req.raw, {}));
    app.onError((_error, context) => context.body(null, 500));
    return createServer(getRequestListener(app.fetch));
  },
};

const B = 'x-b';
const MULTIPART = `multipart/form-data; boundary=${B}`;
const part = (head: string, body: string) => `--${B}\r\n${head}\r\n\r\n${body}\r\n`;
const field = (name: string, value: string) => part(`content-disposition: form-data; name="${name}"`, value);
const file = (name: string, filename: string, body: string, type = 'application/pdf') =>
  part(`content-disposition: form-data; name="${name}"; filename="${filename}"\r\ncontent-type: ${type}`, body);
const END = `--${B}--\r\n`;

const json = { 'content-type': 'application/json' };
const form = { 'content-type': 'application/x-www-form-urlencoded' };
const parts = { 'content-type': MULTIPART };

describe.each(Object.keys(makers))('%s', (name) => {
  let server: Server;
  let port: number;
  beforeAll(async () => {
    server = (makers[name] as () => Server)();
    server.listen(0, '127.0.0.1');
    await once(server, 'listening');
    port = (server.address() as AddressInfo).port;
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });
  beforeEach(() => {
    wasHandled = [];
    gives = {};
  });

  /** Sends bytes as they are on a connection of their own, and gives status and body. */
  function raw(
    path: string,
    headers: object,
    body: string | Buffer,
    { method = 'POST', cut = false, length }: { method?: string; cut?: boolean; length?: number } = {},
  ) {
    return new Promise<{ status: number; body: string; head: string }>((resolve) => {
      const socket = connect(port, '127.0.0.1');
      const bytes = Buffer.from(body);
      const lines = [`${method} ${path} HTTP/1.1`, 'host: x.example', 'connection: close', `content-length: ${length ?? bytes.length}`];
      for (const [header, value] of Object.entries(headers)) lines.push(`${header}: ${value}`);
      socket.write(`${lines.join('\r\n')}\r\n\r\n`);
      socket.write(bytes);
      if (cut) socket.end();
      let answer = '';
      socket.on('data', (data) => {
        answer += data.toString('latin1');
      });
      socket.on('error', () => undefined);
      socket.on('close', () => {
        const [head = '', ...rest] = answer.split('\r\n\r\n');
        resolve({ status: Number(head.split(' ')[1] ?? 0), body: rest.join('\r\n\r\n'), head });
      });
    });
  }
  const status = async (...all: Parameters<typeof raw>) => (await raw(...all)).status;

  const whole: readonly [what: string, path: string, headers: object, body: string][] = [
    ['multipart', '/paper', parts, `${field('berth', 'A1')}${file('plan', 'a.pdf', '%PDF-1.4')}${END}`],
    ['multipart to an intake without files', '/stay', parts, `${field('berth', 'A1')}${file('plan', 'a.pdf', 'x')}${END}`],
    ['a file that is kept elsewhere', '/kept', parts, `${field('berth', 'A1')}${file('plan', 'a.pdf', 'content')}${END}`],
    ['URL-encoded', '/stay', form, 'berth=A1&crew.0.name=Ida'],
    ['JSON', '/stay', json, '{"berth":"A1","crew":[{"name":"Ida"}]}'],
  ];
  test.each(whole)('%s that breaks off at any byte is never handled, and ends no process', async (_what, path, headers, body) => {
    const bytes = Buffer.from(body);
    expect(await status(path, headers, bytes)).toBe(200);
    wasHandled = [];
    const cuts = await Promise.all(
      [...bytes.keys()].map((at) => status(path, headers, bytes.subarray(0, at), { cut: true, length: bytes.length })),
    );
    // A connection that is gone has no answer; one that is half open has.
    expect(cuts.filter((each) => ![0, 400, 408].includes(each))).toEqual([]);
    const short = await Promise.all([...bytes.keys()].map((at) => status(path, headers, bytes.subarray(0, at))));
    expect(short.filter((each) => ![200, 400, 415, 422].includes(each))).toEqual([]);
    // A form that is cut is another form.
    if (headers !== form) expect(short).toContain(400);
    expect(await status(path, headers, bytes)).toBe(200);
    // The first one was handled, too.
    if (path === '/kept') expect(readdirSync(folder).length).toBe(wasHandled.length + 1);
    for (const kept of readdirSync(folder)) rmSync(join(folder, kept));
  });

  const odd: readonly [what: string, path: string, headers: object, body: string | Buffer, status: number][] = [
    ['text before and after the parts', '/paper', parts, `before\r\n${field('berth', 'A1')}${END}after`, 200],
    ['a part without a name', '/paper', parts, `${part('content-disposition: form-data', 'A1')}${END}`, 400],
    ['a part with an empty name', '/paper', parts, `${part('content-disposition: form-data; name=""', 'A1')}${END}`, 400],
    [
      'a part in a known character set',
      '/paper',
      parts,
      Buffer.concat([
        Buffer.from(`--${B}\r\ncontent-disposition: form-data; name="berth"\r\ncontent-type: text/plain; charset=iso-8859-1\r\n\r\n`),
        Buffer.from([0xe9]),
        Buffer.from(`\r\n${END}`),
      ]),
      200,
    ],
    [
      'a part in an unknown character set',
      '/paper',
      parts,
      `${part('content-disposition: form-data; name="berth"\r\ncontent-type: text/plain; charset=klingon', 'A1')}${END}`,
      415,
    ],
    [
      'bytes that are no UTF-8',
      '/paper',
      parts,
      Buffer.concat([
        Buffer.from(`--${B}\r\ncontent-disposition: form-data; name="berth"\r\n\r\n`),
        Buffer.from([0xff]),
        Buffer.from(`\r\n${END}`),
      ]),
      400,
    ],
    ['a head of a part that is none', '/paper', parts, `--${B}\r\n\0: x\r\n\r\nA1\r\n${END}`, 400],
    ['six parts of five', '/paper', parts, `${field('a', '1').repeat(6)}${END}`, 413],
    ['two thousand bytes of texts', '/paper', parts, `${field('berth', 'x'.repeat(2000))}${END}`, 413],
    ['two thousand bytes before the parts', '/paper', parts, `${'-'.repeat(2000)}\r\n${field('berth', 'A1')}${END}`, 413],
    ['two thousand bytes after the parts', '/paper', parts, `${field('berth', 'A1')}${END}${'-'.repeat(2000)}`, 413],
    ['two thousand bytes of a part without disposition', '/paper', parts, `${part('x: y', 'x'.repeat(2000))}${END}`, 413],
    ['files of three thousand bytes', '/paper', parts, `${field('berth', 'A1')}${file('plan', 'a', 'x'.repeat(3000))}${END}`, 200],
    ['files of one byte more', '/paper', parts, `${field('berth', 'A1')}${file('plan', 'a', 'x'.repeat(3001))}${END}`, 413],
    ['two files of one byte more', '/paper', parts, `${file('a', 'a', 'x'.repeat(1500))}${file('b', 'b', 'x'.repeat(1501))}${END}`, 413],
    ['no body', '/stay', {}, '', 422],
    ['no body, and a type', '/stay', json, '', 422],
    ['a list', '/stay', json, '[{}]', 422],
    ['a list of texts', '/stay', json, '["ab"]', 422],
    ['a bare text', '/stay', json, '"ab"', 422],
    ['null', '/stay', json, 'null', 422],
    ['steps of a change', '/stay', { 'content-type': 'application/json-patch+json' }, '[]', 415],
    ['rows with gaps', '/stay', form, 'berth=A1&crew.2000000.name=Ida&crew.999999999.name=Bo', 200],
    ['broken percent escapes', '/stay', form, 'berth=A1&x=%&y=%zz&%=1', 200],
    ['a broken cookie and Accept', '/page', { ...json, cookie: '%E0%A4%A=;;=', accept: ';;,q=1;text/html;q=x' }, '{"berth":7}', 422],
  ];
  test.each(odd)('%s', async (_what, path, headers, body, wanted) => {
    expect(await status(path, headers, body)).toBe(wanted);
  });

  test('a body as if made of its boundary takes linear time', async () => {
    const answers: number[] = [];
    for (const text of ['-'.repeat(1999), `\r\n--${B.slice(0, -1)}`.repeat(300).slice(0, 1999), '\r\n-'.repeat(666)])
      answers.push(await status('/paper', parts, `${field('berth', 'A1')}${file('plan', 'a', `${text}${text.slice(0, 900)}`)}${END}`));
    expect(answers).toEqual([200, 200, 200]);
  });

  test('what Content-Length tells to be too large is not read; a slow sender is told so', async () => {
    expect(await status('/stay', json, '{', { length: 1e9 })).toBe(413);
    expect(await status('/paper', parts, '-', { length: 1e9 })).toBe(413);
    expect(await status('/stay', json, '{"berth":', { length: 20 })).toBe(408);
    expect(await status('/paper', parts, field('berth', 'A1'), { length: 1000 })).toBe(408);
  });

  test('nobody is let in, and a caller that throws is no caller', async () => {
    const who = (caller: string) => status('/who', { ...json, caller }, '{"berth":"A1"}');
    expect(await Promise.all(['null', 'false', '""'].map(who))).toEqual([401, 401, 401]);
    expect(await who('{')).toBe(500);
    expect([await who('0'), await who('{"id":1}'), wasHandled]).toEqual([200, 200, [0, { id: 1 }]]);
  });

  test('a file is what the transport received; its name is never a path; what it holds is looked at', async () => {
    const posing = JSON.stringify({
      berth: 'A1',
      plan: { name: 'a.pdf', mediaType: 'application/pdf', size: 9, content: 'x', head: [37] },
    });
    expect(await raw('/paper', json, posing)).toMatchObject({
      status: 422,
      body: expect.stringContaining('"rule":"readable","at":["/plan"]'),
    });
    const sent = async (filename: string, body: string, path = '/proof') =>
      (await raw(path, parts, `${file('plan', filename, body)}${END}`)).body;
    for (const odd of ['../../etc/passwd', 'C:\\temp\\passwd', '/passwd', 'passwd'])
      expect(await sent(odd, '%PDF-1.7')).toContain('"name":"passwd"');
    expect(await sent('a.pdf', '%PDF-1.7 x')).toContain('"size":10');
    expect(await sent('a.pdf', '#!/bin/sh')).toContain('"rule":"file-content"');
    const base64 = (text: string) =>
      JSON.stringify({ plan: { name: 'a.pdf', mediaType: 'application/pdf', base64: Buffer.from(text).toString('base64') } });
    expect([await status('/in-json', json, base64('%PDF-1.4')), await status('/in-json', json, base64('MZ'))]).toEqual([200, 422]);
  });

  test('files that are kept elsewhere are gone when the request fails, and there when it does not', async () => {
    const send = (berth: string, size = 10) =>
      status('/kept', parts, `${file('plan', 'a.pdf', 'x'.repeat(size))}${field('berth', berth)}${END}`);
    const empty = async () => {
      // A store that a busy machine keeps from its work is not waited for.
      for (let tries = 0; tries < 500 && readdirSync(folder).length > 0; tries++) await new Promise((resolve) => setTimeout(resolve, 10));
      return readdirSync(folder);
    };
    expect([await send(''), await send('A1', 3001), await empty()]).toEqual([422, 413, []]);
    gives = { fails: true };
    expect([await send('A1'), await empty()]).toEqual([500, []]);
    gives = {};
    expect([await send('A1'), readdirSync(folder).length, wasHandled.at(-1)]).toEqual([200, 1, 'x'.repeat(10)]);
  });

  test.each<[what: string, headers: object, status: number, path?: string]>([
    ['another site', { 'sec-fetch-site': 'cross-site', origin: 'https://evil.example' }, 403],
    ['another site beneath the same name', { 'sec-fetch-site': 'same-site', origin: 'https://other.x.example' }, 403],
    ['nobody knows whence', { origin: 'null' }, 403],
    ['another site, of an old browser', { origin: 'https://evil.example' }, 403],
    ['this site, of an old browser', { origin: 'http://x.example' }, 200],
    ['another port of it', { origin: 'http://x.example:8080' }, 403],
    ['this site', { 'sec-fetch-site': 'same-origin', origin: 'http://x.example' }, 200],
    ['the address bar', { 'sec-fetch-site': 'none' }, 200],
    ['no browser', {}, 200],
    ['a friend', { 'sec-fetch-site': 'cross-site', origin: 'https://friend.example' }, 200, '/friends'],
    ['a friend without encryption', { 'sec-fetch-site': 'cross-site', origin: 'http://friend.example' }, 403, '/friends'],
    ['another port of a friend', { 'sec-fetch-site': 'cross-site', origin: 'https://friend.example:8443' }, 403, '/friends'],
    ['behind a proxy', { origin: 'https://shop.example', 'x-forwarded-host': 'shop.example' }, 200],
    ['behind two', { origin: 'https://shop.example', 'x-forwarded-host': 'shop.example:443, inner.example' }, 200],
    [
      'behind one of the standard',
      { origin: 'https://shop.example:8443', forwarded: 'for=1.2.3.4;host="shop.example:8443";proto=https' },
      200,
    ],
    [
      'behind one, from elsewhere',
      { origin: 'https://evil.example', forwarded: 'host=shop.example', 'x-forwarded-host': 'shop.example' },
      403,
    ],
  ])('a form of %s', async (_what, headers, expected, path = '/stay') => {
    expect(await status(path, { ...form, ...headers }, 'berth=A1')).toBe(expected);
    expect(wasHandled.length).toBe(expected === 200 ? 1 : 0);
  });

  test('JSON of other sites browsers ask about; without a body there is nothing to ask about', async () => {
    expect(await status('/stay', { ...json, 'sec-fetch-site': 'cross-site', origin: 'https://evil.example' }, '{"berth":"A1"}')).toBe(200);
    for (const headers of [{ 'sec-fetch-site': 'cross-site' }, { origin: 'https://evil.example' }])
      expect(await status('/open', headers, '')).toBe(403);
    expect([await status('/open', {}, ''), wasHandled.length]).toEqual([200, 2]);
  });

  test('whoever goes on writing a body that is too large reads the answer', async () => {
    const most = await new Promise<string>((resolve) => {
      const socket = connect(port, '127.0.0.1');
      let answer = '';
      socket.on('data', (data) => {
        answer += data;
      });
      socket.on('error', (error) => resolve(error.message));
      socket.on('close', () => resolve(answer.slice(0, 12)));
      socket.write(`POST /stay HTTP/1.1\r\nhost: x\r\ncontent-type: application/json\r\ncontent-length: 8000000\r\n\r\n`);
      socket.end(Buffer.alloc(8_000_000, 'x'));
    });
    expect(most).toBe('HTTP/1.1 413');
  });

  test('an answer without a body does not wait for that of its request', async () => {
    const { status: told, head, body } = await raw('/stay', json, '{', { method: 'OPTIONS', length: 900 });
    expect([told, body, /content-length|transfer-encoding/i.test(head)]).toEqual([204, '', false]);
  });

  test('methods: others than those of a body are told which there are', async () => {
    const asked = async (method: string) => {
      const { status: told, head } = await raw(
        '/stay?berth=A1',
        method === 'GET' || method === 'HEAD' ? {} : json,
        method === 'GET' ? '' : '{"berth":"A1"}',
        { method },
      );
      return [told, /^allow: (.*)$/im.exec(head)?.[1]];
    };
    const allow = 'POST, PUT, PATCH';
    expect(await Promise.all(['POST', 'PUT', 'PATCH', 'GET', 'DELETE', 'OPTIONS'].map(asked))).toEqual([
      [200, undefined],
      [200, undefined],
      [200, undefined],
      [405, allow],
      [405, allow],
      [204, allow],
    ]);
  });

  test.each<[location: string, sent: string]>([
    ['/stays/7?x=ü y#z', '/stays/7?x=%C3%BC%20y#z'],
    ['stays/7', '/stays/7'],
    ['//evil.example/x', '/x'],
    ['\\\\evil.example/x', '/x'],
    ['/\\evil.example', '/'],
    ['https://evil.example/x?y', '/x?y'],
    ['https:evil.example', '/'],
    ['javascript:alert(1)', '/'],
    ['/..//evil.example/x', '/evil.example/x'],
    ['/\t/evil.example/x', '/x'],
    ['/a\r\nset-cookie: x=1', '/aset-cookie:%20x=1'],
    ['/%0d%0aset-cookie:x', '/%0d%0aset-cookie:x'],
    ['/\ud800', '/%EF%BF%BD'],
    ['http://[', '/'],
  ])('the location %j stays on the site', async (location, sent) => {
    gives = { location };
    const { status: told, head } = await raw('/stay', { ...form, accept: 'text/html;level=1, */*;q=0.1' }, 'berth=A1');
    expect([told, /^location: (.*)$/im.exec(head)?.[1]]).toEqual([303, sent]);
  });

  test('another site where it is meant; headers in any case, several cookies', async () => {
    gives = {
      location: 'https://pay.example/x',
      elsewhere: true,
      headers: { 'Cache-Control': 'private', 'Set-Cookie': ['a=1', 'b=2'], 'X-Y': 'z\r\nx: y' },
    };
    const { head } = await raw('/stay', { ...form, accept: 'text/html' }, 'berth=A1');
    expect(
      head
        .match(/^(location|cache-control|set-cookie|x-y): .*$/gim)
        ?.map((line) => line.trim().toLowerCase())
        .sort(),
    ).toEqual(['cache-control: private', 'location: https://pay.example/x', 'set-cookie: a=1', 'set-cookie: b=2', 'x-y: zx: y']);
  });
});

test('an intake that looks into records is not set up without them; origins are origins', () => {
  expect(() => receiveByFetch(stay, {}, () => undefined)).toThrow('intake "stay" looks into "berths", and no records are given');
  for (const origin of ['friend.example', 'https://friend.example/desk', 'https://friend.example?x', 'mailto:x@friend.example'])
    expect(() => receiveByFetch(paper, { origins: [origin] }, () => undefined)).toThrow(`"${origin}", which is no origin`);
  expect(() => receiveByFetch(paper, { origins: ['https://Friend.example/'] }, () => undefined)).not.toThrow();
});

test('random bodies, mutated from valid ones, against a server in its own process: it goes on, and never answers 500', async () => {
  const { stdout } = await promisify(execFile)('node', ['bench/doors.mjs', '1500', process.env.JESTRIL_SEED ?? '1']);
  const { cases, hasEnded, alive, answers } = JSON.parse(stdout) as { [name: string]: unknown } & { answers: { [status: string]: number } };
  expect([cases, hasEnded, alive, answers['500']]).toEqual([1500, false, [201, 201], undefined]);
  expect((answers['201'] ?? 0) + (answers['303'] ?? 0)).toBeGreaterThan(20);
});
