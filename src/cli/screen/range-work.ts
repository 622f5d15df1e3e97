import type { LoadedIntake } from '../basics/loading.ts';
import type { OpenedDatabase } from '../databases/sort.ts';
import { type Correction, enteredOf } from '../screening/entered.ts';
import type { Judges } from '../screening/judges.ts';
import type { ClaimBook } from './claim-book.ts';
import type { JobFolder, Manifest, Pass, Range } from './job.ts';
import { pieceOf } from './ranges.ts';

/** Does one range after the other; doing one again gives the same. */
export class RangeWork {
  readonly #folder: JobFolder;
  readonly #manifest: Manifest;
  readonly #intake: LoadedIntake;
  readonly #judges: Judges;
  readonly #book: ClaimBook | undefined;
  readonly #database: OpenedDatabase | undefined;
  #ranges: readonly Range[] | undefined;
  #corrections: ReadonlyMap<number, readonly Correction[]> | undefined;

  /** @param database where the rows are, of a table */
  constructor(
    folder: JobFolder,
    manifest: Manifest,
    intake: LoadedIntake,
    judges: Judges,
    book: ClaimBook | undefined,
    database: OpenedDatabase | undefined,
  ) {
    this.#folder = folder;
    this.#manifest = manifest;
    this.#intake = intake;
    this.#judges = judges;
    this.#book = book;
    this.#database = database;
  }

  async do(pass: Pass, index: number): Promise<void> {
    this.#ranges ??= this.#folder.ranges();
    const range = this.#ranges[index] as Range;
    const { sources, as } = this.#manifest;
    const piece = await pieceOf(range, sources[range.source] as Manifest['sources'][number], this.#intake, this.#database);
    const begun = performance.now();
    const corrections = pass === 'settled' ? this.#correctionsOf(index) : undefined;
    const judged = await this.#judges.judge({ piece, rowsBefore: range.rowsBefore, as, ...(corrections && { corrections }) });
    // What is claimed is entered before the range counts as done: a range that is done again enters the same.
    if (pass === 'alone') await this.#book?.enter(judged.entered ?? enteredOf(judged.claims));
    const outcome = { index, rows: judged.rows, summed: judged.summed, took: Math.round(performance.now() - begun) };
    this.#folder.finish(pass, outcome, judged);
  }

  #correctionsOf(index: number): readonly Correction[] {
    this.#corrections ??= readCorrections(this.#folder);
    return this.#corrections.get(index) ?? [];
  }
}

const CORRECTIONS = 'corrections.ndjson';

/** Keeps what has to be told otherwise, by range. */
export function writeCorrections(folder: JobFolder, ranges: readonly Range[], corrections: readonly Correction[]): void {
  const lines = corrections.map((each) => `${JSON.stringify({ range: rangeAt(ranges, each.row), ...each })}\n`);
  folder.put(CORRECTIONS, lines.join(''));
}

export function hasCorrections(folder: JobFolder): boolean {
  return folder.has(CORRECTIONS);
}

export function readCorrections(folder: JobFolder): ReadonlyMap<number, readonly Correction[]> {
  const byRange = new Map<number, Correction[]>();
  const text = folder.read(CORRECTIONS).trimEnd();
  for (const line of text === '' ? [] : text.split('\n')) {
    const { range, ...correction } = JSON.parse(line) as Correction & { readonly range: number };
    const known = byRange.get(range);
    if (known) known.push(correction);
    else byRange.set(range, [correction]);
  }
  return byRange;
}

/** The range that a row is in: they are in order. */
function rangeAt(ranges: readonly Range[], row: number): number {
  let [low, high] = [0, ranges.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((ranges[middle] as Range).rowsBefore < row) low = middle;
    else high = middle - 1;
  }
  return low;
}
