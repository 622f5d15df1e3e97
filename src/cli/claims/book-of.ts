import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { planOf } from '../../core/intake.ts';
import { claimsIn, type SyncSqlite } from '../../records/sql/store/claims-in.ts';
import type { LoadedIntake } from '../basics/loading.ts';
import { packageOf } from '../basics/package-of.ts';
import { ClaimBook, MOST_INTERVALS } from './claim-book.ts';
import { SortedRuns } from './sorted-runs.ts';

/** A book of claims that takes no more memory than so much: what is more goes into files, which are gone in the end. */
export async function claimBook(intake: LoadedIntake): Promise<{ readonly book: ClaimBook; close(): void }> {
  const hasIntervals = planOf(intake).record.some(({ definition }) => definition.claims?.interval);
  // Loaded beforehand, since claims are asked for without waiting; where it is missing, that is told once it is needed.
  const sqlite =
    hasIntervals &&
    (await packageOf<{ readonly default: new (file: string) => SyncSqlite }>(
      'libsql',
      `An import in which more than ${MOST_INTERVALS.toLocaleString('en')} rows must not overlap`,
    ).catch((cause: Error) => cause));
  let folder: string | undefined;
  let runs: SortedRuns | undefined;
  const pathOf = (name: string) => {
    folder ??= mkdtempSync(join(tmpdir(), 'jestril-claims-'));
    return join(folder, name);
  };
  const book = new ClaimBook({
    runs() {
      runs = new SortedRuns(pathOf('values'));
      return runs;
    },
    intervals() {
      if (!sqlite || sqlite instanceof Error) throw sqlite;
      return claimsIn(new sqlite.default(pathOf('intervals.db')));
    },
  });
  return {
    book,
    close() {
      runs?.close();
      if (folder !== undefined) rmSync(folder, { recursive: true, force: true });
    },
  };
}
