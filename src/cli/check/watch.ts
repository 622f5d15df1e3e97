import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { type Context, STDIN } from '../basics/context.ts';
import { type Exit, Misuse } from '../basics/misuse.ts';
import { watched } from '../basics/watched.ts';

/** Runs the command again, each time in a process of its own, whenever something beside the module or the data changes. Never ends by itself. */
export function watch(module: string, data: readonly string[], { warn }: Context): Promise<Exit> {
  if (data.includes(STDIN)) throw new Misuse('Standard input cannot be watched; name a file.');
  for (const path of [module, ...data]) if (!existsSync(path)) throw new Misuse(`There is no file ${path}.`);
  const args = process.argv.slice(2).filter((arg) => arg !== '--watch');
  let running: ReturnType<typeof spawn> | undefined;
  const start = () => {
    running?.kill();
    if (process.stderr.isTTY) warn('\u001b[2J\u001b[H');
    running = spawn(process.execPath, [process.argv[1] as string, ...args], { stdio: ['ignore', 'inherit', 'inherit'] });
    running.once('exit', (_code, signal) => {
      if (!signal) warn('Waiting for changes; end with Ctrl-C.\n');
    });
  };
  watched([...new Set([module, ...data].map((path) => dirname(resolve(path))))], start);
  start();
  return new Promise(() => undefined);
}
