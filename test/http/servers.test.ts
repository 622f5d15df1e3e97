import { once } from 'node:events';
import { createServer, request as requestHttp, type Server } from 'node:http';
import { connect as connectHttp2, createServer as createHttp2, type Http2Server } from 'node:http2';
import type { AddressInfo } from 'node:net';
import { Readable } from 'node:stream';
import { getRequestListener } from '@hono/node-server';
import express from 'express';
import { Hono } from 'hono';
import { group, intake, list, text, upload, whole } from 'jestril';
import { receive as receiveByExpress } from 'jestril/express';
import { receive as receiveByFetch } from 'jestril/fetch';
import { receive as receiveByNode } from 'jestril/node';
import { receive as receivePlain } from 'jestril/request';
import Koa from 'koa';
import { inFastify } from '../../examples/servers/fastify.ts';
import { inKoa } from '../../examples/servers/koa.ts';
import { onLambda } from '../../examples/servers/lambda.ts';
import { type ActionState, asAction, asRoute } from '../../examples/servers/next.ts';
import { listener } from '../../examples/servers/node-http.ts';
import { worker } from '../../examples/servers/worker.ts';

// The same bytes to every server, by its real thing where it can be had here. Fastify, Nest and Next.js bring validators of their own along
// when they are installed: what is used of them is small, and stands here by its public interface.

const stay = intake('stay', {
  berth: text('Berth'),
  nights: whole('Nights').orAbsent(),
  crew: list('Crew', group('Member', { name: text('Name') })).orEmpty(),
  plan: upload('Plan').orAbsent(),
});
const seen = intake('seen', { cookie: text('Cookie').orAbsent(), 'x-desk': text('Desk').orAbsent() });
const find = intake('find', { berth: text('Berth').orAbsent(), tag: list('Tags', text('Tag')).orEmpty() });

interface Sent {
  readonly method: string;
  readonly path: string;
  readonly headers: { readonly [name: string]: string };
  readonly body: Buffer;
}
interface Got {
  readonly status: number;
  readonly headers: { readonly [name: string]: unknown };
  readonly body: string;
}

// biome-ignore lint/suspicious/noExplicitAny: the same handlers behind every door
type AnyReceive = (...all: any[]) => any;
const handlersOf = (receive: AnyReceive): { readonly [path: string]: AnyReceive } => ({
  '/stays': receive(
    { body: stay, headers: seen },
    { limits: { bytes: 2000, fileBytes: 3000 } },
    ({ body: { plan, ...body }, headers }: { body: { plan?: { name: string; size: number } }; headers: object }) => ({
      status: 201,
      headers: { 'set-cookie': ['a=1', 'b=2'] },
      body: { ...body, headers, ...(plan && { plan: `${plan.name} ${plan.size}` }) },
    }),
  ),
  '/find': receive({ query: find }, {}, ({ query }: { query: object }) => ({ body: query })),
  '/throws': receive(stay, {}, () => {
    throw new Error('broken');
  }),
});
const PATHS = ['/stays', '/find', '/throws'];

/** Over a socket, as it is. */
const overHttp = (server: Server) => (port: number, sent: Sent) =>
  new Promise<Got>((resolve, reject) => {
    const { method, path, headers, body } = sent;
    const asked = requestHttp(
      { port, host: '127.0.0.1', method, path, headers: { 'content-length': body.length, ...headers } },
      async (answer) => {
        const chunks = await answer.toArray();
        resolve({ status: answer.statusCode ?? 0, headers: answer.headers, body: Buffer.concat(chunks).toString() });
      },
    );
    asked.on('error', reject).end(body);
    return server;
  });
const listening = (make: () => Server) => () => {
  const server = make().listen(0, '127.0.0.1');
  const send = overHttp(server);
  return {
    send: async (sent: Sent) => {
      if (!server.listening) await once(server, 'listening');
      return send((server.address() as AddressInfo).port, sent);
    },
    stop() {
      server.closeAllConnections();
      server.close();
    },
  };
};

