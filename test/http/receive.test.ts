import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { type AddressInfo, connect, Socket } from 'node:net';
import { getRequestListener } from '@hono/node-server';
import express, { type RequestHandler } from 'express';
import { Hono } from 'hono';
import {
  collection,
  day,
  group,
  inOrder,
  intake,
  known,
  length,
  list,
  type Records,
  rule,
  same,
  startsWith,
  text,
  unique,
  upload,
  uploadSize,
  whole,
} from 'jestril';
import { de } from 'jestril/catalogues';
import { receive as receiveByExpress } from 'jestril/express';
import { type LogEntry, receive as receiveByFetch } from 'jestril/fetch';
import { memoryRecords } from 'jestril/memory';

const berths = collection('berths', { code: text }, { key: 'code' });
const owners = collection('owners', { id: whole, email: text }, { key: 'id' });

const stay = intake(
  'stay',
  {
    berth: text('Berth', length({ max: 4 })),
    arrives: day('Arrival'),
    departs: day('Departure'),
    crew: list('Crew', group('Member', { name: text('Name') })).orEmpty(),
    code: text('Code').secret().orAbsent(),
    again: text('Again').secret().orAbsent().leftOut(),
    plan: upload('Plan', uploadSize({ max: 10 })).orAbsent(),
    caller: whole('Caller').given(),
  },
  {
    catalogues: [de],
    languages: { de: { labels: { departs: 'Abreise' } } },
    rules: [inOrder({ earlier: 'arrives', later: 'departs' }), same({ first: 'code', second: 'again' }), known(berths, { code: 'berth' })],
  },
);
const change = intake(
  'change',
  { note: text('Note'), email: text('E-mail') },
  { storedIn: owners, rules: [unique(owners, { email: 'email' })] },
);
const paging = intake('paging', { page: whole('Page').orElse(1), sort: text('Sort').orAbsent() });
const path = intake('path', { id: whole('Number') });
const head = intake('head', { 'if-match': text('Version') });
const cookies = intake('cookies', { theme: text('Theme').orAbsent() });
const fit = intake('fit', { id: whole('Number'), berth: text('Berth') });

let isDown = false;
let asked = 0;
const stored = memoryRecords({ berths: [{ code: 'A1' }], owners: [{ id: 1, email: 'ida@fjordmail.example' }] });
const records: Records = {
  ask(...question) {
    asked++;
    return isDown ? Promise.reject(new Error('connect ECONNREFUSED secret')) : stored.ask(...question);
  },
  conflictOf: (error) =>
    (error as Error).message === 'taken' ? { sort: 'unique', collections: ['owners'], columns: ['email'] } : undefined,
};

const log: LogEntry[] = [];
const handled: unknown[] = [];
// biome-ignore lint/suspicious/noExplicitAny: the same routes for two frameworks, each with its own request
type AnyReceive = (...all: any[]) => any;
const header = (request: Request | IncomingMessage, name: string) =>
  request.headers instanceof Headers ? request.headers.get(name) : (request as IncomingMessage).headers[name];
const caller = (request: Request | IncomingMessage) => {
  const name = header(request, 'authorization');
  return name ? { id: name === 'staff' ? 2 : 1 } : undefined;
};

