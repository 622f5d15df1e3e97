import { readFileSync } from 'node:fs';
import { extname, join, normalize } from 'node:path';
import { type Context, Hono } from 'hono';
import { bodyLimit } from 'hono/body-limit';
import type { SecureHeadersVariables } from 'hono/secure-headers';
import type { ModuleState } from '../../workbench/wire/asked.ts';
import type { Calls } from '../../workbench/wire/calls.ts';
import type { CaseChange } from '../../workbench/wire/cases.ts';
import type { AlikeAsked, RowAsked } from '../../workbench/wire/imports.ts';
import { packageRoot } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { readJson } from '../reading/json.ts';
import { CALLS, CHANGES, checkAsked, IMPORTS, PASTED } from './asked.ts';
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
  const post = (path: string, of: Parameters<typeof checkAsked>[0], answer: (asked: never) => object | Promise<object>) =>
    app.post(path, async (context) => {
      const asked = await jsonOf(context);
      checkAsked(of, asked);
      return context.json(await attempted(() => answer(asked as never)));
    });
  const { imports } = bench;
  post('/api/cases', CHANGES, ({ changes }: { readonly changes: readonly CaseChange[] }) => bench.change(changes));
  post('/api/pasted', PASTED, ({ text }: { readonly text: string }) => pasted(text));
  post('/api/import/open', IMPORTS.open, ({ path }: { readonly path: string }) => imports.open(path));
  post('/api/import/row', IMPORTS.row, ({ path, row, intake }: RowAsked) => imports.row(path, row, intake));
  post('/api/import/alike', IMPORTS.alike, (asked: AlikeAsked) => imports.alike(asked));
  for (const [name, of] of Object.entries(CALLS))
    post(`/api/call/${name}`, of, ({ version, ...asked }: { readonly version?: string }) =>
      bench.call(name as keyof Calls, { ...asked, ...(name === 'answers' && { doors: doors() }) } as never, version),
    );
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
