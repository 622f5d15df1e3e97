import { randomUUID } from 'node:crypto';
import { resolve } from 'node:path';
import { planOf } from '../../core/intake.ts';
import type { Context } from '../basics/context.ts';
import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { refuseSame } from '../basics/same-file.ts';
import { newSeed } from '../claims/fingerprint.ts';
import { databaseAt, isDatabase } from '../databases/databases.ts';
import type { Format } from '../reading/data.ts';
import { givenText, type JudgingFlags, settingsFor } from '../records/settings.ts';
import { RejectedFile } from '../screening/rejected.ts';
import type { JobFolder, Manifest } from './folder/job.ts';
import { Into } from './result/into.ts';
import { rowFormOf } from './result/written.ts';
import { rangesOf, rangesOfTable } from './sources/ranges.ts';
import { sampled } from './sources/sample.ts';
import type { MachineFlags } from './work/assembled.ts';
import { versionOf } from './work/version.ts';

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

/** Cuts what is to be screened, and writes down what it is and how it is judged. */
export async function begun(
  folder: JobFolder,
  module: string,
  data: readonly string[],
  flags: StartFlags,
  context: Context,
): Promise<Manifest> {
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
    writes: await writesOf(intake, [...data, module, flags.records, flags.given], sources, flags),
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

/**
 * What is asked to be written besides; what could not be is told before anything is judged.
 *
 * @param read files that are read, which nothing may be written over
 */
async function writesOf(
  intake: LoadedIntake,
  read: readonly (string | undefined)[],
  sources: Manifest['sources'],
  { rejected, accepted, into, intoTable }: StartFlags,
): Promise<Manifest['writes']> {
  for (const [name, path] of Object.entries({ rejected, accepted })) refuseSame(`--${name}`, path, read);
  if (rejected !== undefined && accepted !== undefined && resolve(rejected) === resolve(accepted))
    throw new Misuse('--rejected and --accepted name one file; give each its own.');
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

/** The table that takes what is accepted, in its database. */
export async function intoAt(
  address: string,
  table: string,
  intake: LoadedIntake,
): Promise<{ readonly into: Into; close(): Promise<void> }> {
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
