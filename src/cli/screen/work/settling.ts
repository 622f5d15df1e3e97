import { readFile } from 'node:fs/promises';
import type { LoadedIntake } from '../../basics/loading.ts';
import { claimBook } from '../../claims/book-of.ts';
import { claimsFrom } from '../../claims/claim-list.ts';
import { settle } from '../../claims/settle.ts';
import type { JobFolder, Outcome, Range, Turn } from '../folder/job.ts';

/**
 * Settles what the rows of all ranges claim, in their order, from what each range has written down.
 *
 * @param entries what came of each range by itself
 * @returns the turns of those whose rows are to be told otherwise than by their own range
 */
export async function settleRanges(
  folder: JobFolder,
  intake: LoadedIntake,
  ranges: readonly Range[],
  entries: readonly Outcome[],
): Promise<readonly Turn[]> {
  const turns: Turn[] = [];
  const { book, close } = await claimBook(intake);
  try {
    for (const range of ranges) {
      const entry = entries[range.index] as Outcome;
      const list = claimsFrom(await readFile(folder.partOf(entry, 'claims')));
      const answers = settle(list, range.rowsBefore, book);
      if (answers) turns.push(folder.putAnswers(range, answers, entry));
    }
  } finally {
    close();
  }
  return turns;
}
