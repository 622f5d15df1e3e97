import type { LoadedIntake } from '../../basics/loading.ts';
import type { JobFolder, Manifest, Outcome, Range, Turn } from '../folder/job.ts';
import type { FolderLock } from '../folder/lock.ts';
import type { JobLog } from '../folder/log.ts';
import { checkSources } from '../sources/bytes.ts';
import type { Queue } from './queue.ts';
import { settleRanges } from './settling.ts';

/** How far a screening is. */
export interface Progress {
  /** Ranges by themselves, or those once more whose rows claim what those of others do. */
  readonly pass: 'judging' | 'settling';
  readonly ranges: number;
  readonly done: number;
  /** Rows of the ranges that are done. */
  readonly rows: number;
}

/** Milliseconds between two looks at the folder where nothing else is said. */
const PAUSE = 300;
/** Times that a range fails for good before the screening stops. */
const MOST_FAILURES = 3;

/** Why a screening stopped before its end. */
export class Stopped extends Error {
  override readonly name = 'Stopped';
}

/** More rows are not accepted than may be. */
export class TooMany extends Stopped {}

export interface Limit {
  readonly rows: number;
  /** The flag that says so. */
  readonly flag: string;
}

/** A screening that is seen through. */
export interface Coordinated {
  readonly folder: JobFolder;
  readonly manifest: Manifest;
  readonly intake: LoadedIntake;
  readonly queue: Queue;
  readonly lock: Pick<FolderLock, 'isLost'>;
  readonly signal: AbortSignal;
  readonly pause?: number;
  readonly log?: JobLog;
  /** Rows that may be anything but accepted. */
  readonly most?: Limit;
  told(progress: Progress): void;
}

/**
 * Offers the ranges that are not done, until all are; then those once more whose rows claim what rows of other ranges have. The folder alone
 * says what is done: nothing is lost with a queue, a worker, or whoever runs this. A verdict counts with what its range claims, and with what
 * it was told of others, and no longer.
 *
 * @param isAgain what is undecided is judged once more
 * @returns what came of each range
 * @throws Stopped when told to, and where a range fails again and again
 */
export async function coordinate(job: Coordinated, isAgain: boolean): Promise<readonly Outcome[]> {
  const { folder, manifest, intake } = job;
  const ranges = folder.ranges();
  const offering = new Offering(job, ranges);
  let turns = newest(folder, ranges);
  if (isAgain) turns = await undecidedAgain(job, ranges, turns);
  await offering.all('judging', turns);
  // What counts is what is read here: somebody late may do a range once more, and write it down beside.
  const entries = turns.map((turn) => folder.outcome(turn));
  if (!manifest.claims) return entries;
  const settled = await settleRanges(folder, intake, ranges, entries);
  await offering.all('settling', settled);
  const last = new Map(settled.map((turn) => [turn.index, folder.outcome(turn)]));
  return entries.map((entry) => last.get(entry.index) ?? entry);
}

const ALONE = /^r(\d+)$/;

/** The last turn in which each range was judged by itself, or the first. */
function newest(folder: JobFolder, ranges: readonly Range[]): Turn[] {
  const done = folder.done();
  return ranges.map(({ index }) => {
    const numbers = [...(done.get(index) ?? [])].flatMap((turn) => Number(ALONE.exec(turn)?.[1] ?? []));
    return { index, turn: `r${Math.max(0, ...numbers)}` };
  });
}

/** The same, and one more of each range that has left something undecided. */
async function undecidedAgain(
  { folder, manifest, intake }: Coordinated,
  ranges: readonly Range[],
  turns: readonly Turn[],
): Promise<Turn[]> {
  const done = folder.done();
  const isDone = ({ index, turn }: Turn) => done.get(index)?.has(turn) ?? false;
  const last = new Map(turns.map((turn) => [turn.index, turn]));
  if (manifest.claims && turns.every(isDone)) {
    const entries = turns.map((turn) => folder.outcome(turn));
    for (const turn of await settleRanges(folder, intake, ranges, entries)) if (isDone(turn)) last.set(turn.index, turn);
  }
  return turns.map((turn) => {
    // What a range by itself left undecided may be known of its own rows by now, and leaves others undecided all the same.
    const latest = [turn, last.get(turn.index) as Turn].filter(isDone).map((each) => folder.outcome(each));
    if (latest.every(({ summed }) => summed.counts.undecided === 0)) return turn;
    return { index: turn.index, turn: `r${Number(ALONE.exec(turn.turn)?.[1]) + 1}` };
  });
}