async function overHttp2(server: Http2Server, { method, path, headers, body }: Sent): Promise<Got> {
  if (!server.listening) await once(server, 'listening');
  const session = connectHttp2(`http://127.0.0.1:${(server.address() as AddressInfo).port}`);
  session.on('error', () => undefined);
  const stream = session.request({ ':method': method, ':path': path, ...headers }, { endStream: body.length === 0 });
  stream.on('error', () => undefined);
  if (body.length > 0) stream.end(body);
  const [answer] = (await once(stream, 'response')) as [{ ':status': number }];
  const chunks: Buffer[] = [];
  stream.on('data', (chunk) => chunks.push(chunk));
  await once(stream, 'close');
  session.close();
  return { status: answer[':status'], headers: answer, body: Buffer.concat(chunks).toString() };
}

const fetched = async (response: Response): Promise<Got> => ({
  status: response.status,
  headers: { ...Object.fromEntries(response.headers), 'set-cookie': response.headers.getSetCookie() },
  body: await response.text(),
});
const asRequest = ({ method, path, headers, body }: Sent) =>
  new Request(`http://x.example${path}`, { method, headers, ...(method !== 'GET' && method !== 'HEAD' && { body: new Uint8Array(body) }) });

const fail = (error: unknown): Got => {
  if ((error as Error).message !== 'broken') throw error;
  return { status: 500, headers: {}, body: '' };
};

const LAMBDA: { readonly [version: string]: (sent: Sent) => object } = {
  '1.0': ({ method, path, headers, body }) => {
    const { pathname, searchParams } = new URL(path, 'http://x');
    const many: { [name: string]: string[] } = {};
    for (const [name, value] of searchParams) many[name] = [...(many[name] ?? []), value];
    return {
      httpMethod: method,
      path: pathname,
      multiValueQueryStringParameters: Object.keys(many).length > 0 ? many : null,
      headers: null,
      multiValueHeaders: Object.fromEntries(Object.entries(headers).map(([name, value]) => [name.toUpperCase(), [value]])),
      pathParameters: null,
      body: body.length > 0 ? body.toString('base64') : null,
      isBase64Encoded: true,
    };
  },
  '2.0': ({ method, path, headers, body }) => {
    const { cookie, ...others } = headers;
    const [rawPath, rawQueryString = ''] = path.split('?');
    const isText = body.length > 0 && !/multipart/.test(headers['content-type'] ?? '');
    return {
      version: '2.0',
      rawPath,
      rawQueryString,
      ...(cookie !== undefined && { cookies: cookie.split('; ') }),
      headers: others,
      requestContext: { http: { method } },
      ...(body.length > 0 && { body: isText ? body.toString() : body.toString('base64'), isBase64Encoded: !isText }),
    };
  },
};

/** Fastify, as far as its own parsers go: JSON is parsed; what is left unparsed is a stream. */
function fastify(isRaw: boolean) {
  const handlers = handlersOf(receivePlain);
  return async ({ method, path, headers, body }: Sent): Promise<Got> => {
    const got = { status: 200, headers: {} as { [name: string]: unknown }, body: '' };
    const reply = {
      code: (status: number) => Object.assign(reply, void Object.assign(got, { status })),
      headers: (all: object) => Object.assign(reply, void Object.assign(got.headers, all)),
      send: (text: string) => Object.assign(reply, void Object.assign(got, { body: text })),
    };
    const isJson = headers['content-type'] === 'application/json';
    const known = body.length === 0 ? undefined : isRaw || !isJson ? Readable.from([body]) : JSON.parse(body.toString());
    const handler = handlers[path.split('?', 1)[0] as string] as AnyReceive;
    await inFastify(handler)({ method, url: path, headers, params: {}, body: known, routeOptions: { url: path } }, reply as never).catch(
      (error) => Object.assign(got, fail(error)),
    );
    return got;
  };
}

