import { randomUUID } from 'node:crypto';
import { resolve } from 'node:path';
import { planOf } from '../../core/intake.ts';
import { Summary, type Summed } from '../../screening/summary.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { lookOf } from '../basics/terminal.ts';
import { exitOf } from '../check/check.ts';
import { newSeed } from '../claims/fingerprint.ts';
import { databaseAt, isDatabase } from '../databases/databases.ts';
import type { Format } from '../reading/data.ts';
import { givenText, type JudgingFlags, settingsFor } from '../records/settings.ts';
import { asJson, asText } from '../telling/print.ts';
import { type Assembled, assembled, type MachineFlags, sameIntake } from './assembled.ts';
import { coordinate, type Progress, Stopped } from './coordinate.ts';
import { gather } from './gather.ts';
import { JobFolder, type Manifest, type Turn } from './job.ts';
import { FolderLock } from './lock.ts';
import { LocalQueue, type Queue } from './queue.ts';
import { checkSources, rangesOf, rangesOfTable } from './ranges.ts';
import { forgetQueue, redisQueue, redisWorker } from './redis-queue.ts';
import { Teller } from './telling.ts';
import { versionOf } from './version.ts';

export interface StartFlags extends JudgingFlags, Omit<MachineFlags, 'workers'> {
  readonly to: string;
  readonly workers?: number;
  readonly intake?: string;
  readonly input?: Format;
  readonly delimiter?: string;
  readonly header?: string;
  readonly as?: 'json' | 'form';
  readonly table?: string;
  readonly redis?: string;
  readonly resume?: boolean;
  readonly undecided?: boolean;
  readonly rangeBytes?: number;
  readonly format: 'text' | 'json';
}

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
    if (folder.has('summary.json')) {
      const summed = JSON.parse(folder.read('summary.json')) as Summed;
      if (!flags.undecided || summed.counts.undecided === 0 || !folder.isOpen) {
        await tellSummary(summed, flags, context);
        return exitOf(summed.counts);
      }
      folder.remove('summary.json');
    }
    return await seenThrough(folder, manifest, intake, module, flags, lock, context);
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
): Promise<Exit> {
  const { to, redis } = flags;
  const stop = stopping(context);
  const teller = new Teller(folder, manifest, { isTerminal: process.stderr.isTTY === true, writesPage: true });
  const crew = await crewOf(folder, manifest, module, flags, context.warn);
  const told = (progress: Progress) => teller.tell(progress);
  try {
    const job = { folder, manifest, intake, queue: crew.queue, lock, signal: stop.signal, told };
    const outcomes = await coordinate(job, flags.undecided === true);
    teller.end();
    await crew.close();
    const summed = await gather(folder, manifest, outcomes);
    if (redis !== undefined) await forgetQueue(redis, manifest.id).catch(() => undefined);
    await tellSummary(summed, flags, context);
    context.warn(`The verdicts, counts, examples and a chart are in ${to}; ${to}/index.html shows them.\n`);
    const { undecided } = summed.counts;
    if (undecided > 0)
      context.warn(
        `${undecided === 1 ? 'One row is' : `${undecided.toLocaleString('en')} rows are`} undecided; judge again what may be decided by now with --resume --undecided.\n`,
      );
    return exitOf(summed.counts);
  } catch (cause) {
    if (!(cause instanceof Stopped)) throw cause;
    teller.stopped(cause.message);
    const isMeant = stop.signal.aborted || folder.has('ended');
    context.warn(folder.has('ended') ? `${cause.message}\n` : `${cause.message} What is done is kept: go on with --resume.\n`);
    return isMeant ? EXIT.undecided : EXIT.failed;
  } finally {
    teller.end();
    stop.end();
    await crew.close();
  }
}

/** What is gone on with is what was begun: the same data, judged in the same way. */
function checkSame(folder: JobFolder, manifest: Manifest, data: readonly string[], flags: StartFlags, named: ReadonlySet<string>): void {
  const begunWith = (what: string, was: string) =>
    new Misuse(`${flags.to} is the screening of ${what}: it was begun with ${was}. Name the same, or another folder.`);
  const files = manifest.sources.flatMap(({ path }) => path ?? []);
  const asked = data.map((file) => resolve(file));
  if (asked.length > 0 && (asked.length !== files.length || asked.some((file, at) => file !== files[at])))
    throw begunWith('other data', manifest.sources.map(({ name }) => name).join(', '));
  for (const name of ['intake', 'locale', 'occasion', 'report', 'now', 'given', 'as'] as const) {
    const text = flags[name];
    if (text === undefined || !named.has(name)) continue;
    const wanted = name === 'given' ? givenText(text) : text;
    if (wanted !== manifest[name])
      throw begunWith(`another --${name}`, name === 'given' ? 'other values' : String(manifest[name] ?? 'none'));
  }
  if (asked.length > 0 || !folder.has('summary.json')) checkSources(manifest.sources, folder.ranges());
}

async function begun(folder: JobFolder, module: string, data: readonly string[], flags: StartFlags, context: Context): Promise<Manifest> {
  if (flags.resume) context.warn(`${flags.to} holds no screening yet; this one begins.\n`);
  const intake = await loadIntake(module, flags.intake);
  const now = flags.now ?? new Date().toISOString();
  const given = flags.given === undefined ? undefined : givenText(flags.given);
  // What is wrong with the settings is told before anything is cut.
  const settings = await settingsFor(intake, { ...flags, now, ...(given !== undefined && { given }) }, context);
  await settings.close();
  const { sources, ranges } = await cut(intake, data, flags, context);
  const formats = new Set(sources.map(({ format }) => format === 'csv' || format === 'form'));
  if (formats.size > 1) throw new Misuse('Some files hold text and some JSON; screen them one after the other.');
  const last = ranges.at(-1);
  const manifest: Manifest = {
    layout: 2,
    id: randomUUID().slice(0, 18),
    seed: newSeed(),
    intake: intake.name,
    version: versionOf(module, intake),
    sources,
    as: formats.has(true) ? 'form' : (flags.as ?? 'json'),
    locale: flags.locale,
    now,
    ...(flags.occasion !== undefined && { occasion: flags.occasion }),
    ...(flags.report !== undefined && { report: flags.report }),
    ...(given !== undefined && { given }),
    claims: planOf(intake).record.some(({ definition }) => definition.claims !== undefined),
    rows: last ? last.rowsBefore + last.rows : 0,
    ranges: ranges.length,
  };
  folder.create(manifest, ranges);
  return manifest;
}

async function cut(intake: LoadedIntake, data: readonly string[], flags: StartFlags, context: Context): ReturnType<typeof rangesOf> {
  if (flags.from === undefined) {
    if (data.length === 0) throw new Misuse('Name the files to screen, or a database with --from.');
    return rangesOf(data, intake, flags, context.warn);
  }
  if (!isDatabase(flags.from)) throw new Misuse(`--from ${flags.from} is no database; files are named behind the module.`);
  const { storedIn } = planOf(intake);
  const table = flags.table ?? storedIn?.name;
  const key = storedIn?.key ?? ['id'];
  if (table === undefined)
    throw new Misuse(`Intake "${intake.name}" says of no collection that it is stored there; name the table with --table.`);
  if (key.length !== 1) throw new Misuse(`${table} has a key of ${key.length} columns; ranges need a key of one.`);
  const database = await databaseAt(flags.from);
  try {
    return await rangesOfTable(database, table, key[0] as string);
  } finally {
    await database.close();
  }
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