class Offering {
  readonly #job: Coordinated;
  readonly #ranges: readonly Range[];
  readonly #failures = new Map<string, number>();
  readonly #noted = new Set<string>();
  /** By range. */
  readonly #notAccepted = new Map<number, number>();
  #failed: Stopped | undefined;

  constructor(job: Coordinated, ranges: readonly Range[]) {
    this.#job = job;
    this.#ranges = ranges;
    const { queue } = job;
    queue.onFailed(({ index, turn }, why) => {
      job.log?.write('failed', { index, turn, why });
      const name = `${turn} ${index}`;
      const count = (this.#failures.get(name) ?? 0) + 1;
      this.#failures.set(name, count);
      if (count >= MOST_FAILURES || queue.again === Number.POSITIVE_INFINITY) this.#failed = new Stopped(why);
    });
  }

  /** Notes what was done since; ends what has more rows that are not accepted than may be. Each range counts as it was judged last. */
  #note(done: ReadonlyMap<number, ReadonlySet<string>>): void {
    const { folder, most, log } = this.#job;
    for (const [index, turns] of done)
      for (const turn of turns) {
        const name = `${turn} ${index}`;
        if (this.#noted.has(name)) continue;
        this.#noted.add(name);
        const { summed, rows, took } = folder.outcome({ index, turn });
        const { rejected, undecided, unreadable } = summed.counts;
        this.#notAccepted.set(index, rejected + undecided + unreadable);
        log?.write('range', { index, turn, rows, ...summed.counts, took });
      }
    const rows = [...this.#notAccepted.values()].reduce((sum, count) => sum + count, 0);
    if (most && rows > most.rows)
      throw new TooMany(
        `${rows === 1 ? 'One row is' : `${rows.toLocaleString('en')} rows are`} not accepted, and ${most.flag} ends it here: nothing is written or stored. To go on all the same, say --resume with another limit.`,
      );
  }

  async all(pass: Progress['pass'], wanted: readonly Turn[]): Promise<void> {
    const { folder, queue, lock, signal, pause = PAUSE, told } = this.#job;
    const offered = new Map<string, number>();
    for (;;) {
      if (folder.has('ended')) throw new Stopped('It was ended by jestril screen end.');
      const done = folder.done();
      const open = wanted.filter(({ index, turn }) => !done.get(index)?.has(turn));
      const isOpen = new Set(open);
      const rows = wanted.reduce((sum, turn) => sum + (isOpen.has(turn) ? 0 : (this.#ranges[turn.index] as Range).rows), 0);
      this.#note(done);
      told({ pass, ranges: wanted.length, done: wanted.length - open.length, rows });
      if (open.length === 0) return;
      if (lock.isLost) throw new Stopped('Another process has taken it over.');
      if (this.#failed) {
        // Where rows are others by now, that is why.
        checkSources(this.#job.manifest.sources, this.#ranges);
        throw this.#failed;
      }
      if (signal.aborted) throw new Stopped('Stopped.');
      const now = Date.now();
      const next = open.slice(0, queue.room).filter(({ index, turn }) => {
        const last = offered.get(`${turn} ${index}`);
        return last === undefined || now - last > queue.again;
      });
      if (next.length > 0) {
        // A queue that is away is asked again the next time.
        const isOffered = await within(queue.offer(next), 5000);
        if (isOffered) for (const { index, turn } of next) offered.set(`${turn} ${index}`, now);
      }
      await new Promise((resolve) => setTimeout(resolve, pause));
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