function routes(receive: AnyReceive): { [route: string]: AnyReceive } {
  const common = { records, log: (entry: LogEntry) => log.push(entry) };
  const who = { ...common, caller };
  return {
    'POST /stays': receive(
      stay,
      {
        ...who,
        given: ({ caller: { id } }: { caller: { id: number } }) => ({ caller: id }),
        page: ({
          form,
          problem,
          locale,
        }: {
          form: { value(name: string): string; messages(pointer: string): string[] };
          problem: { status: number };
          locale: string;
        }) =>
          `<html lang="${locale}"><h1>${problem.status}</h1><input name=berth value="${form.value('berth')}"><input name=code value="${form.value('code')}"><p>${form.messages('/departs').join()}</p>`,
      },
      (value: { berth: string; plan?: { size: number; name: string } }) => {
        handled.push(value);
        return {
          location: '/stays/7',
          body: { id: 7, berth: value.berth, ...(value.plan && { plan: [value.plan.name, value.plan.size] }) },
        };
      },
    ),
    'GET /stays': receive({ query: paging }, common, ({ query }: { query: object }) => ({ body: query })),
    'PUT /stays/:id': receive(
      { params: path, query: paging, headers: head, cookies },
      { ...common, findings: 'full' },
      (value: object) => ({ body: value }),
    ),
    'POST /files': receive(
      { body: intake('note', { note: text('Note') }), uploads: intake('files', { plan: upload('Plan') }) },
      common,
      ({ body, uploads }: { body: object; uploads: { plan: { name: string; mediaType: string } } }) => ({
        body: { ...body, plan: [uploads.plan.name, uploads.plan.mediaType] },
      }),
    ),
    'PATCH /owners/:id': receive(
      change,
      {
        ...who,
        allows: ({ caller: { id } }: { caller: { id: number } }) => id === 2,
        amends: ({ params }: { params: { id: string } }) =>
          params.id === '1' ? { stored: { note: 'old', email: 'ida@fjordmail.example' }, itself: { id: 1 } } : undefined,
        statuses: { 'lost-race': 409 },
      },
      (value: { email: string }, { changed }: { changed: string[] }) => {
        if (value.email === 'race@fjordmail.example') throw new Error('taken');
        if (value.email === 'broken@fjordmail.example') throw new Error('disk full');
        return { body: { changed, value } };
      },
    ),
    'GET /fit': receive({ query: paging }, { ...common, sends: fit }, ({ query: { page } }: { query: { page: number } }) => ({
      body: page === 1 ? { id: 1, berth: 'A1', hash: 'never sent' } : { id: 'x' },
    })),
    'GET /own': receive(
      { query: paging },
      { ...common, answer: (problem: { status: number }) => ({ status: 418, headers: { 'x-own': 'yes' }, body: `own ${problem.status}` }) },
      () => ({}),
    ),
  };
}

function expressApp(parsers: readonly RequestHandler[]): Server {
  const app = express().disable('x-powered-by');
  for (const parser of parsers) app.use(parser);
  for (const [route, handler] of Object.entries(routes(receiveByExpress))) {
    const [method, where] = route.split(' ') as [string, string];
    app[method.toLowerCase() as 'get'](where, handler);
  }
  app.use((_error: unknown, _request: unknown, response: express.Response, _next: unknown) => void response.status(500).end());
  return createServer(app);
}
function honoApp(): Server {
  const app = new Hono();
  for (const [route, handler] of Object.entries(routes(receiveByFetch))) {
    const [method, where] = route.split(' ') as [string, string];
    app.on(method, where, (context) => handler(context.req.raw, context.req.param()));
  }
  app.onError((_error, context) => context.body(null, 500));
  return createServer(getRequestListener(app.fetch));
}
function streamOf(message: IncomingMessage): ReadableStream {
  return new ReadableStream({
    start(controller) {
      message.on('data', (chunk: Buffer) => controller.enqueue(new Uint8Array(chunk)));
      message.on('end', () => controller.close());
    },
    cancel() {
      message.removeAllListeners('data').removeAllListeners('end').resume();
    },
  });
}

/** No framework at all: node:http and the Fetch standard's own classes. */
function plainApp(): Server {
  const all = Object.entries(routes(receiveByFetch)).map(([route, handler]) => {
    const [method, where] = route.split(' ') as [string, string];
    return { method, pattern: new RegExp(`^${where.replace(':id', '(?<id>[^/]+)')}$`), handler };
  });
  return createServer(async (message: IncomingMessage, response: ServerResponse) => {
    const url = new URL(message.url ?? '', 'http://localhost');
    const hasBody =
      message.method !== 'GET' && message.method !== 'HEAD' && (message.headers['content-length'] ?? message.headers['transfer-encoding']);
    const request = new Request(url, {
      method: message.method as string,
      headers: Object.entries(message.headers) as [string, string][],
      ...(hasBody && { body: streamOf(message), duplex: 'half' }),
    } as RequestInit);
    const route = all.find(({ method, pattern }) => method === message.method && pattern.test(url.pathname));
    const params = { ...route?.pattern.exec(url.pathname)?.groups };
    const answer: Response = await route?.handler(request, params).catch(() => new Response(null, { status: 500 }));
    response.writeHead(answer.status, Object.fromEntries(answer.headers));
    for await (const chunk of answer.body ?? []) response.write(chunk);
    response.end();
  });
}

