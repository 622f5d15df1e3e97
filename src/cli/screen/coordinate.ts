import type { ClaimBook } from './claim-book.ts';
import type { JobFolder, Manifest, Pass, Range } from './job.ts';
import type { Queue } from './queue.ts';
import { hasCorrections, readCorrections, writeCorrections } from './range-work.ts';

/** How far a screening is. */
export interface Progress {
  readonly pass: Pass;
  readonly ranges: number;
  readonly done: number;
  /** Rows of the ranges that are done. */
  readonly rows: number;
}

/** How far a pass over some ranges is. */
export function progressOf(ranges: readonly Range[], pass: Pass, wanted: readonly number[], done: ReadonlySet<number>): Progress {
  const through = wanted.filter((index) => done.has(index));
  const rows = through.reduce((sum, index) => sum + (ranges[index] as Range).rows, 0);
  return { pass, ranges: wanted.length, done: through.length, rows };
}

/** Milliseconds between two looks at the folder. */
const PAUSE = 300;
/** Times that a range fails for good before the screening stops. */
const MOST_FAILURES = 3;

/** Why a screening stopped before its end. */
export class Stopped extends Error {
  override readonly name = 'Stopped';
}

/**
 * Offers the ranges that are not done, until all are; then those once more whose rows claim what rows of other ranges have. The folder alone
 * says what is done: nothing is lost with a queue, a worker, or whoever runs this.
 *
 * @throws Stopped when told to, and where a range fails again and again
 */
export async function coordinate(
  folder: JobFolder,
  manifest: Manifest,
  queue: Queue,
  book: ClaimBook | undefined,
  told: (progress: Progress) => void,
  signal: AbortSignal,
): Promise<void> {
  const ranges = folder.ranges();
  const all = ranges.map(({ index }) => index);
  const offering = new Offering(folder, queue, ranges, told, signal);
  await offering.all('alone', all);
  if (!manifest.claims || !book) return;
  if (!hasCorrections(folder)) writeCorrections(folder, ranges, await book.corrections());
  await offering.all(
    'settled',
    [...readCorrections(folder).keys()].sort((one, other) => one - other),
  );
}

class Offering {
  readonly #folder: JobFolder;
  readonly #queue: Queue;
  readonly #ranges: readonly Range[];
  readonly #told: (progress: Progress) => void;
  readonly #signal: AbortSignal;
  readonly #failures = new Map<string, number>();
  #failed: Stopped | undefined;

  constructor(folder: JobFolder, queue: Queue, ranges: readonly Range[], told: (progress: Progress) => void, signal: AbortSignal) {
    this.#folder = folder;
    this.#queue = queue;
    this.#ranges = ranges;
    this.#told = told;
    this.#signal = signal;
    queue.onFailed((pass, index, why) => {
      const name = `${pass} ${index}`;
      const count = (this.#failures.get(name) ?? 0) + 1;
      this.#failures.set(name, count);
      // In this process nothing is tried twice: what fails is told at once.
      if (count >= MOST_FAILURES || queue.again === Number.POSITIVE_INFINITY) this.#failed = new Stopped(why);
    });
  }

  async all(pass: Pass, wanted: readonly number[]): Promise<void> {
    const offered = new Map<number, number>();
    for (;;) {
      const done = this.#folder.done(pass);
      const open = wanted.filter((index) => !done.has(index));
      this.#told(progressOf(this.#ranges, pass, wanted, done));
      if (open.length === 0) return;
      if (this.#folder.has('ended')) throw new Stopped('It was ended by jestril screen end.');
      if (this.#failed) throw this.#failed;
      if (this.#signal.aborted) throw new Stopped('Stopped.');
      const now = Date.now();
      const next = open.slice(0, this.#queue.room).filter((index) => {
        const last = offered.get(index);
        return last === undefined || now - last > this.#queue.again;
      });
      if (next.length > 0) {
        // A queue that is away is asked again the next time.
        const isOffered = await within(this.#queue.offer(pass, next), 5000);
        if (isOffered) for (const index of next) offered.set(index, now);
      }
      await new Promise((resolve) => setTimeout(resolve, PAUSE));
    }
  }
}

async function within(work: Promise<unknown>, milliseconds: number): Promise<boolean> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<boolean>((resolve) => {
    timer = setTimeout(() => resolve(false), milliseconds);
  });
  try {
    return await Promise.race([
      work.then(
        () => true,
        () => false,
      ),
      late,
    ]);
  } finally {
    clearTimeout(timer);
  }
}
