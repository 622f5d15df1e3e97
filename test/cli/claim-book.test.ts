import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import Database from 'libsql';
import { ClaimBook, type Keeps } from '../../src/cli/claims/claim-book.ts';
import { ClaimTable } from '../../src/cli/claims/claim-table.ts';
import { Fingerprint, nameOf } from '../../src/cli/claims/fingerprint.ts';
import { Seen } from '../../src/cli/claims/seen.ts';
import { SortedRuns } from '../../src/cli/claims/sorted-runs.ts';
import { claimsIn } from '../../src/records/sql/store/claims-in.ts';

// Who has what, in memory and in files, beside the same said in the plainest way.
// By hand: JESTRIL_RANDOM=5000 npm test -- test/cli/claim-book.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 300);

const folder = mkdtempSync(join(tmpdir(), 'jestril-book-'));
afterAll(() => rmSync(folder, { recursive: true }));
let files = 0;

interface Span {
  readonly from: string;
  readonly to: string;
}
type Asked = {
  readonly row: number;
  readonly rule: number;
  readonly key: string;
  readonly keeps: Keeps;
  readonly span: Span | undefined;
  /** What it claims is not known: this, or (`anything`) nothing of it. */
  readonly may: 'this' | 'anything' | undefined;
};

/** Every claim beside every other. */
class Plain {
  readonly #held: Asked[] = [];
  readonly #may: Asked[] = [];

  /** Those whom it may be told of, and who may have it besides. */
  tell(asked: Asked): { readonly holders: readonly number[]; readonly unknown: number | undefined } {
    const isAlike = (other: Asked) => other.rule === asked.rule && other.key === asked.key;
    if (asked.may) {
      this.#may.push(asked);
      return { holders: [], unknown: undefined };
    }
    const clash = this.#held.filter((other) => isAlike(other) && (!asked.span || overlap(asked.span, other.span as Span)));
    const others = clash.filter(({ row }) => row !== asked.row);
    const isKept = asked.keeps === 'all' ? asked.span !== undefined || clash.length === 0 : asked.keeps === 'free' && clash.length === 0;
    if (isKept) this.#held.push(asked);
    const before = this.#may.filter((other) => other.may === 'anything' || isAlike(other)).map(({ row }) => row);
    return { holders: others.map(({ row }) => row), unknown: before.length > 0 ? Math.min(...before) : undefined };
  }
}
const overlap = (one: Span, other: Span) => one.from < other.to && other.from < one.to;

const day = fc.integer({ min: 1, max: 12 }).map((number) => `2031-01-${String(number).padStart(2, '0')}`);
const claim = fc.record({
  isNext: fc.boolean(),
  rule: fc.integer({ min: 0, max: 3 }),
  key: fc.oneof({ weight: 1, arbitrary: fc.string({ unit: 'binary', maxLength: 4 }) }, { weight: 3, arbitrary: fc.constantFrom('a', 'b') }),
  keeps: fc.constantFrom<Keeps>('free', 'free', 'none', 'all'),
  span: fc.record({ from: day, to: day }),
  may: fc.option(fc.constantFrom('this' as const, 'anything' as const), { freq: 25 }).map((may) => may ?? undefined),
});

test('rows are told of the first that has what they claim, or may have it, wherever that is kept', () => {
  fc.assert(
    fc.property(
      fc.array(claim, { maxLength: 60 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 5 }),
      (claims, mostValues, mostIntervals) => {
        const path = join(folder, `runs-${files++}`);
        let runs: SortedRuns | undefined;
        const book = new ClaimBook(
          {
            runs: () => {
              runs = new SortedRuns(path);
              return runs;
            },
            intervals: () => claimsIn(new Database('') as never),
          },
          mostValues,
          mostIntervals,
        );
        const plain = new Plain();
        const print = new Fingerprint([1, 2, 3]);
        let row = 1;
        for (const { isNext, rule, key, span, ...given } of claims) {
          if (isNext) row += 1;
          const asked: Asked = { ...given, row, rule, key, span: rule > 1 ? span : undefined };
          const { holders, unknown } = plain.tell(asked);
          if (asked.may) {
            book.mayHave(row, asked.may === 'this' ? print.of(rule, key) : undefined);
            // It is not judged: what else it claims nobody knows.
            row += 1;
            continue;
          }
          const interval = asked.span && { ...asked.span, touching: false, isNumber: false };
          const told = book.tell(row, print.of(rule, key), asked.span || asked.keeps === 'none' ? asked.keeps : 'free', interval);
          const first = holders.length === 0 ? row : Math.min(...holders);
          if (unknown !== undefined && unknown < first) expect([told, book.isUndecided(told as number)]).toEqual([unknown, true]);
          // Of several intervals in the way any may be told.
          else if (asked.span) expect(holders.length === 0 ? [undefined] : [...holders, unknown]).toContain(told);
          else expect(told).toBe(holders.length === 0 ? undefined : first);
        }
        runs?.close();
      },
    ),
    { numRuns: RUNS },
  );
});

test('what was seen is never taken for new, and values that are alike but for little have fingerprints of their own', () => {
  const print = new Fingerprint([0x12345678, 7, 0xffffffff]);
  const seen = new Seen();
  const table = new ClaimTable();
  const keys = Array.from({ length: 100_000 }, (_, at) => [at % 3, `M${at >> 1}\u{1D11E}${at % 2 ? '' : ' '}`] as const);
  const names = new Set<string>();
  const halves = [new Set<number>(), new Set<number>(), new Set<number>()];
  for (const [at, [rule, key]] of keys.entries()) {
    table.hold(print.of(rule, key), at);
    seen.add(print);
    names.add(nameOf(print));
    for (const [word, half] of [print.a, print.b, print.c].entries()) halves[word]?.add(half);
  }
  expect([names.size, table.size]).toEqual([keys.length, keys.length]);
  // Each word by itself spreads as chance would have it: one or two of so many words are there twice.
  for (const half of halves) expect(keys.length - half.size).toBeLessThan(15);
  expect(keys.every(([rule, key], at) => seen.has(print.of(rule, key)) && table.rowOf(print) === at)).toBe(true);
  expect(keys.filter(([rule, key]) => seen.has(print.of(rule, `${key} other`))).length).toBeLessThan(20);
  const path = join(folder, 'many');
  const runs = new SortedRuns(path);
  runs.add(table);
  const asked = keys.filter((_, at) => at % 97 === 0);
  expect(asked.map(([rule, key]) => runs.rowOf(print.of(rule, key)))).toEqual(asked.map((_, at) => at * 97));
  expect(asked.map(([rule, key]) => runs.rowOf(print.of(rule, `${key} other`)))).toEqual(asked.map(() => undefined));
  runs.close();
});