const servers: [name: string, make: () => Server][] = [
  ['Express without body parsers', () => expressApp([])],
  ['Express with body parsers', () => expressApp([express.json(), express.urlencoded({ extended: false })])],
  ['Express with parsers that nest', () => expressApp([express.json(), express.urlencoded({ extended: true })])],
  ['Hono', honoApp],
  ['node:http through Fetch', plainApp],
];

const JSON_TYPE = { 'content-type': 'application/json', authorization: 'guest' };
const FORM_TYPE = { 'content-type': 'application/x-www-form-urlencoded', authorization: 'guest' };
const good = { berth: 'A1', arrives: '2031-05-01', departs: '2031-05-03' };

describe.each(servers)('%s', (name, make) => {
  let server: Server;
  let address: string;
  beforeAll(async () => {
    server = make();
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });
  beforeEach(() => {
    isDown = false;
    asked = 0;
    log.length = 0;
    handled.length = 0;
  });

  /** On a busy machine a sender may be cut off before the answer was read; then it is sent again. */
  async function heard(sending: () => ReturnType<typeof send>): ReturnType<typeof send> {
    for (let tries = 1; tries < 10; tries++) {
      const answer = await sending().catch(() => undefined);
      if (answer) return answer;
    }
    return sending();
  }

  async function send(method: string, where: string, headers: Record<string, string>, body?: BodyInit) {
    const response = await fetch(address + where, { method, headers, redirect: 'manual', ...(body !== undefined && { body }) });
    const content = await response.text();
    const type = response.headers.get('content-type') ?? '';
    return {
      status: response.status,
      headers: response.headers,
      type,
      content,
      body: type.includes('json') ? JSON.parse(content) : undefined,
    };
  }
  const post = (value: unknown, headers = {}) => send('POST', '/stays', { ...JSON_TYPE, ...headers }, JSON.stringify(value));
  // A parser that ran before has its own way with what cannot be read.
  const isParsed = name.startsWith('Express with ') && !name.includes('without');

  test('accepted data reach the handler, typed and clean', async () => {
    const sent = { ...good, crew: [{ name: 'Ida' }], stranger: 1 };
    const { status, headers, body } = await post(sent);
    expect([status, headers.get('location'), body]).toEqual([201, '/stays/7', { id: 7, berth: 'A1' }]);
    expect(handled).toEqual([{ ...good, crew: [{ name: 'Ida' }] }]);
    expect(log).toEqual([
      {
        id: expect.stringMatching(/^[\da-f-]{36}$/),
        method: 'POST',
        route: '/stays',
        intake: 'stay',
        outcome: 'accepted',
        status: 201,
        failed: [],
        unsettled: [],
        size: JSON.stringify(sent).length,
        milliseconds: expect.any(Number),
        judging: expect.any(Number),
      },
    ]);
  });

  test('what does not hold is a problem with compact findings, in the language asked for', async () => {
    const { status, headers, type, body } = await post(
      { ...good, departs: '2031-04-01', code: 'abc', again: 'abd' },
      { 'accept-language': 'de-AT, en;q=0.5' },
    );
    expect([status, type, headers.get('content-language'), headers.get('vary')]).toEqual([
      422,
      'application/problem+json',
      'de',
      'Accept, Accept-Language',
    ]);
    expect(body).toEqual({
      type: 'about:blank',
      title: 'Einiges davon kann so nicht angenommen werden.',
      status: 422,
      findings: [
        { rule: 'in-order', at: ['/departs'], message: 'Abreise: Muss nach Arrival liegen.' },
        { rule: 'same', at: ['/again'], message: expect.stringContaining('Again') },
      ],
    });
    expect(JSON.stringify(body)).not.toContain('abd');
    expect(log).toMatchObject([{ outcome: 'rejected', status: 422, failed: ['in-order@departs', 'same@again'] }]);
  });

  test('who sends it is asked first: nobody is 401, not allowed 403, nothing there 404; nothing is read or asked', async () => {
    const anonymous = await send('POST', '/stays', { 'content-type': 'application/json' }, '{ not json');
    expect([anonymous.status, anonymous.headers.get('www-authenticate')]).toEqual(isParsed ? [500, null] : [401, 'Bearer']);
    const patch = (authorization: string, id: number) =>
      send('PATCH', `/owners/${id}`, { 'content-type': 'application/merge-patch+json', authorization }, '{"email":"x"}');
    expect((await patch('guest', 1)).status).toBe(403);
    expect((await patch('staff', 9)).status).toBe(404);
    expect(asked).toBe(0);
  });

  test('undecided is 503 with Retry-After, and tells nothing of the store; the log has the cause', async () => {
    isDown = true;
    const { status, headers, content } = await post(good);
    expect([status, headers.get('retry-after')]).toEqual([503, '5']);
    expect(content).not.toContain('ECONNREFUSED');
    expect(log).toMatchObject([{ outcome: 'undecided', unsettled: [{ use: 'known@berth', why: 'unavailable' }] }]);
    expect(JSON.stringify(log)).not.toContain('ECONNREFUSED');
    expect(String(log[0]?.causes?.map((cause) => (cause as Error).message))).toContain('ECONNREFUSED');
  });

  test('a form with nested names; the page again with what was typed, never secrets; a redirect after success', async () => {
    const page = { ...FORM_TYPE, accept: 'text/html,application/xhtml+xml;q=0.9,*/*;q=0.8', 'accept-language': 'de' };
    const bad = new URLSearchParams({ ...good, berth: 'A1"', departs: '2031-04-01', code: '4711', again: '4711', 'crew[0][name]': 'Ida' });
    const shown = await send('POST', '/stays', page, bad.toString());
    expect([shown.status, shown.type]).toEqual([422, 'text/html; charset=utf-8']);
    expect(shown.content).toContain('<input name=berth value="A1"">');
    expect(shown.content).toContain('<input name=code value="">');
    expect(shown.content).toContain('<p>Abreise: Muss nach Arrival liegen.</p>');
    const fine = new URLSearchParams({ ...good, 'crew[0][name]': 'Ida', 'crew.1.name': 'Bo' });
    // Nested by a parser, both ways of writing names do not mix.
    if (name.includes('nest')) fine.delete('crew.1.name');
    const gone = await send('POST', '/stays', page, fine.toString());
    expect([gone.status, gone.headers.get('location'), gone.content]).toEqual([303, '/stays/7', '']);
    expect(handled).toMatchObject([{ crew: name.includes('nest') ? [{ name: 'Ida' }] : [{ name: 'Ida' }, { name: 'Bo' }] }]);
    const asJson = await send('POST', '/stays', { ...FORM_TYPE, accept: 'application/json' }, fine.toString());
    expect(asJson.status).toBe(201);
  });

  test('multipart: texts and a file of the same form; a file that its rule refuses; files as a part of their own', async () => {
    const form = (file: string, fields: object = good) => {
      const data = new FormData();
      for (const [field, value] of Object.entries(fields)) data.append(field, value);
      data.append('plan', new File([file], 'plän.pdf', { type: 'application/pdf' }));
      return data;
    };
    const sent = await send('POST', '/stays', { authorization: 'guest' }, form('small'));
    expect([sent.status, sent.body]).toEqual([201, { id: 7, berth: 'A1', plan: ['plän.pdf', 5] }]);
    const large = await send('POST', '/stays', { authorization: 'guest' }, form('larger than ten'));
    expect([large.status, large.body.findings]).toMatchObject([422, [{ at: ['/plan'] }]]);
    const apart = await send('POST', '/files', {}, form('x', { note: 'hi' }));
    expect([apart.status, apart.body]).toEqual([200, { note: 'hi', plan: ['plän.pdf', 'application/pdf'] }]);
    const none = await send('POST', '/files', {}, form('x', {}));
    expect(none.body.findings).toMatchObject([{ at: ['/note'], part: 'body' }]);
  });

  const unreadable: [what: string, body: BodyInit | undefined, headers: Record<string, string>, status: number][] = [
    ['no JSON', '{ not json', JSON_TYPE, 400],
    ['a member that stands twice', '{"berth":"A1","berth":"Z9"}', JSON_TYPE, 400],
    ['a member that stands twice, in other letters', '{"berth":"A1","b\\u0065rth":"Z9"}', JSON_TYPE, 400],
    ['bytes that are no UTF-8', Buffer.from([0x22, 0xff, 0x22]), JSON_TYPE, 400],
    ['a form that is no UTF-8', 'berth=%ff', FORM_TYPE, 400],
    ['a type that nobody asked for', '<x/>', { ...JSON_TYPE, 'content-type': 'application/xml' }, 415],
    ['no type', Buffer.from('{}'), { authorization: 'guest' }, 415],
    ['another charset', '{}', { ...JSON_TYPE, 'content-type': 'application/json; charset=iso-8859-1' }, 415],
    ['another encoding', '{}', { ...JSON_TYPE, 'content-encoding': 'compress' }, 415],
    ['too many bytes', JSON.stringify({ notes: 'x'.repeat(100_001) }), JSON_TYPE, 413],
    ['too deep', `${'['.repeat(33)}${']'.repeat(33)}`, JSON_TYPE, 413],
    ['too many members', JSON.stringify(Object.fromEntries(Array.from({ length: 1001 }, (_, at) => [at, 0]))), JSON_TYPE, 413],
    ['too many fields', 'a=1&'.repeat(1001), FORM_TYPE, 413],
    ['a multipart body without boundary', 'x', { ...JSON_TYPE, 'content-type': 'multipart/form-data' }, 400],
    ['a multipart body that is none', 'x', { ...JSON_TYPE, 'content-type': 'multipart/form-data; boundary=b' }, 400],
  ];
  if (!isParsed) {
    test.each(unreadable)('%s is refused, and nobody is asked', async (_what, body, headers, status) => {
      const answer = await send('POST', '/stays', headers, body);
      expect([answer.status, answer.type, typeof answer.body.detail]).toEqual([status, 'application/problem+json', 'string']);
      expect([asked, handled]).toEqual([0, []]);
      expect(log).toMatchObject([{ outcome: 'unreadable', status }]);
    });

    test('ten thousand parts, a file that is too large, a hundred megabytes', async () => {
      const data = new FormData();
      for (let part = 0; part < 10_000; part++) data.append(`f${part}`, 'x');
      expect((await heard(() => send('POST', '/stays', { authorization: 'guest' }, data))).status).toBe(413);
      const file = new FormData();
      for (const part of ['plan', 'other']) file.append(part, new File([new Uint8Array(2_600_000).fill(0x2d)], 'a.bin'));
      expect((await heard(() => send('POST', '/stays', { authorization: 'guest' }, file))).status).toBe(413);
      expect(await hundredMegabytes()).toMatch(/^HTTP\/1.1 413/);
    });
  }

  /** Sends as much as the server takes, and gives the first line of its answer. */
  function hundredMegabytes(): Promise<string> {
    return new Promise((resolve) => {
      const socket = connect(Number(new URL(address).port), '127.0.0.1');
      const head = [
        'POST /stays HTTP/1.1',
        'host: x',
        'authorization: guest',
        'content-type: application/json',
        'transfer-encoding: chunked',
      ];
      socket.write(`${head.join('\r\n')}\r\n\r\n`);
      const chunk = `100000\r\n${'x'.repeat(0x100000)}\r\n`;
      let left = 100;
      const more = () => {
        while (left > 0 && !socket.destroyed) {
          left--;
          if (!socket.write(chunk)) return void socket.once('drain', more);
        }
        if (!socket.destroyed) socket.write('0\r\n\r\n');
      };
      socket.on('data', (data) => {
        resolve(String(data).split('\r\n')[0] as string);
        socket.destroy();
      });
      socket.on('error', () => undefined);
      more();
    });
  }

  test('one intake for each part, and findings that say which', async () => {
    const where = '/stays/x?page=two&page=3';
    const { status, body } = await send('PUT', where, { cookie: 'theme=dark; other=1' });
    expect(status).toBe(422);
    expect(body.findings).toMatchObject([
      { rule: 'readable', at: ['/id'], part: 'params', use: 'readable@id' },
      { rule: 'readable', at: ['/page'], part: 'query' },
      { rule: 'needed', at: ['/if-match'], part: 'headers' },
    ]);
    const fine = await send('PUT', '/stays/4?page=2&sort=a%20b', { cookie: 'theme=dark', 'if-match': '"3"' });
    expect(fine.body).toEqual({
      params: { id: 4 },
      query: { page: 2, sort: 'a b' },
      headers: { 'if-match': '"3"' },
      cookies: { theme: 'dark' },
    });
    expect((await send('GET', '/stays?page=7', {})).body).toEqual({ page: 7 });
  });

  test('a change to what is stored; a lost race is told as the rule would; other errors are the framework’s', async () => {
    const patch = (value: object) =>
      send('PATCH', '/owners/1', { 'content-type': 'application/merge-patch+json', authorization: 'staff' }, JSON.stringify(value));
    expect((await patch({ note: 'new' })).body).toEqual({ changed: ['note'], value: { note: 'new', email: 'ida@fjordmail.example' } });
    const lost = await patch({ email: 'race@fjordmail.example' });
    expect([lost.status, lost.body.findings]).toEqual([409, [{ rule: 'unique', at: ['/email'], message: 'E-mail is already in use.' }]]);
    expect(log.map(({ outcome }) => outcome)).toEqual(['accepted', 'lost-race']);
    expect((await patch({ email: 'broken@fjordmail.example' })).status).toBe(500);
  });

  test('what goes out is judged too: members that are not declared stay here, and what does not match is refused', async () => {
    expect((await send('GET', '/fit', {})).body).toEqual({ id: 1, berth: 'A1' });
    const unfit = await send('GET', '/fit?page=2', {});
    expect([unfit.status, unfit.body.detail]).toEqual([500, expect.stringContaining('readable@id')]);
    expect(log.at(-1)).toMatchObject({ intake: 'fit', outcome: 'unfit-answer', failed: ['readable@id', 'needed@berth'] });
  });

  test('an answer of one’s own', async () => {
    const own = await send('GET', '/own?page=x', {});
    expect([own.status, own.headers.get('x-own'), own.content]).toEqual([418, 'yes', 'own 422']);
    expect((await send('GET', '/own', {})).status).toBe(204);
  });
});

