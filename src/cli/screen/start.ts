import { resolve } from 'node:path';
import { Summary, type Summed } from '../../screening/summary.ts';
import type { Context } from '../basics/context.ts';
import type { LoadedIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { lookOf } from '../basics/terminal.ts';
import { exitOf } from '../check/check.ts';
import { asJson, asText } from '../telling/print.ts';
import { begun, intoAt, type StartFlags } from './begin.ts';
import { JobFolder, type Manifest, type Turn } from './folder/job.ts';
import { FolderLock } from './folder/lock.ts';
import { JobLog } from './folder/log.ts';
import { gather, NOT_STORED } from './result/gather.ts';
import type { Stored } from './result/into.ts';
import { Teller } from './result/telling.ts';
import { checkSame } from './same.ts';
import { type Assembled, assembled, sameIntake } from './work/assembled.ts';
import { coordinate, type Limit, type Progress, Stopped, TooMany } from './work/coordinate.ts';
import { LocalQueue, type Queue } from './work/queue.ts';
import { forgetQueue, redisQueue, redisWorker } from './work/redis-queue.ts';

/**
 * Begins a screening, or goes on with one, and sees it through.
 *
 * @param named the flags that were given, and are not defaults
 */
export async function start(
  module: string,
  data: readonly string[],
  flags: StartFlags,
  context: Context,
  named: ReadonlySet<string>,
): Promise<Exit> {
  if (flags.undecided && !flags.resume)
    throw new Misuse('--undecided judges again what a screening has left undecided; write --resume with it.');
  const folder = new JobFolder(resolve(flags.to));
  const lock = FolderLock.take(folder.path);
  try {
    if (folder.isThere && !flags.resume)
      throw new Misuse(`${flags.to} holds a screening already; go on with it by --resume, or name another folder.`);
    const isNew = !folder.isThere;
    const manifest = isNew ? await begun(folder, module, data, flags, context) : folder.manifest();
    if (folder.has('ended')) throw new Misuse(`The screening in ${flags.to} was ended; name another folder.`);
    const intake = await sameIntake(manifest, module);
    if (!isNew) checkSame(folder, manifest, data, flags, named);
    if (manifest.writes.into !== undefined && flags.into === undefined && !folder.has('summary.json'))
      throw new Misuse(`What is accepted goes into ${manifest.writes.into}; name its database with --into.`);
    if (folder.has('summary.json')) {
      const summed = JSON.parse(folder.read('summary.json')) as Summed & { readonly stored?: { readonly refused: number } };
      if (flags.undecided && manifest.writes.into !== undefined)
        throw new Misuse(
          `What was accepted is stored in ${manifest.writes.into}, and would be in its own way; screen the rows that are undecided as another file (--rejected writes them).`,
        );
      if (!flags.undecided || summed.counts.undecided === 0 || !folder.isOpen) {
        await tellSummary(summed, flags, context);
        return exitWith(summed.counts, summed.stored?.refused);
      }
      folder.remove('summary.json');
    }
    return await seenThrough(folder, manifest, intake, module, flags, lock, context, isNew);
  } finally {
    lock.release();
  }
}

async function seenThrough(
  folder: JobFolder,
  manifest: Manifest,
  intake: LoadedIntake,
  module: string,
  flags: StartFlags,
  lock: FolderLock,
  context: Context,
  isNew: boolean,
): Promise<Exit> {
  const { to, redis } = flags;
  const stop = stopping(context);
  const log = new JobLog(folder, manifest);
  const begunAt = performance.now();
  log.write(isNew ? 'begun' : 'resumed', {
    intake: manifest.intake,
    version: manifest.version,
    sources: manifest.sources.map(({ name }) => name),
    rows: manifest.rows,
    ranges: manifest.ranges,
  });
  const teller = new Teller(folder, manifest, { isTerminal: process.stderr.isTTY === true, writesPage: true });
  const crew = await crewOf(folder, manifest, module, flags, context.warn);
  const told = (progress: Progress) => teller.tell(progress);
  const { into: table } = manifest.writes;
  const opened = table === undefined ? undefined : await intoAt(flags.into ?? '', table, intake);
  try {
    const most = mostNotAccepted(manifest, flags);
    const job = { folder, manifest, intake, queue: crew.queue, lock, signal: stop.signal, log, told, ...(most && { most }) };
    const outcomes = await coordinate(job, flags.undecided === true);
    teller.end();
    await crew.close();
    const { summed, stored } = await gather(folder, manifest, outcomes, opened?.into, stop.signal);
    if (redis !== undefined) await forgetQueue(redis, manifest.id).catch(() => undefined);
    const seconds = Math.round((performance.now() - begunAt) / 100) / 10;
    log.write('done', { ...summed.counts, ...(stored && { stored: stored.stored, refused: stored.refused.length }), seconds });
    await tellSummary(summed, flags, context);
    context.warn(`The verdicts, counts, examples and a chart are in ${to}; ${to}/index.html shows them.\n`);
    if (stored) context.warn(storedTold(stored, table as string, to));
    const { undecided } = summed.counts;
    if (undecided > 0 && !stored)
      context.warn(
        `${undecided === 1 ? 'One row is' : `${undecided.toLocaleString('en')} rows are`} undecided; judge again what may be decided by now with --resume --undecided.\n`,
      );
    return exitWith(summed.counts, stored?.refused.length);
  } catch (cause) {
    log.write('stopped', { why: (cause as Error).message });
    if (!(cause instanceof Stopped)) throw cause;
    teller.stopped(cause.message);
    if (cause instanceof TooMany) {
      context.warn(`${cause.message}\n`);
      return EXIT.rejected;
    }
    const isMeant = stop.signal.aborted || folder.has('ended');
    context.warn(folder.has('ended') ? `${cause.message}\n` : `${cause.message} What is done is kept: go on with --resume.\n`);
    return isMeant ? EXIT.undecided : EXIT.failed;
  } finally {
    teller.end();
    stop.end();
    await crew.close();
    await opened?.close();
  }
}

/** Rows that may be anything but accepted, and which flag says so. */
function mostNotAccepted({ rows }: Manifest, { stopAfter, mostRejected }: StartFlags): Limit | undefined {
  const byShare = mostRejected === undefined ? Number.POSITIVE_INFINITY : Math.floor(rows * mostRejected);
  const byCount = stopAfter === undefined ? Number.POSITIVE_INFINITY : stopAfter - 1;
  if (byCount <= byShare) return stopAfter === undefined ? undefined : { rows: byCount, flag: `--stop-after ${stopAfter}` };
  return { rows: byShare, flag: `--most-rejected ${Number(((mostRejected as number) * 100).toFixed(6))}%` };
}

function storedTold({ stored, refused }: Stored, table: string, to: string): string {
  const rows = (count: number) => (count === 1 ? 'One row' : `${count.toLocaleString('en')} rows`);
  const more = refused.length === 0 ? '' : ` ${rows(refused.length)} it has refused: ${to}/${NOT_STORED} says why.`;
  return `${rows(stored)} ${stored === 1 ? 'is' : 'are'} stored in ${table}.${more}\n`;
}

/** @param refused rows that the table did not take */
function exitWith(counts: Summed['counts'], refused = 0): Exit {
  const exit = exitOf(counts);
  return refused > 0 && exit !== EXIT.misuse ? EXIT.rejected : exit;
}

/** Who does the ranges: threads of this process, or workers that take them from Redis, this process among them if it is told so. */
async function crewOf(folder: JobFolder, manifest: Manifest, module: string, flags: StartFlags, warn: (text: string) => void) {
  const { redis } = flags;
  const takesPart = redis === undefined || (flags.workers ?? 0) > 0;
  const machine = takesPart ? await assembled(folder, manifest, module, { ...flags, workers: flags.workers ?? 1 }, warn) : undefined;
  const work = (turn: Turn) => (machine as Assembled).work.do(turn);
  const queue: Queue = redis === undefined ? new LocalQueue(machine?.width ?? 0, work) : await redisQueue(redis, manifest.id);
  const taking = redis !== undefined && machine ? await redisWorker(redis, manifest.id, machine.width, work) : undefined;
  let isClosed = false;
  return {
    queue,
    async close() {
      if (isClosed) return;
      isClosed = true;
      await taking?.close();
      await queue.close();
      await machine?.close();
    },
  };
}

/** Ctrl-C ends what is begun and no more; twice, at once. */
function stopping({ warn }: Context): { readonly signal: AbortSignal; end(): void } {
  const controller = new AbortController();
  const stop = () => {
    if (controller.signal.aborted) process.exit(EXIT.undecided);
    warn('\nStopping after the ranges that are begun; again to stop at once.\n');
    controller.abort();
  };
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, stop);
  return {
    signal: controller.signal,
    end: () => {
      for (const signal of ['SIGINT', 'SIGTERM'] as const) process.off(signal, stop);
    },
  };
}

async function tellSummary(summed: Summed, { format }: StartFlags, context: Context): Promise<void> {
  const summary = new Summary();
  summary.take(summed);
  await context.out((format === 'json' ? asJson : asText(lookOf(context.stdout))).end(summary));
}
