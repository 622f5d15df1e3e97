import { type LoadedIntake, loadIntake } from '../basics/loading.ts';
import { Misuse } from '../basics/misuse.ts';
import { databaseAt, isDatabase, sqliteAt } from '../databases/databases.ts';
import type { OpenedDatabase } from '../databases/sort.ts';
import { judgesInThreads } from '../screening/judges.ts';
import { ClaimBook } from './claim-book.ts';
import type { JobFolder, Manifest } from './job.ts';
import { RangeWork } from './range-work.ts';
import { versionOf } from './version.ts';

/** What a machine brings along that does a job's ranges. */
export interface MachineFlags {
  readonly workers: number;
  /** The records that rules ask. */
  readonly records?: string;
  /** The database in which ranges settle who claimed what first. */
  readonly shared?: string;
  /** The database with the rows of a table. */
  readonly from?: string;
}

/** All that judging ranges needs. */
export interface Assembled {
  readonly work: RangeWork;
  /** Ranges that are done side by side: one more than there are threads, so that none waits while what it judged is entered and written. */
  readonly width: number;
  readonly book: ClaimBook | undefined;
  close(): Promise<void>;
}

/** @throws Misuse where the rules are others than those that the job was begun with */
export async function assembled(folder: JobFolder, manifest: Manifest, module: string, flags: MachineFlags): Promise<Assembled> {
  const intake = await loadIntake(module, manifest.intake);
  checkVersion(manifest, module, intake);
  const opened: { close(): Promise<void> }[] = [];
  try {
    const database = manifest.sources.some(({ format }) => format === 'table') ? await rowsDatabase(flags.from, opened) : undefined;
    const book = manifest.claims ? await bookOf(folder, manifest, flags.shared, opened) : undefined;
    const judges = await judgesInThreads(flags.workers, intake, {
      module,
      intake: manifest.intake,
      flags: {
        locale: manifest.locale,
        now: manifest.now,
        ...(flags.records !== undefined && { records: flags.records }),
        ...(manifest.given !== undefined && { given: manifest.given }),
        ...(manifest.occasion !== undefined && { occasion: manifest.occasion }),
        ...(manifest.report !== undefined && { report: manifest.report }),
      },
      telling: { format: 'lines', rejected: false, amends: false, explain: false },
      terminal: {},
    });
    opened.push(judges);
    return {
      work: new RangeWork(folder, manifest, intake, judges, book, database),
      width: judges.width + 1,
      book,
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

function checkVersion({ version, intake: name }: Manifest, module: string, intake: LoadedIntake): void {
  if (versionOf(module, intake) !== version)
    throw new Misuse(
      `${module} has other rules for "${name}" than those that the screening was begun with; bring the same version here, or begin another screening.`,
    );
}

/** The book alone, for who does no ranges. */
export async function bookFor(
  folder: JobFolder,
  manifest: Manifest,
  shared: string | undefined,
): Promise<{ readonly book: ClaimBook; close(): Promise<void> }> {
  const opened: { close(): Promise<void> }[] = [];
  return { book: await bookOf(folder, manifest, shared, opened), close: () => closeAll(opened) };
}

/** In the database that is named, or in a file of the folder where nobody else takes part. */
async function bookOf(
  folder: JobFolder,
  { id }: Manifest,
  shared: string | undefined,
  opened: { close(): Promise<void> }[],
): Promise<ClaimBook> {
  const database: OpenedDatabase = shared === undefined ? await sqliteAt(`${folder.path}/claims.db`) : await databaseAt(shared);
  opened.push(database);
  return ClaimBook.open(database, id);
}

async function rowsDatabase(from: string | undefined, opened: { close(): Promise<void> }[]): Promise<OpenedDatabase> {
  if (from === undefined || !isDatabase(from)) throw new Misuse('The rows are in a table; name its database with --from.');
  const database = await databaseAt(from);
  opened.push(database);
  return database;
}
