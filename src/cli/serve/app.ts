import { readFileSync } from 'node:fs';
import { extname, join, normalize } from 'node:path';
import { Hono } from 'hono';
import { bodyLimit } from 'hono/body-limit';
import type { SecureHeadersVariables } from 'hono/secure-headers';
import { streamSSE } from 'hono/streaming';
import type { Calls, KeptCase, ModuleState, Told } from '../../workbench/wire.ts';
import { packageRoot } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { guarded, headersOfPage } from './guarded.ts';
import type { Workbench } from './workbench.ts';

/** Bytes of a request at most: a submission of some megabytes, as it is typed or loaded. */
const MOST_BYTES = 20_000_000;
const TYPES: { readonly [extension: string]: string } = {
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
};

/** What the page may call by name. */
const CALLS: readonly string[] = ['describe', 'judge', 'answers', 'turn', 'pattern', 'sample'] satisfies (keyof Calls)[];

/** The page of the workbench, and what it asks. */
export function appOf(bench: Workbench, port: () => number): Hono<{ Variables: SecureHeadersVariables }> {
  const app = new Hono<{ Variables: SecureHeadersVariables }>();
  app.use(guarded(port));
  app.use(bodyLimit({ maxSize: MOST_BYTES, onError: (context) => context.json({ problem: 'That is more than 20 MB.' }, 413) }));

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
  app.get('/api/module', async (context) => context.json((await bench.state()) satisfies ModuleState));
  app.get('/api/events', (context) =>
    streamSSE(context, async (stream) => {
      const end = bench.onLoad(() => void stream.writeSSE({ event: 'loaded', data: '' }));
      await new Promise<void>((resolve) => {
        stream.onAbort(resolve);
      });
      end();
    }),
  );

  // JSON alone, which no form of another site can send.
  app.use('/api/*', async (context, next) => {
    if (context.req.method !== 'GET' && !context.req.header('content-type')?.startsWith('application/json'))
      return context.json({ problem: 'Send JSON.' }, 415);
    return next();
  });
  app.post('/api/call/:name', async (context) => {
    const name = context.req.param('name');
    if (!CALLS.includes(name)) return context.notFound();
    const asked: unknown = await context.req.json();
    if (typeof asked !== 'object' || asked === null) return context.json({ problem: 'Send a JSON object.' });
    const { version, ...argument } = asked as { readonly version?: unknown };
    const extra = name === 'answers' ? { origin: new URL(context.req.url).origin } : {};
    return context.json(
      await attempted(() =>
        bench.call(name as keyof Calls, { ...argument, ...extra } as never, typeof version === 'string' ? version : undefined),
      ),
    );
  });
  app.get('/api/cases', async (context) => context.json(await attempted(() => bench.cases())));
  app.put('/api/cases', async (context) =>
    context.json(
      await attempted(async () => {
        const cases: unknown = await context.req.json();
        return Array.isArray(cases) ? bench.keep(cases as readonly KeptCase[]) : { problem: 'Send a list of cases.' };
      }),
    ),
  );

  app.all('/door/:intake', async (context) => {
    const told = await bench.call('door', {
      intake: context.req.param('intake'),
      method: context.req.method,
      headers: context.req.header(),
      body: await context.req.text(),
    });
    if ('problem' in told) return context.text(`${told.problem}\n`, 404);
    const isBodiless = told.body === '' || context.req.method === 'HEAD';
    return new Response(isBodiless ? null : told.body, { status: told.status, headers: told.headers as [string, string][] });
  });
  app.onError((cause, context) => {
    if (cause instanceof SyntaxError) return context.json({ problem: 'That is not JSON.' }, 400);
    console.error(cause);
    return context.json({ problem: 'The workbench itself failed; its terminal says more.' }, 500);
  });
  return app;
}

async function attempted<T>(work: () => Promise<Told<T>> | Told<T>): Promise<Told<T>> {
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