const withApp = (routes: (path: string) => void) => {
  for (const path of PATHS) routes(path);
};
const SERVERS: { readonly [name: string]: () => { send(sent: Sent): Promise<Got>; stop?(): void } } = {
  'node:http': listening(() => createServer(listener(handlersOf(receiveByNode)))),
  'HTTP/2': () => {
    const server = createHttp2(listener(handlersOf(receiveByNode))).listen(0, '127.0.0.1');
    return { send: (sent) => overHttp2(server, sent), stop: () => server.close() };
  },
  Express: listening(() => {
    const app = express();
    const handlers = handlersOf(receiveByExpress);
    withApp((path) => app.all(path, handlers[path] as AnyReceive));
    app.use((_error: unknown, _request: unknown, response: express.Response, _next: unknown) => void response.status(500).end());
    return createServer(app);
  }),
  Koa: listening(() => {
    const app = new Koa().on('error', () => undefined);
    const handlers = handlersOf(receiveByNode);
    app.use((context) => inKoa(handlers[context.path] as AnyReceive)(context));
    return createServer(app.callback());
  }),
  Hono: listening(() => {
    const app = new Hono();
    const handlers = handlersOf(receiveByFetch);
    withApp((path) => app.all(path, (context) => (handlers[path] as AnyReceive)(context.req.raw)));
    app.onError((_error, context) => context.body(null, 500));
    return createServer(getRequestListener(app.fetch));
  }),
  'a worker of the Fetch standard': () => {
    const { fetch: answer } = worker(handlersOf(receiveByFetch));
    return { send: async (sent) => answer(asRequest(sent)).then(fetched, fail) };
  },
  'a route of Next.js': () => {
    const handlers = handlersOf(receiveByFetch);
    const route = (sent: Sent) => asRoute(handlers[sent.path.split('?', 1)[0] as string] as AnyReceive);
    return { send: async (sent) => route(sent)(asRequest(sent), { params: Promise.resolve({}) }).then(fetched, fail) };
  },
  // A controller that takes the request, the response and what is next, on Nest's own Express.
  'a controller of Nest': listening(() => {
    const app = express();
    const handlers = handlersOf(receiveByExpress);
    const controller = {
      take: (request: express.Request, response: express.Response, next: express.NextFunction) =>
        (handlers[request.path] as AnyReceive)(request, response, next),
    };
    app.use(express.json({ limit: 2000, strict: false }), express.urlencoded({ extended: true }));
    withApp((path) => app.all(path, (request, response, next) => controller.take(request, response, next)));
    app.use(
      (error: { status?: number }, _request: unknown, response: express.Response, _next: unknown) =>
        void response.status(error.status ?? 500).end(),
    );
    return createServer(app);
  }),
  'Fastify with its own parser': () => ({ send: fastify(false) }),
  'Fastify without': () => ({ send: fastify(true) }),
  ...Object.fromEntries(
    Object.entries(LAMBDA).map(([version, eventOf]) => [
      `an event ${version} of AWS Lambda`,
      () => {
        const handlers = handlersOf(receivePlain);
        return {
          async send(sent: Sent): Promise<Got> {
            const answer = await onLambda(handlers[sent.path.split('?', 1)[0] as string] as AnyReceive)(eventOf(sent)).catch(fail);
            if (!('statusCode' in answer)) return answer;
            const cookies =
              'cookies' in answer ? answer.cookies : 'multiValueHeaders' in answer ? answer.multiValueHeaders['set-cookie'] : undefined;
            return { status: answer.statusCode, headers: { ...answer.headers, 'set-cookie': cookies }, body: answer.body };
          },
        };
      },
    ]),
  ),
};

const json = { 'content-type': 'application/json' };
const form = { 'content-type': 'application/x-www-form-urlencoded' };
const B = 'x-b';
const multipart = [
  `--${B}\r\ncontent-disposition: form-data; name="berth"\r\n\r\nA1\r\n`,
  `--${B}\r\ncontent-disposition: form-data; name="plan"; filename="ü%22x.pdf"\r\ncontent-type: application/pdf\r\n\r\n%PDF\r\n--${B}--\r\n`,
].join('');

