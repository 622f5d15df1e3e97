import type { LoadedIntake } from '../../basics/loading.ts';
import { NO_CLAIMS } from '../../claims/claim-list.ts';
import type { OpenedDatabase } from '../../databases/sort.ts';
import type { Judges } from '../../screening/judges.ts';
import type { JobFolder, Manifest, Range, Turn } from '../folder/job.ts';
import { OtherSource } from '../sources/bytes.ts';
import { pieceOf } from '../sources/ranges.ts';

/** Does one range after the other; doing one again gives the same. */
export class RangeWork {
  readonly #folder: JobFolder;
  readonly #manifest: Manifest;
  readonly #intake: LoadedIntake;
  readonly #judges: Judges;
  readonly #database: OpenedDatabase | undefined;
  #ranges: readonly Range[] | undefined;

  /** @param database where the rows are, of a table */
  constructor(folder: JobFolder, manifest: Manifest, intake: LoadedIntake, judges: Judges, database: OpenedDatabase | undefined) {
    this.#folder = folder;
    this.#manifest = manifest;
    this.#intake = intake;
    this.#judges = judges;
    this.#database = database;
  }

  async do(turn: Turn): Promise<void> {
    this.#ranges ??= this.#folder.ranges();
    const range = this.#ranges[turn.index] as Range;
    const { sources, as, claims } = this.#manifest;
    const source = sources[range.source] as Manifest['sources'][number];
    const piece = await pieceOf(range, source, this.#intake, this.#database);
    const begun = performance.now();
    const answers = this.#folder.answersFor(turn, range);
    const judged = await this.#judges.judge({ piece, rowsBefore: range.rowsBefore, as, ...(answers && { answers }) });
    const { rows, summed } = judged;
    if (rows !== range.rows)
      throw new OtherSource(
        `${source.name} holds ${rows} rows where ${range.rows} were cut (behind row ${range.rowsBefore}); begin another screening.`,
      );
    const took = Math.round(performance.now() - begun);
    this.#folder.finish({ ...turn, rows, summed, took }, claims ? judged : { ...judged, claims: NO_CLAIMS });
  }
}
