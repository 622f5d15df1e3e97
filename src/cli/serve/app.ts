import { readFileSync } from 'node:fs';
import { extname, join, normalize } from 'node:path';
import { type Context, Hono } from 'hono';
import { bodyLimit } from 'hono/body-limit';
import type { SecureHeadersVariables } from 'hono/secure-headers';
import type { AlikeAsked, Calls, CaseChange, ModuleState } from '../../workbench/wire.ts';
import { packageRoot } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { readJson } from '../reading/json.ts';
import { CHANGES, checkShape, IMPORTS, PASTED, shapeOf } from './asked.ts';
import { headersOfPage, ofThisPage, told, withKey } from './guarded.ts';
import { isKey, type Key } from './key.ts';
import { pasted } from './requests/pasted.ts';
import type { Workbench } from './workbench.ts';

/** Bytes of a request at most: a submission of some megabytes, as it is typed or loaded. */
const MOST_BYTES = 20_000_000;
const TYPES: { readonly [extension: string]: string } = {
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
};

type Served = Hono<{ Variables: SecureHeadersVariables }>;

/** The page of the workbench, and what it asks. */
export function appOf(bench: Workbench, key: Key, port: () => number): Served {
  const app: Served = new Hono<{ Variables: SecureHeadersVariables }>();
  app.use(ofThisPage(port));
  app.use(bodyLimit({ maxSize: MOST_BYTES, onError: (context) => told(context, 413, 'That is more than 20 MB.') }));
  // A door has a key of its own, so that it is before what asks for that of the page.
  app.all('/door/:key/:intake', (context) => door(bench, key, context));
  app.use(withKey(key, port));
  servePage(app);
  serveCalls(app, bench, () => `http://127.0.0.1:${port()}/door/${key.door}`);
  app.notFound((context) => told(context, 404, `There is no ${context.req.method} ${context.req.path} here; the page is at /.`));
  app.onError((cause, context) => {
    if (cause instanceof Misuse) return told(context, 400, cause.message);
    console.error(cause);
    return told(context, 500, 'The workbench itself failed; its terminal says more.');
  });
  return app;
}

function servePage(app: Served): void {
  app.get('/', headersOfPage, (context) => {
    context.header('cache-control', 'no-store');
    return context.html(pageFile('index.html').replaceAll('NONCE', context.get('secureHeadersNonce') ?? ''));
  });
  app.get('/assets/:name', (context) => {
    const name = normalize(context.req.param('name'));
    const type = TYPES[extname(name)];
    if (!type || name.includes('/')) return context.notFound();
    try {
      return context.body(pageFile(join('assets', name)), 200, { 'content-type': type, 'cache-control': 'no-cache' });
    } catch {
      return context.notFound();
    }
  });
}

/** @param doors where the doors before intakes are, for commands that are copied */
function serveCalls(app: Served, bench: Workbench, doors: () => string): void {
  app.get('/api/module', (context) => context.json(bench.state() satisfies ModuleState));
  app.get('/api/cases', async (context) => context.json(await attempted(() => bench.cases())));
  app.post('/api/cases', async (context) => {
    const asked = await jsonOf(context);
    checkShape(asked, CHANGES);
    return context.json(await attempted(() => bench.change((asked as { readonly changes: readonly CaseChange[] }).changes)));
  });
  app.post('/api/import/:name', async (context) => {
    const name = context.req.param('name');
    if (!Object.hasOwn(IMPORTS, name)) return context.notFound();
    const asked = await jsonOf(context);
    checkShape(asked, IMPORTS[name as keyof typeof IMPORTS]);
    return context.json(await attempted(() => imported(bench, name as keyof typeof IMPORTS, asked)));
  });
  app.post('/api/pasted', async (context) => {
    const asked = await jsonOf(context);
    checkShape(asked, PASTED);
    return context.json(await attempted(() => pasted((asked as { readonly text: string }).text)));
  });
  app.post('/api/call/:name', async (context) => {
    const name = context.req.param('name');
    const shape = shapeOf(name);
    if (!shape) return context.notFound();
    const asked = await jsonOf(context);
    checkShape(asked, shape);
    const { version, ...argument } = asked as { readonly version?: unknown };
    const extra = name === 'answers' ? { doors: doors() } : {};
    const call = { ...argument, ...extra } as never;
    return context.json(await attempted(() => bench.call(name as keyof Calls, call, typeof version === 'string' ? version : undefined)));
  });
}

function imported({ imports }: Workbench, name: keyof typeof IMPORTS, asked: unknown): Promise<object> {
  if (name === 'alike') return imports.alike(asked as AlikeAsked);
  const { path, row, intake } = asked as { readonly path: string; readonly row: number; readonly intake: string };
  return name === 'open' ? imports.open(path) : imports.row(path, row, intake);
}

async function door(bench: Workbench, key: Key, context: Context<{ Variables: SecureHeadersVariables }, '/door/:key/:intake'>) {
  if (!isKey(context.req.param('key'), key.door))
    return told(context, 401, 'The door is for who has started the workbench: copy the whole command from the page again.');
  const answer = await bench.call('door', {
    intake: context.req.param('intake'),
    method: context.req.method,
    headers: context.req.header(),
    body: await context.req.text(),
  });
  if ('problem' in answer) return told(context, 404, answer.problem);
  const isBodiless = answer.body === '' || context.req.method === 'HEAD';
  return new Response(isBodiless ? null : answer.body, { status: answer.status, headers: answer.headers as [string, string][] });
}

/** JSON alone, which no form of another site can send. */
async function jsonOf(context: Context): Promise<unknown> {
  if (!context.req.header('content-type')?.startsWith('application/json')) throw new Misuse('Send JSON, as application/json.');
  const read = readJson(await context.req.text());
  if ('problem' in read) throw new Misuse(`What is sent is not JSON: ${read.problem}.`);
  return read.value;
}

/** What stands in the way of an answer is one too: the page shows it where the answer would be. */
async function attempted<T>(work: () => Promise<T> | T): Promise<T | { readonly problem: string }> {
  try {
    return await work();
  } catch (cause) {
    if (cause instanceof Misuse) return { problem: cause.message };
    throw cause;
  }
}

function pageFile(name: string): string {
  return readFileSync(join(packageRoot(), 'dist/workbench', name), 'utf8');
}
