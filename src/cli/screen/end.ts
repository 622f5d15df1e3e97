import { resolve } from 'node:path';
import type { Context } from '../basics/context.ts';
import { EXIT, type Exit } from '../basics/misuse.ts';
import { JobFolder } from './folder/job.ts';
import { forgetQueue } from './work/redis-queue.ts';

/** Ends a screening for good: its workers leave, and what it has in Redis, and in its folder on the way, is taken away. */
export async function end(to: string, flags: { readonly redis?: string }, context: Context): Promise<Exit> {
  const folder = new JobFolder(resolve(to));
  const manifest = folder.manifest();
  folder.put('ended', `${new Date().toISOString()}\n`);
  if (flags.redis !== undefined) await forgetQueue(flags.redis, manifest.id);
  folder.tidy();
  await context.out(`The screening in ${to} is ended; its folder can be deleted.\n`);
  return EXIT.accepted;
}