type Case = readonly [
  what: string,
  sent: Partial<Omit<Sent, 'body'>> & { readonly body?: string | Buffer },
  status: number,
  told: object | string,
];
const CASES: readonly Case[] = [
  [
    'JSON',
    { headers: { ...json, cookie: 'c=1; d=2', 'x-desk': '7' }, body: '{"berth":"A1","nights":3}' },
    201,
    { berth: 'A1', nights: 3, crew: [], headers: { cookie: 'c=1; d=2', 'x-desk': '7' } },
  ],
  [
    'a form',
    { headers: form, body: 'berth=A1&nights=2&crew.0.name=Ida' },
    201,
    { berth: 'A1', nights: 2, crew: [{ name: 'Ida' }], headers: {} },
  ],
  [
    'a multipart body',
    { headers: { 'content-type': `multipart/form-data; boundary=${B}` }, body: multipart },
    201,
    { berth: 'A1', crew: [], headers: {}, plan: 'ü"x.pdf 4' },
  ],
  ['what is wrong', { headers: json, body: '{"nights":"x"}' }, 422, '"at":["/berth"]'],
  ['no JSON', { headers: json, body: '{' }, 400, ''],
  ['too much', { headers: json, body: JSON.stringify({ berth: 'A'.repeat(3000) }) }, 413, ''],
  ['another type', { headers: { 'content-type': 'text/csv' }, body: 'a' }, 415, ''],
  ['another method', { method: 'DELETE' }, 405, ''],
  ['the question which methods there are', { method: 'OPTIONS' }, 204, ''],
  ['a form of another site', { headers: { ...form, origin: 'https://evil.example' }, body: 'berth=A1' }, 403, ''],
  ['a query', { method: 'GET', path: '/find?berth=A%26B&tag=1&tag=2' }, 200, { berth: 'A&B', tag: ['1', '2'] }],
  ['a handler that throws', { path: '/throws', headers: json, body: '{"berth":"A1"}' }, 500, ''],
];

describe.each(Object.keys(SERVERS))('%s', (name) => {
  const { send, stop } = (SERVERS[name] as () => ReturnType<(typeof SERVERS)[string]>)();
  afterAll(() => stop?.());
  // A parser that ran before has its own way with what cannot be read, and is no reader of files.
  const isParsed = name.includes('Nest');
  const left = CASES.filter(([what]) => !(name.includes('own parser') && ['no JSON', 'too much'].includes(what)));
  test.each(left)('%s', async (_what, { method = 'POST', path = '/stays', headers = {}, body = '' }, status, told) => {
    const got = await send({ method, path, headers, body: Buffer.from(body) });
    expect(got.status).toBe(status);
    if (typeof told === 'object') expect(JSON.parse(got.body)).toEqual(told);
    else expect(got.body).toContain(told);
    if (status === 201) expect([got.headers['set-cookie']].flat()).toEqual(['a=1', 'b=2']);
    if (status === 405) expect(got.headers.allow).toBe('POST, PUT, PATCH');
    if (status >= 400 && status < 500 && !isParsed) expect(String(got.headers['content-type'])).toContain('application/problem+json');
  });
});

test('a server action of Next.js gives the form to show again, or what was accepted', async () => {
  const booking = intake('booking', { berth: text('Berth'), pass: text('Pass').secret() });
  const action = asAction(booking, (submission) => booking.judge(submission, { as: 'form' }));
  const data = new FormData();
  for (const [name, value] of [
    ['$ACTION_ID_1', ''],
    ['berth', ''],
    ['pass', 'hidden'],
  ] as const)
    data.append(name, value);
  const { form: again, verdict }: ActionState = await action({}, data);
  expect([verdict?.outcome, again?.messages('/berth'), again?.value('pass')]).toEqual(['rejected', ['Berth is needed.'], '']);
  data.set('berth', 'A1');
  expect((await action({}, data)).verdict).toMatchObject({ outcome: 'accepted', value: { berth: 'A1' } });
});
