import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { planOf } from '../../core/intake.ts';
import { type LoadedIntake, packageRoot } from '../basics/loading.ts';
import { packageOf } from '../basics/package-of.ts';
import type { ClaimBook } from '../claims/claim-book.ts';
import type { ClaimList } from '../claims/claim-list.ts';
import type { Seed } from '../claims/fingerprint.ts';
import type { JudgingFlags } from '../records/settings.ts';
import { judgedByAttempts, type Lost } from './attempts.ts';
import { Patience } from './patience.ts';
import { type Judged, lostRow, type PieceJudge, type Telling } from './piece-judge.ts';
import type { Task } from './task.ts';

/** Who judges pieces. */
export interface Judges {
  /** How many pieces are judged side by side. */
  readonly width: number;
  judge(task: Task): Promise<Judged>;
  /** Judges a piece when its turn has come: rows claim at once, and nothing has to be settled behind. Of one judge alone. */
  judgeInTurn?(task: Task, book: ClaimBook): Promise<Judged>;
  close(): Promise<void>;
}

/** What a thread needs to make a judge of its own. */
export interface Setup {
  readonly module: string;
  readonly intake: string;
  readonly flags: JudgingFlags;
  readonly seed: Seed;
  readonly telling: Omit<Telling, 'look'>;
  readonly terminal: { readonly isTTY?: boolean; readonly columns?: number };
}

/** In this process, one piece after the other. */
export function judgesHere(judge: PieceJudge): Judges {
  return {
    width: 1,
    judge: (task) => judge.judge(task),
    judgeInTurn: (task, book) => judge.judge(task, book),
    close: async () => undefined,
  };
}

/** Milliseconds of processor time without another row being begun after which a thread is given up. */
const PATIENCE = 6000;
/** The same where records are asked: many rows are settled together. */
const PATIENCE_ASKING = 18_000;
/** Milliseconds between two looks. */
const LOOK = 500;
/** Looks at a thread that does nothing at all, and waits for nobody who has a time limit. */
const MOST_IDLE = 1200;
/** Times that checks outside are waited for, one group of rows after the other. */
const GROUPS = 80;

/**
 * In threads, by piscina. A row that ends its thread, or never ends, is found by judging it by itself: it is undecided, and the others are
 * judged.
 */
export async function judgesInThreads(asked: number, intake: LoadedIntake, setup: Setup, warn: (text: string) => void): Promise<Judges> {
  const cores = availableParallelism();
  const count = Math.min(asked, cores);
  if (count < asked)
    warn(`--workers ${asked}: ${count === 1 ? 'one thread judges' : `${count} threads judge`}, as many as there are cores here.\n`);
  const { default: Piscina } = await packageOf<typeof import('piscina')>('piscina', 'Judging in threads');
  const pool = new Piscina({
    filename: join(packageRoot(), 'dist/node/cli/screening/thread.js'),
    workerData: setup,
    minThreads: count,
    maxThreads: count,
    // A thread that only waits for its next piece could load nothing meanwhile.
    atomics: 'disabled',
    idleTimeout: Number.POSITIVE_INFINITY,
    // What is made of a piece is soon gone: more room for it would only be more memory.
    resourceLimits: { maxYoungGenerationSizeMb: 4 },
  });
  const { record, outside } = planOf(intake);
  const longest = Math.max(
    0,
    ...[...record, ...outside].map(({ phase, definition }) => (phase === 'outside' ? (definition.within ?? 0) : 0)),
  );
  const mostIdle = Math.max(MOST_IDLE, (2 * GROUPS * longest) / LOOK);

  const attempt = async (task: Task): Promise<Judged | Lost> => {
    const shared = new Int32Array(new SharedArrayBuffer(8)).fill(-1);
    const controller = new AbortController();
    const patience = new Patience(count, record.length > 0 ? PATIENCE_ASKING : PATIENCE, mostIdle);
    const timer = setInterval(() => {
      if (patience.isOver(Atomics.load(shared, 0), Atomics.load(shared, 1), LOOK)) controller.abort();
    }, LOOK);
    try {
      return (await pool.run({ ...task, begun: shared }, { signal: controller.signal })) as Judged;
    } catch (cause) {
      if (!isLost(cause)) throw cause;
      return { begun: Math.max(0, Atomics.load(shared, 0)) };
    } finally {
      clearInterval(timer);
    }
  };
  const lost = (task: Task, claims: ClaimList) => lostRow(setup.telling, task, intake, claims);
  return { width: count, judge: (task) => judgedByAttempts(task, attempt, lost), close: () => pool.destroy() };
}

/** The thread is gone, with what it judged: it has ended, run out of memory, or took too long. */
function isLost(cause: unknown): boolean {
  const { name, code, message = '' } = (cause ?? {}) as { readonly name?: string; readonly code?: string; readonly message?: string };
  return (
    name === 'AbortError' ||
    code === 'ERR_WORKER_OUT_OF_MEMORY' ||
    /worker (thread )?(exited|terminated)|Terminating worker|exited with/i.test(message)
  );
}
