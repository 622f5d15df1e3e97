import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import type { Context } from '../basics/context.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';
import { JobFolder } from './folder/job.ts';
import { assembled, type MachineFlags } from './work/assembled.ts';
import { forgetQueue, redisWorker } from './work/redis-queue.ts';

/** Milliseconds between two looks whether the screening is over. */
const PAUSE = 1000;

/** Takes part in a screening until it is over. */
export async function join(
  module: string,
  to: string,
  flags: Omit<MachineFlags, 'workers'> & { readonly redis: string; readonly workers?: number },
  context: Context,
): Promise<Exit> {
  const folder = new JobFolder(resolve(to));
  const manifest = folder.manifest();
  if (isOver(folder)) return EXIT.accepted;
  const machine = await assembled(folder, manifest, module, { ...flags, workers: flags.workers ?? 1 }, context.warn);
  let count = 0;
  const taking = await redisWorker(flags.redis, manifest.id, machine.width, async (turn) => {
    await machine.work.do(turn);
    count += 1;
  });
  context.warn(`Taking part in the screening of "${manifest.intake}"; end it with Ctrl-C.\n`);
  let isStopped = false;
  const stop = () => {
    isStopped = true;
  };
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, stop);
  while (!isStopped && !isOver(folder)) await new Promise((done) => setTimeout(done, PAUSE));
  await taking.close();
  await machine.close();
  // Who leaves last leaves nothing behind.
  if (isOver(folder)) await forgetQueue(flags.redis, manifest.id).catch(() => undefined);
  await context.out(`${count} ranges were done here.\n`);
  return EXIT.accepted;
}

/** It is done, or was ended. */
export function isOver(folder: JobFolder): boolean {
  return folder.has('summary.json') || folder.has('ended') || !existsSync(folder.path);
}
