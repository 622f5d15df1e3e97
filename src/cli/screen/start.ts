import { randomUUID } from 'node:crypto';
import { resolve } from 'node:path';
import { planOf } from '../../core/intake.ts';
import { Summary, type Summed } from '../../screening/summary.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { refuseSame } from '../basics/same-file.ts';
import { lookOf } from '../basics/terminal.ts';
import { exitOf } from '../check/check.ts';
import { newSeed } from '../claims/fingerprint.ts';
import { withoutPassword } from '../databases/address.ts';
import { databaseAt, isDatabase } from '../databases/databases.ts';
import type { Format } from '../reading/data.ts';
import { isAddress } from '../reading/http-in.ts';
import { givenText, type JudgingFlags, settingsFor } from '../records/settings.ts';
import { RejectedFile } from '../screening/rejected.ts';
import { asJson, asText } from '../telling/print.ts';
import { type Assembled, assembled, type MachineFlags, sameIntake } from './assembled.ts';
import { coordinate, type Limit, type Progress, Stopped, TooMany } from './coordinate.ts';
import { gather, NOT_STORED } from './gather.ts';
import { Into, type Stored } from './into.ts';
import { JobFolder, type Manifest, type Turn } from './job.ts';
import { FolderLock } from './lock.ts';
import { JobLog } from './log.ts';
import { LocalQueue, type Queue } from './queue.ts';
import { checkSources, rangesOf, rangesOfTable } from './ranges.ts';
import { forgetQueue, redisQueue, redisWorker } from './redis-queue.ts';
import { sampled } from './sample.ts';
import { Teller } from './telling.ts';
import { versionOf } from './version.ts';
import { rowFormOf } from './written.ts';

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
  readonly rejected?: string;
  readonly accepted?: string;
  readonly into?: string;
  readonly intoTable?: string;
  readonly stopAfter?: number;
  readonly mostRejected?: number;
  readonly sample?: number;
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
    if (manifest.writes.into !== undefined && flags.into === undefined && !folder.has('summary.json'))
      throw new Misuse(`What is accepted goes into ${manifest.writes.into}; name its database with --into.`);
    if (folder.has('summary.json')) {
      const summed = JSON.parse(folder.read('summary.json')) as Summed;
      if (flags.undecided && manifest.writes.into !== undefined)
        throw new Misuse(
          `What was accepted is stored in ${manifest.writes.into}, and would be in its own way; screen the rows that are undecided as another file (--rejected writes them).`,
        );
      if (!flags.undecided || summed.counts.undecided === 0 || !folder.isOpen) {
        await tellSummary(summed, flags, context);
        return exitOf(summed.counts);
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
    return exitWith(summed.counts, stored);
  } catch (cause) {
    if (!(cause instanceof Stopped)) throw cause;
    teller.stopped(cause.message);
    log.write('stopped', { why: cause.message });
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

function exitWith(counts: Summed['counts'], stored: Pick<Stored, 'refused'> | undefined): Exit {
  const exit = exitOf(counts);
  return stored && stored.refused.length > 0 && exit !== EXIT.misuse ? EXIT.rejected : exit;
}

/** What is gone on with is what was begun: the same data, judged in the same way. */
function checkSame(folder: JobFolder, manifest: Manifest, data: readonly string[], flags: StartFlags, named: ReadonlySet<string>): void {
  const begunWith = (what: string, was: string) =>
    new Misuse(`${flags.to} is the screening of ${what}: it was begun with ${was}. Name the same, or another folder.`);
  const files = manifest.sources.flatMap(({ path }) => path ?? []);
  const asked = data.map((file) => (isAddress(file) ? withoutPassword(file) : resolve(file)));
  if (asked.length > 0 && (asked.length !== files.length || asked.some((file, at) => file !== files[at])))
    throw begunWith('other data', manifest.sources.map(({ name }) => name).join(', '));
  for (const name of ['intake', 'locale', 'occasion', 'report', 'now', 'given', 'as'] as const) {
    const text = flags[name];
    if (text === undefined || !named.has(name)) continue;
    const wanted = name === 'given' ? givenText(text) : text;
    if (wanted !== manifest[name])
      throw begunWith(`another --${name}`, name === 'given' ? 'other values' : String(manifest[name] ?? 'none'));
  }
  for (const name of ['rejected', 'accepted'] as const) {
    const path = flags[name];
    if (path !== undefined && resolve(path) !== manifest.writes[name])
      throw begunWith(`another --${name}`, manifest.writes[name] ?? 'none');
  }
  if (
    flags.into !== undefined &&
    (manifest.writes.into === undefined || (flags.intoTable ?? manifest.writes.into) !== manifest.writes.into)
  )
    throw begunWith('another --into', manifest.writes.into ?? 'none');
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
  const all = await cut(folder, intake, data, flags, context);
  const { sources } = all;
  const { sample } = flags;
  if (sample !== undefined && (flags.into !== undefined || flags.from !== undefined))
    throw new Misuse('--sample shows what would come of files; it stores nothing, and goes with neither --into nor --from.');
  const ranges = sample === undefined ? all.ranges : sampled(sources, all.ranges, sample);
  const formats = new Set(sources.map(({ format }) => format === 'csv' || format === 'form'));
  if (formats.size > 1) throw new Misuse('Some files hold text and some JSON; screen them one after the other.');
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
    writes: await writesOf(intake, data, sources, flags),
    claims: planOf(intake).record.some(({ definition }) => definition.claims !== undefined),
    rows: ranges.reduce((sum, { rows }) => sum + rows, 0),
    ranges: ranges.length,
  };
  folder.create(manifest, ranges);
  const last = all.ranges.at(-1);
  if (ranges !== all.ranges && last)
    context.warn(
      `Of ${(last.rowsBefore + last.rows).toLocaleString('en')} rows ${manifest.rows.toLocaleString('en')} are judged, from the first to the last.\n`,
    );
  return manifest;
}

/** What is asked to be written besides; what could not be is told before anything is judged. */
async function writesOf(
  intake: LoadedIntake,
  data: readonly string[],
  sources: Manifest['sources'],
  { rejected, accepted, into, intoTable }: StartFlags,
): Promise<Manifest['writes']> {
  for (const [name, path] of Object.entries({ rejected, accepted })) refuseSame(`--${name}`, path, data);
  if (rejected !== undefined) {
    const file = new RejectedFile(rejected);
    for (const source of sources) file.begin(rowFormOf(source));
  }
  const table = intoTable ?? planOf(intake).storedIn?.name;
  if (into !== undefined) {
    if (table === undefined)
      throw new Misuse(`Intake "${intake.name}" says of no collection that it is stored there; name the table with --into-table.`);
    await (await intoAt(into, table, intake)).close();
  }
  return {
    ...(rejected !== undefined && { rejected: resolve(rejected) }),
    ...(accepted !== undefined && { accepted: resolve(accepted) }),
    ...(into !== undefined && table !== undefined && { into: table }),
  };
}

async function intoAt(address: string, table: string, intake: LoadedIntake): Promise<{ readonly into: Into; close(): Promise<void> }> {
  if (!isDatabase(address)) throw new Misuse(`--into ${address} is no database; for a file there is --accepted.`);
  const database = await databaseAt(address);
  try {
    return { into: await Into.open(database, table, intake), close: database.close };
  } catch (cause) {
    await database.close();
    throw cause;
  }
}

async function cut(
  folder: JobFolder,
  intake: LoadedIntake,
  data: readonly string[],
  flags: StartFlags,
  context: Context,
): ReturnType<typeof rangesOf> {
  if (flags.from === undefined) {
    if (data.length === 0) throw new Misuse('Name the files to screen, or a database with --from.');
    return rangesOf(data, intake, flags, context.warn, (number) => folder.copyOf(number));
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
