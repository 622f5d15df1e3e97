import fc from 'fast-check';
import { ClaimBook } from '../../src/cli/screen/claim-book.ts';
import { type Claimed, RememberedClaims, settled } from '../../src/cli/screening/claimed.ts';
import { corrected, enteredOf } from '../../src/cli/screening/entered.ts';
import { Ledger } from '../../src/core/asking/ledger.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// Ranges that are judged apart, in any order, side by side and some of them twice, are told the same as if all rows had claimed in turn.
// By hand: JESTRIL_RANDOM=500 npm test -- test/cli/claim-book.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 25);

const dialects = { SQLite: 'sqlite', PostgreSQL: 'postgres', MariaDB: 'mysql' } as const;
const interval = fc
  .record({ from: fc.integer({ min: 1, max: 12 }), to: fc.integer({ min: 1, max: 12 }), touching: fc.boolean() })
  .map(({ from, to, touching }) => ({
    from: `2031-01-${String(from).padStart(2, '0')}`,
    to: `2031-01-${String(to).padStart(2, '0')}`,
    touching,
    isNumber: false,
  }));
const ask = fc.record(
  {
    rule: fc.integer({ min: 0, max: 1 }),
    key: fc.constantFrom('a', 'A', 'a ', 'b', '\u{1D11E}', 'x'.repeat(500)),
    interval: fc.option(interval, { nil: undefined }),
  },
  { requiredKeys: ['rule', 'key'] },
);
/** Ranges of rows, each of which asks of some claims; values and intervals are of different rules. */
const ranges = fc.array(fc.array(fc.array(ask, { maxLength: 2 }), { minLength: 1, maxLength: 6 }), { minLength: 1, maxLength: 5 });

describeStores((open, name) => {
  let store: TestStore;
  let jobs = 0;
  beforeAll(async () => {
    store = await open();
  });
  afterAll(() => store?.close());

  test('who was first is settled by the row alone', async () => {
    await fc.assert(
      fc.asyncProperty(
        ranges,
        fc.array(fc.nat(), { minLength: 12, maxLength: 12 }),
        fc.array(fc.boolean(), { minLength: 30, maxLength: 30 }),
        async (given, order, breaks) => {
          let row = 0;
          const alone = given.map((rows) => {
            // A range may be judged in parts, where a row of it has ended its thread.
            const parts = [new RememberedClaims()];
            for (const asks of rows) {
              row += 1;
              if (breaks[row]) parts.push(new RememberedClaims());
              const claims = parts.at(-1) as RememberedClaims;
              const own: Claimed[] = [];
              for (const { rule, key, interval: span } of asks) {
                const mine = { row, rule: span ? rule + 2 : rule, key, ...(span && { interval: span }) };
                // What a row has itself is asked of nobody else.
                if (own.some((each) => each.rule === mine.rule && each.key === key)) continue;
                own.push(mine);
                if (span) {
                  if (claims.overlapping(mine.rule, key, span, row) === undefined) claims.holdInterval(mine.rule, key, span, row);
                } else if (claims.holderOf(rule, key, row) === undefined) claims.hold(rule, key, row);
              }
            }
            return parts.map(({ asked }) => asked);
          });
          const all = new Ledger<number>();
          const inTurn = alone.map((parts) => settled(parts.flat(), all) ?? parts.flat());

          const book = await ClaimBook.open({ db: store.db, dialect: dialects[name] }, `job-${jobs++}`);
          const turns = [...alone, ...alone.slice(0, 2)]
            .map((parts, at) => ({ parts, at: order[at % 12] as number }))
            .sort((a, b) => a.at - b.at);
          await Promise.all(
            turns.map(({ parts }) => {
              const entered = parts.map(enteredOf);
              return book.enter({ values: entered.flatMap(({ values }) => values), spans: entered.flatMap(({ spans }) => spans) });
            }),
          );
          const corrections = await book.corrections();
          const told = alone.map((parts) => {
            const claims = parts.flat();
            const rows = new Set(claims.map((claim) => claim.row));
            return corrected(
              claims,
              corrections.filter((each) => rows.has(each.row)),
            );
          });
          expect(told).toEqual(inTurn);
          await book.forget();
        },
      ),
      { numRuns: RUNS },
    );
  });
});
