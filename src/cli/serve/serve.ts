import { existsSync } from 'node:fs';
import { createServer } from 'node:net';
import { resolve } from 'node:path';
import { serve as listen } from '@hono/node-server';
import type { Settings } from '../../workbench/wire/asked.ts';
import type { Context } from '../basics/context.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { packageFolder, watched } from '../basics/watched.ts';
import { checkLocale, givenText, momentAt } from '../records/settings.ts';
import { appOf } from './app.ts';
import { Key } from './key.ts';
import { Workbench } from './workbench.ts';

export interface ServeFlags {
  readonly port?: number;
  readonly records?: string;
  readonly given?: string;
  readonly locale: string;
  readonly now?: string;
  readonly occasion?: string;
}

const HOST = '127.0.0.1';
const PORT = 4320;

/** Serves the workbench until it is ended. */
export async function serve(module: string, flags: ServeFlags, context: Context): Promise<Exit> {
  if (!existsSync(module)) throw new Misuse(`There is no module ${module}.`);
  const bench = new Workbench(module, defaultsOf(flags));
  const key = new Key();
  let port = flags.port ?? (await freePort());
  const server = listen({ fetch: appOf(bench, key, () => port).fetch, hostname: HOST, port });
  await new Promise<void>((done, fail) => {
    server.once('listening', done);
    server.once('error', (cause: NodeJS.ErrnoException) =>
      fail(
        new Misuse(
          `Port ${port} cannot be used (${cause.code === 'EADDRINUSE' ? 'it is taken' : cause.message}); choose another with --port.`,
        ),
      ),
    );
  }).catch((cause) => {
    bench.close();
    throw cause;
  });
  const address = server.address();
  if (typeof address === 'object' && address) port = address.port;
  const reload = () => {
    context.warn(`${module} has changed; loading it again.\n`);
    bench.reload();
  };
  const unwatch = watched([packageFolder(resolve(module))], reload, isProgram);
  const loaded = await bench.loaded();
  await context.out(
    `The workbench is at http://${HOST}:${port}/?key=${key.page}\nThe key in it is yours alone, and good until you end this with Ctrl-C.\n`,
  );
  if (!loaded.loaded) context.warn(`${loaded.problem}\n`);
  await new Promise<void>((done) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, done);
  });
  unwatch();
  bench.close();
  server.close();
  return EXIT.accepted;
}

/** A program, or rows; what the workbench itself writes is no reason to load the module again. */
function isProgram(name: string): boolean {
  return /\.([cm]?[jt]sx?|json)$/.test(name) && !/\.cases\.(json|proof\.[cm]?[jt]s)$/.test(name);
}

function defaultsOf({ records = '', given, locale, now, occasion }: ServeFlags): Settings {
  checkLocale(locale);
  if (now !== undefined) momentAt(now);
  return {
    locale,
    as: 'json',
    report: 'everything',
    records,
    ...(now !== undefined && { now }),
    ...(occasion !== undefined && { occasion }),
    ...(given !== undefined && { given: givenText(given) }),
  };
}

/** The usual port, or any other where that is taken. */
function freePort(): Promise<number> {
  return new Promise((done) => {
    const probe = createServer();
    probe.once('error', () => done(0));
    probe.listen(PORT, HOST, () => probe.close(() => done(PORT)));
  });
}
