import { resolve } from 'node:path';
import { planOf } from '../../core/intake.ts';
import { Summary, type Summed } from '../../screening/summary.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { lookOf } from '../basics/terminal.ts';
import { exitOf } from '../check/check.ts';
import { databaseAt, isDatabase } from '../databases/databases.ts';
import type { Format } from '../reading/data.ts';
import { givenText, type JudgingFlags, settingsFor } from '../records/settings.ts';
import { asJson, asText } from '../telling/print.ts';
import { type Assembled, assembled, bookFor, type MachineFlags } from './assembled.ts';
import { coordinate, Stopped } from './coordinate.ts';
import { gather } from './gather.ts';
import { idOf, JobFolder, type Manifest } from './job.ts';
import { LocalQueue, type Queue } from './queue.ts';
import { rangesOf, rangesOfTable } from './ranges.ts';
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
  readonly rangeBytes?: number;
  readonly format: 'text' | 'json';
}

/** Begins a screening, or goes on with one, and sees it through. */
export async function start(module: string, data: readonly string[], flags: StartFlags, context: Context): Promise<Exit> {
  const folder = new JobFolder(resolve(flags.to));
  if (folder.isThere && !flags.resume)
    throw new Misuse(`${flags.to} holds a screening already; go on with it by --resume, or name another folder.`);
  const manifest = folder.isThere ? folder.manifest() : await begun(folder, module, data, flags, context);
  if (folder.has('ended')) throw new Misuse(`The screening in ${flags.to} was ended; name another folder.`);
  if (folder.has('summary.json')) {
    const summed = JSON.parse(folder.read('summary.json')) as Summed;
    await tellSummary(summed, flags, context);
    return exitOf(summed.counts);
  }
  if (flags.redis !== undefined && manifest.claims && flags.shared === undefined)
    throw new Misuse(
      `"${manifest.intake}" has rules about what other rows claim, which machines settle in a database: name one that all of them reach with --shared.`,
    );
  const stop = stopping(context);
  const teller = new Teller(folder, manifest, { isTerminal: process.stderr.isTTY === true, writesPage: true });
  const crew = await crewOf(folder, manifest, module, flags);
  try {
    await coordinate(folder, manifest, crew.queue, crew.book, (progress) => teller.tell(progress), stop.signal);
    teller.end();
    await crew.close();
    const summed = await gather(folder, manifest);
    await forget(folder, manifest, flags);
    await tellSummary(summed, flags, context);
    context.warn(`The verdicts, counts, examples and a chart are in ${flags.to}; ${flags.to}/index.html shows them.\n`);
    return exitOf(summed.counts);
  } catch (cause) {
    if (!(cause instanceof Stopped)) throw cause;
    teller.stopped(cause.message);
    const isMeant = stop.signal.aborted || folder.has('ended');
    context.warn(folder.has('ended') ? `${cause.message}\n` : `${cause.message} What is done is kept: go on with --resume.\n`);
    return isMeant ? EXIT.undecided : EXIT.failed;
  } finally {
    stop.end();
    await crew.close();
  }
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
    layout: 1,
    id: idOf([folder.path, now, ...sources.map(({ name }) => name), String(process.pid)]),
    intake: intake.name,
    version: versionOf(module, intake),
    sources,
    as: formats.has(true) ? 'form' : (flags.as ?? 'json'),
    locale: flags.locale,
    now,
    ...(flags.occasion !== undefined && { occasion: flags.occasion }),
    ...(flags.report !== undefined && { report: flags.report }),
    ...(given !== undefined && { given }),
    claims: flags.records !== undefined && planOf(intake).record.some(({ definition }) => definition.claims !== undefined),
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
async function crewOf(folder: JobFolder, manifest: Manifest, module: string, flags: StartFlags) {
  const { redis } = flags;
  const takesPart = redis === undefined || (flags.workers ?? 0) > 0;
  const machine = takesPart ? await assembled(folder, manifest, module, { ...flags, workers: flags.workers ?? 1 }) : undefined;
  const settling = !machine && manifest.claims ? await bookFor(folder, manifest, flags.shared) : undefined;
  const work = (pass: 'alone' | 'settled', index: number) => (machine as Assembled).work.do(pass, index);
  const queue: Queue = redis === undefined ? new LocalQueue(machine?.width ?? 0, work) : await redisQueue(redis, manifest.id);
  const taking = redis !== undefined && machine ? await redisWorker(redis, manifest.id, machine.width, work) : undefined;
  let isClosed = false;
  return {
    queue,
    book: (machine ?? settling)?.book,
    async close() {
      if (isClosed) return;
      isClosed = true;
      await taking?.close();
      await queue.close();
      await machine?.close();
      await settling?.close();
    },
  };
}

/** Takes away what the screening has left with others, once its result is there. */
async function forget(folder: JobFolder, manifest: Manifest, { redis, shared }: StartFlags): Promise<void> {
  if (redis !== undefined) await forgetQueue(redis, manifest.id).catch(() => undefined);
  if (shared === undefined || !manifest.claims) return;
  const { book, close } = await bookFor(folder, manifest, shared);
  await book.forget().finally(close);
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
