import fc from 'fast-check';
import Database from 'libsql';
import { Seen } from '../../src/cli/screening/seen.ts';
import { SpilledClaims } from '../../src/cli/screening/spilled-claims.ts';
import { Ledger } from '../../src/core/asking/ledger.ts';

// What has gone into the file is claimed as before: nobody gets what another has.
// By hand: JESTRIL_RANDOM=2000 npm test -- test/cli/spilled-claims.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 40);

test('what was seen is never taken for new', () => {
  const seen = new Seen();
  const names = Array.from({ length: 20_000 }, (_, at) => `0 M${at * 37}\u{1D11E}${at % 3}`);
  for (const name of names) seen.add(name);
  expect(names.filter((name) => !seen.has(name))).toEqual([]);
  const others = names.filter((name) => seen.has(`${name} other`)).length;
  expect(others).toBeLessThan(20);
});

test('claims in memory and in the file answer as claims in memory alone', () => {
  const day = fc.integer({ min: 1, max: 28 }).map((number) => `2031-01-${String(number).padStart(2, '0')}`);
  const interval = fc.record({ from: day, to: day, touching: fc.constant(false), isNumber: fc.constant(false) });
  const claim = fc.record({
    rule: fc.integer({ min: 0, max: 2 }),
    key: fc.oneof(fc.string({ unit: 'binary', maxLength: 4 }), fc.constantFrom('a', 'b', 'c')),
    interval: fc.option(interval),
  });
  fc.assert(
    fc.property(fc.array(claim, { maxLength: 60 }), fc.integer({ min: 1, max: 9 }), (claims, most) => {
      const spilled = new SpilledClaims(() => new Database('') as never, most);
      const ledger = new Ledger<number>();
      for (const [row, { rule, key, interval: span }] of claims.entries()) {
        const number = span ? rule + 3 : rule;
        const [mine, known] = [spilled, ledger].map((store) => (span ? store.overlapping(number, key, span) : store.holderOf(number, key)));
        // Of several intervals in the way any may be told.
        if (span) expect(mine === undefined).toBe(known === undefined);
        else expect(mine).toBe(known);
        if (known !== undefined) continue;
        for (const store of [spilled, ledger]) {
          if (span) store.holdInterval(number, key, span, row);
          else store.hold(number, key, row);
        }
      }
    }),
    { numRuns: RUNS },
  );
});