test('what is no part or no intake is refused when the application starts', () => {
  expect(() => receiveByFetch({ boddy: paging } as never, {} as never, () => undefined)).toThrow(
    'receive: "boddy" is no part with an intake',
  );
  expect(() => receiveByExpress({ body: {} } as never, {} as never, () => undefined)).toThrow('receive: "body" is no part with an intake');
});

test('a sender that goes away stops the look-ups', async () => {
  const slow: Records = {
    ask: (_questions, signal) => new Promise((_done, reject) => signal.addEventListener('abort', () => reject(signal.reason))),
  };
  const app = express();
  const lookUp = intake('look-up', { berth: text('Berth') }, { rules: [known(berths, { code: 'berth' })] });
  const settled = new Promise<string | undefined>((done) => {
    app.post(
      '/',
      receiveByExpress(lookUp, { records: slow, log: ({ unsettled }) => done(unsettled[0]?.why) }, () => undefined),
    );
  });
  const server = app.listen(0, '127.0.0.1');
  await new Promise((done) => server.once('listening', done));
  const controller = new AbortController();
  const sent = fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: '{"berth":"A1"}',
    signal: controller.signal,
  });
  setTimeout(() => controller.abort(), 100);
  await expect(sent).rejects.toThrow();
  expect(await settled).toBe('aborted');
  server.close();
});

