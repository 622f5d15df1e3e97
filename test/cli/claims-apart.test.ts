import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { ClaimBook } from '../../src/cli/claims/claim-book.ts';
import { JobFolder, type Manifest, type Outcome, type Range, type Source, type Turn } from '../../src/cli/screen/folder/job.ts';
import { pieceOf, rangesOf } from '../../src/cli/screen/sources/ranges.ts';
import { coordinate, Stopped } from '../../src/cli/screen/work/coordinate.ts';
import type { Queue } from '../../src/cli/screen/work/queue.ts';
import { RangeWork } from '../../src/cli/screen/work/range-work.ts';
import { judgedByAttempts, type Lost } from '../../src/cli/screening/attempts.ts';
import { lostRow, PieceJudge } from '../../src/cli/screening/piece-judge.ts';
import type { Task } from '../../src/cli/screening/task.ts';
import { line, records, stay } from '../support/claiming.ts';
import { linesOf } from '../support/command.ts';
import { Random } from '../support/random.ts';

// Ranges that are judged apart: in any order, side by side, some of them twice or much too late, by judges that are lost at any row any number
// of times, by machines that die with what they judged, under coordinators that die. Whatever is told of a row is what one run says of it, or
// that it is undecided; and in the end nothing is undecided but what cannot be judged, and what contends with it.
// By hand: JESTRIL_RANDOM=3000 npm test -- test/cli/claims-apart.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 40);

