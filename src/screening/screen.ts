import type { AcceptedOf, Fields } from '../core/declared/field.ts';
import type { Intake, RestOfMany } from '../core/intake.ts';
import type { Submissions } from '../core/judging/judge-many.ts';
import type { Judged } from '../core/judging/judged-rows.ts';
import { type FoundBy, type OpenBy, Summary, type TriedBy } from './summary.ts';

/** What came of a screening: counts, and findings by rule and field with where each is first. */
export interface Screened {
  readonly rows: number;
  readonly accepted: number;
  readonly rejected: number;
  readonly undecided: number;
  /** By use and field, the most first; the line of an example is the number of its row. */
  readonly found: readonly FoundBy[];
  readonly open: readonly OpenBy[];
  readonly tried: readonly TriedBy[];
}

/**
 * Judges all rows of a source, hands them with their verdicts to a sink, in order, and counts. Both go as fast as the slower of them, and
 * memory does not grow with the rows: a source may be an object store, a queue or a cursor, a sink whatever takes an async iterable.
 * What the sink leaves is not judged. Of one range among many, `rowsBefore` numbers the rows and `claims` keeps what they claim.
 *
 * @param rest the options of `judgeMany`
 * @returns what came of the rows that the sink took
 */
export async function screen<F extends Fields, Key>(
  intake: Intake<F, Key>,
  source: Submissions,
  sink: (rows: AsyncIterable<Judged<AcceptedOf<F>>>) => Promise<unknown> | unknown,
  ...rest: RestOfMany<F, Key>
): Promise<Screened> {
  const summary = new Summary();
  const rows = intake.judgeMany(source, ...rest);
  let count = 0;
  async function* counted() {
    for await (const judged of rows) {
      count += 1;
      summary.add({ file: '', line: judged.row }, judged.verdict);
      yield judged;
    }
  }
  await sink(counted());
  const { accepted, rejected, undecided } = summary.counts;
  return { rows: count, accepted, rejected, undecided, found: summary.found, open: summary.open, tried: summary.tried };
}
