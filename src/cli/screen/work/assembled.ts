import { type LoadedIntake, loadIntake } from '../../basics/loading.ts';
import { Misuse } from '../../basics/misuse.ts';
import { databaseAt, isDatabase } from '../../databases/databases.ts';
import type { OpenedDatabase } from '../../databases/sort.ts';
import { judgesInThreads, type Setup } from '../../screening/judges.ts';
import type { JobFolder, Manifest } from '../folder/job.ts';
import { RangeWork } from './range-work.ts';
import { versionOf } from './version.ts';

/** What a machine brings along that does a job's ranges. */
export interface MachineFlags {
  readonly workers: number;
  /** The records that rules ask. */
  readonly records?: string;
  /** The database with the rows of a table. */
  readonly from?: string;
}

/** All that judging ranges needs. */
export interface Assembled {
  readonly work: RangeWork;
  /** Ranges that are done side by side: one more than there are threads, so that none waits while what it judged is entered and written. */
  readonly width: number;
  close(): Promise<void>;
}

export async function assembled(
  folder: JobFolder,
  manifest: Manifest,
  module: string,
  flags: MachineFlags,
  warn: (text: string) => void,
): Promise<Assembled> {
  const intake = await sameIntake(manifest, module);
  const opened: { close(): Promise<void> }[] = [];
  try {
    const database = manifest.sources.some(({ format }) => format === 'table') ? await rowsDatabase(flags.from, opened) : undefined;
    const setup: Setup = {
      module,
      intake: manifest.intake,
      seed: manifest.seed,
      flags: {
        locale: manifest.locale,
        now: manifest.now,
        ...(flags.records !== undefined && { records: flags.records }),
        ...(manifest.given !== undefined && { given: manifest.given }),
        ...(manifest.occasion !== undefined && { occasion: manifest.occasion }),
        ...(manifest.report !== undefined && { report: manifest.report }),
      },
      telling: {
        format: 'lines',
        rejected: manifest.writes.rejected !== undefined,
        accepted: manifest.writes.accepted !== undefined || manifest.writes.into !== undefined,
        amends: false,
        explain: false,
      },
      terminal: {},
    };
    const judges = await judgesInThreads(flags.workers, intake, setup, warn);
    opened.push(judges);
    return {
      work: new RangeWork(folder, manifest, intake, judges, database),
      width: judges.width + 1,
      close: () => closeAll(opened),
    };
  } catch (cause) {
    await closeAll(opened);
    throw cause;
  }
}

async function closeAll(opened: readonly { close(): Promise<void> }[]): Promise<void> {
  for (const each of [...opened].reverse()) await each.close();
}

/** @throws Misuse where the rules are others than those that the job was begun with */
export async function sameIntake({ version, intake: name }: Manifest, module: string): Promise<LoadedIntake> {
  const intake = await loadIntake(module, name);
  if (versionOf(module, intake) !== version)
    throw new Misuse(
      `${module} has other rules for "${name}" than those that the screening was begun with; bring the same version here, or begin another screening.`,
    );
  return intake;
}

async function rowsDatabase(from: string | undefined, opened: { close(): Promise<void> }[]): Promise<OpenedDatabase> {
  if (from === undefined || !isDatabase(from)) throw new Misuse('The rows are in a table; name its database with --from.');
  const database = await databaseAt(from);
  opened.push(database);
  return database;
}
