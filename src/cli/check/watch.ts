import { spawn } from 'node:child_process';
import { existsSync, watch as watchFolder } from 'node:fs';
import { dirname, resolve } from 'node:path';
import type { Context } from '../basics/context.ts';
import { type Exit, Misuse } from '../basics/misuse.ts';
import { STDIN } from '../reading/text-in.ts';

/** Milliseconds in which several changes count as one: editors write a file in several steps. */
const SETTLING = 150;

/** Runs the command again, each time in a process of its own, whenever something beside the module or the data changes. Never ends by itself. */
export function watch(module: string, data: readonly string[], { warn }: Context): Promise<Exit> {
  if (data.includes(STDIN)) throw new Misuse('Standard input cannot be watched; name a file.');
  for (const path of [module, ...data]) if (!existsSync(path)) throw new Misuse(`There is no file ${path}.`);
  const args = process.argv.slice(2).filter((arg) => arg !== '--watch');
  let running: ReturnType<typeof spawn> | undefined;
  let timer: NodeJS.Timeout | undefined;
  const start = () => {
    running?.kill();
    if (process.stderr.isTTY) warn('\u001b[2J\u001b[H');
    running = spawn(process.execPath, [process.argv[1] as string, ...args], { stdio: ['ignore', 'inherit', 'inherit'] });
    running.once('exit', (_code, signal) => {
      if (!signal) warn('Waiting for changes; end with Ctrl-C.\n');
    });
  };
  const folders = new Set([module, ...data].map((path) => dirname(resolve(path))));
  for (const folder of folders)
    watchFolder(folder, { recursive: true }, (_event, name) => {
      if (name?.includes('node_modules') || name?.startsWith('.')) return;
      clearTimeout(timer);
      timer = setTimeout(start, SETTLING);
    });
  start();
  return new Promise(() => undefined);
}