const SEED = [1, 2, 3] as const;
const telling = { format: 'lines', rejected: false, amends: false, explain: false } as const;
const judge = new PieceJudge(
  stay as never,
  { records, now: new Date('2031-01-01T00:00:00Z') },
  { ...telling, look: undefined as never },
  SEED,
);
const folder = mkdtempSync(join(tmpdir(), 'jestril-apart-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** A verdict, but for which of several intervals in the way was told. */
const verdictsIn = (text: string) =>
  linesOf(text).map(({ outcome, findings = [], unsettled = [] }) => ({
    outcome: outcome as string,
    isOpen: unsettled.length > 0,
    found: findings.map(({ use, message }: { use: string; message: string }) =>
      use.startsWith('no-overlap') ? use : `${use}: ${message}`,
    ),
  }));

type Verdict = ReturnType<typeof verdictsIn>[number];

/** Something may be open; what is told is so. */
function isRight(told: Verdict, want: Verdict): boolean {
  if (!told.isOpen) return JSON.stringify(told) === JSON.stringify(want);
  const usesOf = ({ found }: Verdict): string[] => found.map((each: string) => each.replace(/:.*/, ''));
  return told.outcome === (told.found.length > 0 ? want.outcome : 'undecided') && usesOf(told).every((use) => usesOf(want).includes(use));
}

interface World {
  readonly luck: Random;
  readonly work: RangeWork;
  /** Judges that are lost, machines that die. */
  isCalm: boolean;
  readonly job: JobFolder;
}

/** Hands turns to machines that take their time, do some twice, and die. */
class Chaos implements Queue {
  readonly room = 1000;
  readonly again = 3;
  readonly #world: World;
  readonly late: Promise<unknown>[] = [];

  constructor(world: World) {
    this.#world = world;
  }

  async offer(turns: readonly Turn[]): Promise<void> {
    for (const turn of turns) for (let times = this.#world.luck.below(8) === 0 ? 2 : 1; times > 0; times--) this.late.push(this.#do(turn));
  }
  async #do(turn: Turn): Promise<void> {
    const { luck, work } = this.#world;
    await new Promise((resolve) => setTimeout(resolve, luck.below(luck.below(10) === 0 ? 30 : 3)));
    // A machine that dies has done nothing.
    if (this.#world.isCalm || luck.below(10) > 0) await work.do(turn);
  }
  onFailed(): void {}
  async close(): Promise<void> {}
}

const coordinatedBy = ({ job }: World, manifest: Manifest, queue: Queue, signal: AbortSignal) => ({
  folder: job,
  manifest,
  intake: stay as never,
  queue,
  lock: { isLost: false },
  signal,
  pause: 2,
  told: () => undefined,
});

async function judgedBy(world: World, manifest: Manifest): Promise<readonly Outcome[]> {
  const { luck } = world;
  for (let isAgain = luck.below(3) === 0; ; ) {
    const queue = new Chaos(world);
    const controller = new AbortController();
    if (!world.isCalm && luck.below(4) === 0) setTimeout(() => controller.abort(), luck.below(12));
    try {
      const outcomes = await coordinate(coordinatedBy(world, manifest, queue, controller.signal), isAgain);
      // Some are still at it, and write what nobody waits for.
      if (world.isCalm) await Promise.all(queue.late);
      return outcomes;
    } catch (cause) {
      if (!(cause instanceof Stopped)) throw cause;
      isAgain = luck.below(3) === 0;
    }
  }
}

const given = fc.record({
  lines: fc.array(line, { minLength: 1, maxLength: 16 }),
  rangeBytes: fc.integer({ min: 40, max: 900 }),
  seed: fc.integer({ min: 1, max: 2 ** 31 }),
  losses: fc.array(fc.constantFrom(0, 0, 0, 0.4, 0.8, 1), { minLength: 16, maxLength: 16 }),
});
let worlds = 0;

test(
  'what rows are told is what one run says, whoever is lost, late or dead',
  async () => {
    await fc.assert(
      fc.asyncProperty(given, async ({ lines, rangeBytes, seed, losses }) => {
        const text = lines.join('\n');
        fc.pre(text.trim() !== '');
        const at = join(folder, String(worlds++));
        const path = `${at}.ndjson`;
        writeFileSync(path, text);
        const { sources, ranges } = await rangesOf([path], stay as never, { input: 'ndjson', rangeBytes }, () => undefined, String);
        const whole = await rangesOf([path], stay as never, { input: 'ndjson' }, () => undefined, String);
        const piece = await pieceOf(whole.ranges[0] as Range, whole.sources[0] as Source, stay as never);
        const want = verdictsIn((await judge.judge({ piece, rowsBefore: 0, as: 'json' }, new ClaimBook())).told);

        const manifest = {
          layout: 2,
          id: `w${worlds}`,
          seed: SEED,
          sources,
          as: 'json',
          claims: true,
          ranges: ranges.length,
        } as unknown as Manifest;
        const job = new JobFolder(at);
        job.create(manifest, ranges);
        const luck = new Random(seed);
        const attempt = async (task: Task): Promise<Awaited<ReturnType<typeof judge.judge>> | Lost> => {
          for (let row = 1; row <= task.piece.rows; row++) {
            const loss = losses[(task.rowsBefore + row - 1) % losses.length] as number;
            const isLost = loss === 1 ? !task.onlyClaims || luck.below(2) === 0 : !world.isCalm && luck.below(100) < loss * 60;
            if (isLost) return { begun: luck.below(3) === 0 ? 0 : row };
          }
          return task.onlyClaims ? ({ claims: await judge.claims(task) } as never) : judge.judge(task);
        };
        const judges = {
          width: 2,
          judge: (task: Task) => judgedByAttempts(task, attempt, (one, claims) => lostRow(telling, one, stay as never, claims)),
          close: async () => undefined,
        };
        const world: World = { luck, isCalm: false, job, work: new RangeWork(job, manifest, stay as never, judges, undefined) };

        const check = (outcomes: readonly Outcome[], when: string) => {
          const told = verdictsIn(outcomes.map((outcome) => readFileSync(job.partOf(outcome, 'rows.ndjson'), 'utf8')).join(''));
          expect(told).toHaveLength(want.length);
          const wrong = told.flatMap((each, row) =>
            isRight(each, want[row] as Verdict) ? [] : [{ when, row: row + 1, each, want: want[row] }],
          );
          expect(wrong).toEqual([]);
          return told.flatMap(({ isOpen }, row) => (isOpen ? [row] : []));
        };
        check(await judgedBy(world, manifest), 'in the storm');
        world.isCalm = true;
        // What was lost is judged again; behind it then what waited for it.
        let open: number[] = [];
        for (let round = 0; round < 3; round++) {
          await judgedBy(world, manifest);
          const coordinated = coordinatedBy(world, manifest, new Chaos(world), new AbortController().signal);
          open = check(await coordinate(coordinated, true), 'in the calm');
        }
        const hopeless = want.flatMap(({ outcome }, row) => (outcome !== 'unreadable' && losses[row % losses.length] === 1 ? [row] : []));
        // A row that cannot be read is lost by nobody.
        const first = losses.findIndex((loss, row) => loss === 1 && row < want.length);
        expect(hopeless.filter((row) => !open.includes(row))).toEqual([]);
        expect(open.filter((row) => first < 0 || row < first)).toEqual([]);
      }),
      { numRuns: RUNS },
    );
  },
  RUNS * 2000,
);
