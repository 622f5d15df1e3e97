import { join } from 'node:path';
import type { ClaimStore } from '../../core/asking/ledger.ts';
import { planOf } from '../../core/intake.ts';
import { type LoadedIntake, packageRoot } from '../basics/loading.ts';
import { packageOf } from '../basics/package-of.ts';
import type { JudgingFlags } from '../records/settings.ts';
import { judgedByAttempts, type Lost } from './attempts.ts';
import { type Judged, lostRow, type PieceJudge, type Telling } from './piece-judge.ts';
import type { Task } from './task.ts';

/** Who judges pieces. */
export interface Judges {
  /** How many pieces are judged side by side. */
  readonly width: number;
  judge(task: Task): Promise<Judged>;
  /** Judges a piece when its turn has come: rows claim at once, and nothing has to be settled behind. Of one judge alone. */
  judgeInTurn?(task: Task, claims: ClaimStore): Promise<Judged>;
  close(): Promise<void>;
}

/** What a thread needs to make a judge of its own. */
export interface Setup {
  readonly module: string;
  readonly intake: string;
  readonly flags: JudgingFlags;
  readonly telling: Omit<Telling, 'look'>;
  readonly terminal: { readonly isTTY?: boolean; readonly columns?: number };
}

/** In this process, one piece after the other. */
export function judgesHere(judge: PieceJudge): Judges {
  return {
    width: 1,
    judge: (task) => judge.judge(task),
    judgeInTurn: (task, claims) => judge.judge(task, claims),
    close: async () => undefined,
  };
}

/** Milliseconds without another row being begun after which a thread is given up, where nobody is asked. */
const PATIENCE = 6000;
/** Those that records may take besides: a little more than a judgement gives them. */
const PATIENCE_ASKING = 12_000;
/** Times that checks outside are waited for, one group of rows after the other. */
const GROUPS = 80;

/** Milliseconds between two looks. */
const LOOK = 500;

/**
 * In threads, by piscina. A row that ends its thread, or never ends, is found by judging it by itself: it is undecided, and the others are
 * judged.
 */
export async function judgesInThreads(count: number, intake: LoadedIntake, setup: Setup): Promise<Judges> {
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
  const patience = PATIENCE + (record.length > 0 ? PATIENCE_ASKING : 0) + GROUPS * longest;

  const attempt = async (task: Task): Promise<Judged | Lost> => {
    const shared = new Int32Array(new SharedArrayBuffer(4)).fill(-1);
    const controller = new AbortController();
    let [seen, since] = [-1, Date.now()];
    const timer = setInterval(() => {
      const begun = Atomics.load(shared, 0);
      // While it waits for a thread nobody is late.
      if (begun !== seen || begun < 0) [seen, since] = [begun, Date.now()];
      else if (Date.now() - since > patience) controller.abort();
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
  const lost = ({ piece, rowsBefore }: Task) => lostRow(setup.telling, piece, rowsBefore, intake);
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
