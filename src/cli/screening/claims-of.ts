import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ClaimStore } from '../../core/asking/ledger.ts';
import { planOf } from '../../core/intake.ts';
import type { SyncSqlite } from '../../records/sql/store/claims-in.ts';
import type { LoadedIntake } from '../basics/loading.ts';
import { packageOf } from '../basics/package-of.ts';
import { MOST_HELD, SpilledClaims } from './spilled-claims.ts';

/** What rows of an import claim, in memory and then in a file, which is gone in the end. */
export async function claimsOf(intake: LoadedIntake): Promise<{ readonly store: ClaimStore; close(): void }> {
  const isClaiming = planOf(intake).record.some(({ definition }) => definition.claims !== undefined);
  let folder: string | undefined;
  // Loaded beforehand, since claims are asked for without waiting; where it is missing, that is told once it is needed.
  const sqlite = isClaiming
    ? await packageOf<{ readonly default: new (file: string) => SyncSqlite }>(
        'libsql',
        `An import in which more than ${MOST_HELD.toLocaleString('en')} values must be unique`,
      ).catch((cause: Error) => cause)
    : undefined;
  const open = (): SyncSqlite => {
    if (!sqlite || sqlite instanceof Error) throw sqlite;
    folder = mkdtempSync(join(tmpdir(), 'jestril-claims-'));
    return new sqlite.default(join(folder, 'claims.db'));
  };
  return {
    store: new SpilledClaims(open),
    close: () => {
      if (folder !== undefined) rmSync(folder, { recursive: true, force: true });
    },
  };
}
