import { Readable } from 'node:stream';
import fc from 'fast-check';
import { mysql } from '../../src/cli/databases/mysql.ts';
import { postgres } from '../../src/cli/databases/postgres.ts';
import { sqlite } from '../../src/cli/databases/sqlite.ts';
import type { Piece } from '../../src/cli/reading/piece.ts';
import { piecesOf } from '../../src/cli/reading/pieces.ts';
import { ClaimBook } from '../../src/cli/screen/claim-book.ts';
import { judgedByAttempts } from '../../src/cli/screening/attempts.ts';
import { enteredOf } from '../../src/cli/screening/entered.ts';
import { lostRow, PieceJudge } from '../../src/cli/screening/piece-judge.ts';
import type { Task } from '../../src/cli/screening/task.ts';
import { Ledger } from '../../src/core/asking/ledger.ts';
import { line, records, stay } from '../support/claiming.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// Ranges that are judged apart, in any order, side by side and some of them twice, by judges that are lost at any row, are told the same as
// all rows in one go.
// By hand: JESTRIL_RANDOM=500 npm test -- test/cli/claim-book.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 25);

const judge = new PieceJudge(
  stay as never,
  { records, now: new Date('2031-01-01T00:00:00Z') },
  { format: 'lines', look: undefined as never, rejected: false, amends: false, explain: false },
);
const lost = ({ piece, rowsBefore }: Task) =>
  lostRow({ format: 'lines', rejected: false, amends: false, explain: false }, piece, rowsBefore, stay as never);

const given = fc.record({
  lines: fc.array(line, { minLength: 1, maxLength: 14 }),
  bytes: fc.integer({ min: 40, max: 900 }),
  order: fc.array(fc.nat(), { minLength: 12, maxLength: 12 }),
  losses: fc.array(fc.option(fc.nat({ max: 5 }), { freq: 2 }), { minLength: 3, maxLength: 11 }),
});
const sorts = { SQLite: sqlite, PostgreSQL: postgres, MariaDB: mysql };

async function piecesIn(bytes: Uint8Array, size: number): Promise<Piece[]> {
  const chunks = Array.from({ length: Math.ceil(bytes.length / size) }, (_, at) => Buffer.from(bytes.subarray(at * size, (at + 1) * size)));
  const options = { input: 'ndjson', pathOf: (column: string) => column, isField: () => true } as const;
  const found: Piece[] = [];
  for await (const piece of piecesOf('-', Readable.from(chunks), options)) found.push(piece);
  return found;
}

describeStores((open, name) => {
  let store: TestStore;
  let jobs = 0;
  beforeAll(async () => {
    store = await open();
  });
  afterAll(() => store?.close());

  test('its tables may be made by many at once', async () => {
    const opening = Array.from({ length: 8 }, (_, at) => ClaimBook.open({ db: store.db, sort: sorts[name] }, `at-once-${at}`));
    await expect(Promise.all(opening)).resolves.toHaveLength(8);
  });

  test(
    'who was first is settled by the row alone',
    async () => {
      await fc.assert(
        fc.asyncProperty(given, async ({ lines, bytes, order, losses }) => {
          const written = Buffer.from(lines.join('\n'));
          fc.pre(written.toString().trim() !== '');
          const taskOf = (piece: Piece): Task => ({ piece, rowsBefore: piece.rowsBefore, as: 'json' });
          const known = new Ledger<number>();
          let inOneGo = '';
          for (const piece of await piecesIn(written, 1e6)) inOneGo += (await judge.judge(taskOf(piece), known)).told;

          let attempts = 0;
          const attempt = async (task: Task) => {
            const begun = losses[attempts++ % losses.length];
            return typeof begun === 'number' && task.piece.rows > 1 ? { begun } : judge.judge(task);
          };
          const ranges = await piecesIn(written, bytes);
          const book = await ClaimBook.open({ db: store.db, sort: sorts[name] }, `job-${jobs++}`);
          const told = new Map<Piece, string>();
          const turns = [...ranges, ...ranges.slice(0, 2)].map((range, at) => ({ range, at: order[at % 12] as number }));
          await Promise.all(
            turns
              .sort((one, other) => one.at - other.at)
              .map(async ({ range }) => {
                const judged = await judgedByAttempts(taskOf(range), attempt, lost);
                told.set(range, judged.told);
                await book.enter(judged.entered ?? enteredOf(judged.claims));
              }),
          );
          const all = await book.corrections();
          for (const range of ranges) {
            const corrections = all.filter(({ row: of }) => of > range.rowsBefore && of <= range.rowsBefore + range.rows);
            if (corrections.length === 0) continue;
            told.set(range, (await judgedByAttempts({ ...taskOf(range), corrections }, attempt, lost)).told);
          }
          expect(ranges.map((range) => told.get(range)).join('')).toBe(inOneGo);
          await book.forget();
        }),
        { numRuns: RUNS },
      );
    },
    RUNS * 1000,
  );
});