test('a sender that goes away while its caller is looked up is not waited for', async () => {
  let leave: () => void = () => undefined;
  const left = new Promise<void>((resolve) => {
    leave = resolve;
  });
  const told = new Promise<unknown>((resolve) => {
    const app = express();
    const caller = async () => {
      socket.destroy();
      await left;
      return 'ida';
    };
    const log = ({ outcome, status }: LogEntry) => resolve([outcome, status]);
    app.post(
      '/',
      receiveByExpress(intake('open', { note: text('Note') }), { caller, log }, () => ({})),
    );
    const server = app.listen(0, '127.0.0.1', () => {
      socket.connect((server.address() as AddressInfo).port, '127.0.0.1');
    });
    server.on('connection', (own) => own.once('close', () => setTimeout(leave, 20)));
    void left.then(() => server.close());
    const socket = new Socket();
    socket.on(
      'connect',
      () => void socket.write('POST / HTTP/1.1\r\nhost: x\r\ncontent-type: application/json\r\ncontent-length: 90\r\n\r\n{'),
    );
  });
  expect(await told).toEqual(['unreadable', 400]);
});

test('a rule of the application that fails is not the sender’s fault', async () => {
  const broken = rule('test/broken', { berth: text }, { holds: () => 1 as never, message: 'x', blames: 'berth' });
  const form = intake('form', { berth: text('Berth') }, { rules: [broken({ berth: 'berth' })] });
  const request = new Request('http://x/', { method: 'POST', headers: JSON_TYPE, body: '{"berth":"A1"}' });
  expect((await receiveByFetch(form, {}, () => undefined)(request)).status).toBe(503);
});

describe('what is there if nothing is set', () => {
  const form = intake('form', { mark: text('Mark', length({ max: 2 }), startsWith('PW')).orAbsent(), plan: upload('Plan').orAbsent() });
  const to = (options: object, body: BodyInit, headers: object = { 'content-type': 'application/json' }) =>
    receiveByFetch(form, options, (value) => ({ body: value }))(
      new Request('http://x/', { method: 'POST', headers: { ...headers }, body }),
    );

  test('one finding of each field; every one, where that is asked for', async () => {
    const found = async (options: object) =>
      ((await (await to(options, '{"mark":"abc"}')).json()) as { findings: object[] }).findings.length;
    expect([await found({}), await found({ report: 'everything' })]).toEqual([1, 2]);
  });

  test.each([undefined, 64])('a body of as many bytes as it may have is read, and one byte more is too large (%s)', async (bytes) => {
    const most = bytes ?? 100_000;
    const json = (length: number) => `{"more":"${'x'.repeat(length - '{"more":""}'.length)}"}`;
    // Told beforehand, and found out while it comes.
    const streamed = (text: string) =>
      new Request('http://x/', { method: 'POST', body: new Blob([text]).stream(), duplex: 'half' } as never).body;
    for (const as of [(text: string) => text, streamed]) {
      const status = async (length: number) => {
        const request = { method: 'POST', headers: { 'content-type': 'application/json' }, body: as(json(length)), duplex: 'half' };
        const options = bytes === undefined ? {} : { limits: { bytes } };
        return (await receiveByFetch(form, options, () => undefined)(new Request('http://x/', request as never))).status;
      };
      expect([await status(most), await status(most + 1)]).toEqual([204, 413]);
    }
  });

  test('files of five million bytes together, and not of one more', async () => {
    const status = async (size: number) => {
      const data = new FormData();
      data.append('plan', new File([new Uint8Array(size)], 'plan.pdf'));
      return (await to({}, data, {})).status;
    };
    expect([await status(5_000_000), await status(5_000_001)]).toEqual([200, 413]);
  });

  test('a handler has the form, to show it again for a reason of its own', async () => {
    const handler = receiveByFetch(form, {}, (_value, { form: shown }) => ({ body: { mark: shown.value('mark') } }));
    const body = new URLSearchParams({ mark: 'PW' });
    expect(await (await handler(new Request('http://x/', { method: 'POST', body }))).json()).toEqual({ mark: 'PW' });
  });

  test.each(['null', '[1]', '"x"', '7', '{"mark":[1]}'])('a page shows nothing of %s', async (body) => {
    const page = ({ form: shown }: { form: { value(name: string): string } }) => `[${shown.value('mark')}${shown.value('0')}]`;
    const answer = await to({ page }, body, { 'content-type': 'application/json', accept: 'text/html' });
    expect([answer.status, await answer.text()]).toEqual([422, '[]']);
  });
});
