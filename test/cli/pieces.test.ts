import { Readable } from 'node:stream';
import fc from 'fast-check';
import { claimBook } from '../../src/cli/claims/book-of.ts';
import { newSeed } from '../../src/cli/claims/fingerprint.ts';
import type { Datum } from '../../src/cli/reading/data.ts';
import type { Piece } from '../../src/cli/reading/piece.ts';
import { piecesOf } from '../../src/cli/reading/pieces.ts';
import { rowsIn } from '../../src/cli/reading/rows-in.ts';
import { judgedInOrder } from '../../src/cli/screening/in-order.ts';
import { type Judges, judgesHere } from '../../src/cli/screening/judges.ts';
import { PieceJudge } from '../../src/cli/screening/piece-judge.ts';
import { partsAround } from '../../src/cli/screening/split.ts';
import { line, records, stay } from '../support/claiming.ts';

// Wherever a file is cut, its rows are the same; and whoever judges which piece, and when, the verdicts are.
// By hand: JESTRIL_RANDOM=5000 npm test -- test/cli/pieces.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 150);

type Input = 'ndjson' | 'csv' | 'form' | 'json';
const pieces = async (input: Input, bytes: Uint8Array, sizes: readonly number[]) => {
  const chunks: Uint8Array[] = [];
  for (let at = 0, turn = 0; at < bytes.length; turn++) {
    const size = sizes.length === 0 ? bytes.length : (sizes[turn % sizes.length] as number);
    chunks.push(Buffer.from(bytes.subarray(at, at + size)));
    at += size;
  }
  const found: Piece[] = [];
  for await (const piece of piecesOf('-', Readable.from(chunks), { input, pathOf: (column) => column, isField: () => true }))
    found.push(piece);
  return found;
};

const word = fc.string({
  unit: fc.constantFrom('a', 'é', '"', ',', '\n', '\r\n', ' ', '=', '&', '\u2028', '\ud83d\ude00', '\\'),
  maxLength: 6,
});
const csvCell = fc.oneof(
  word.map((cell) => `"${cell.replaceAll('"', '""')}"`),
  fc.constantFrom('1', 'x y', '', 'é'),
);
const lines: { readonly [input in Input]: fc.Arbitrary<string> } = {
  csv: fc.oneof(
    { weight: 6, arbitrary: fc.tuple(csvCell, csvCell).map((cells) => cells.join(',')) },
    { weight: 1, arbitrary: fc.constantFrom('', 'one', '1,2,3') },
  ),
  ndjson: fc.oneof(
    { weight: 5, arbitrary: word.map((name) => JSON.stringify({ name, at: '10:30' })) },
    { weight: 2, arbitrary: fc.constantFrom('', '  ', '{', '{"a":1,"a":2}', '\u2003') },
  ),
  json: fc.oneof(
    {
      weight: 5,
      arbitrary: fc.tuple(word, word).map(([name, other]) => JSON.stringify({ name, more: [{ [other]: [name] }, ']', '\\"'] }, null, 1)),
    },
    { weight: 2, arbitrary: fc.constantFrom('', '  ', '{"a":}', '{"a":1,"a":2}', '7', '[]', '"x,]"', '}') },
  ),
  form: fc.oneof(
    word.map((name) => String(new URLSearchParams({ name, x: 'é' }))),
    fc.constantFrom('', ' '),
  ),
};
const file = (input: Input) =>
  fc
    .tuple(fc.array(lines[input], { minLength: 1, maxLength: 12 }), fc.constantFrom('\n', '\r\n'), fc.boolean(), fc.boolean())
    .map(([rows, end, isEnded, isMarked]) =>
      input === 'json'
        ? `${isMarked ? '\ufeff' : ''}${end}[${rows.join(`,${end}`)}${isEnded ? `]${end}` : ''}`
        : `${isMarked ? '\ufeff' : ''}${input === 'csv' ? `a,b${end}` : ''}${rows.join(end)}${isEnded ? end : ''}`,
    )
    .filter((written) => written.replace('\ufeff', '').trim() !== '');
const sizes = fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 6 });
const all = (found: readonly Piece[]): Datum[] => found.flatMap((piece) => rowsIn(piece));

describe.each(['ndjson', 'csv', 'form', 'json'] as const)('a file of %s', (input) => {
  test('has the same rows however it is cut, and each piece as many as it says', async () => {
    await fc.assert(
      fc.asyncProperty(file(input), sizes, async (written, cuts) => {
        const bytes = Buffer.from(written);
        const whole = await pieces(input, bytes, []);
        const cut = await pieces(input, bytes, cuts);
        expect(all(cut)).toEqual(all(whole));
        let [rows, end] = [0, -1];
        for (const piece of cut) {
          expect([rowsIn(piece).length, piece.rowsBefore, piece.from >= end]).toEqual([piece.rows, rows, true]);
          // It is found again by its place in the file.
          const text = bytes.subarray(written.startsWith('\ufeff') ? 3 : 0);
          expect(Buffer.from(piece.bytes)).toEqual(text.subarray(piece.from, piece.from + piece.bytes.length));
          for (const begun of [0, 1, piece.rows, piece.rows + 1]) {
            const parts = partsAround(piece, begun);
            if (parts.length > 0) expect(all(parts)).toEqual(rowsIn(piece));
            else expect(piece.rows).toBeLessThan(2);
          }
          rows += piece.rows;
          end = piece.from + piece.bytes.length;
        }
      }),
      { numRuns: RUNS },
    );
  });

  test('with bytes that are no UTF-8 loses the rows that have them, and no others', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.boolean(), { minLength: 1, maxLength: 8 }), sizes, async (broken, cuts) => {
        const row = { ndjson: ['{"a":"', '"}'], csv: ['', ',1'], form: ['a=', ''], json: ['{"a":"', '"},'] }[input] as [string, string];
        const rows = broken.map((isBroken) =>
          Buffer.concat([Buffer.from(row[0]), Buffer.from(isBroken ? [0xff, 0x41] : [0x42]), Buffer.from(`${row[1]}\n`)]),
        );
        const found = all(
          await pieces(
            input,
            Buffer.concat([
              Buffer.from({ csv: 'a,b\n', json: '[' }[input as string] ?? ''),
              ...rows,
              Buffer.from(input === 'json' ? '7]' : ''),
            ]),
            cuts,
          ),
        );
        expect(found.map((datum) => 'unreadable' in datum)).toEqual(input === 'json' ? [...broken, false] : broken);
      }),
      { numRuns: RUNS },
    );
  });
});

test.each<[text: string, rows: readonly string[]]>([
  ['[]', []],
  [' [ ] ', []],
  ['[1,2]', ['1', '2']],
  ['[1,]', ['1', 'entry 2: not JSON: it is empty']],
  ['[,]', ['entry 1: not JSON: it is empty', 'entry 2: not JSON: it is empty']],
  ['[1,\n{"a":\n1 2},\n3]', ['1', 'entry 2: not JSON: line 3: comma expected', '3']],
  ['[1,2', ['1', 'entry 2: not JSON: the list does not end']],
  ['[1,"2]', ['1', 'entry 2: not JSON: the list does not end']],
  ['[1] ', ['1']],
  ['[1][2]', ['1', 'not JSON: something stands behind the list']],
  ['[1],2', ['1', 'not JSON: something stands behind the list']],
  ['[{"a":[1,2]},"],["]', ['{"a":[1,2]}', '"],["']],
])('%s as a list', async (text, rows) => {
  for (const size of [1, 3, 100])
    expect(
      all(await pieces('json', Buffer.from(text), [size])).map(({ origin: { entry }, raw, unreadable }) =>
        unreadable === undefined ? JSON.stringify(raw) : `${entry === undefined ? '' : `entry ${entry}: `}${unreadable}`,
      ),
    ).toEqual(rows);
});

describe('pieces that are judged side by side', () => {
  const options = { records, now: new Date('2031-01-01T00:00:00Z') };
  const look = { width: 80, paint: undefined as never };
  const judge = new PieceJudge(stay as never, options, { format: 'json', look, rejected: false, amends: false, explain: false }, newSeed());

  const input = fc.array(line, { minLength: 2, maxLength: 24 });

  test('come out as if they were judged in one go, claims of other pieces among them, whoever is done first', async () => {
    await fc.assert(
      fc.asyncProperty(
        input,
        sizes,
        fc.integer({ min: 1, max: 4 }),
        fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 4, maxLength: 4 }),
        async (rows, cuts, width, delays) => {
          const bytes = Buffer.from(rows.join('\n') || ' ');
          fc.pre(bytes.toString().trim() !== '');
          const toldBy = async (found: readonly Piece[], judges: Judges) => {
            const tasks = async function* () {
              for (const piece of found) yield { piece, rowsBefore: piece.rowsBefore, as: 'json' as const };
            };
            const claims = await claimBook(stay as never);
            let told = '';
            for await (const { judged } of judgedInOrder(tasks(), judges, claims.book)) told += judged.told;
            return told;
          };
          const judges = (count: number): Judges => {
            let turn = 0;
            return {
              width: count,
              async judge(task) {
                const judging = judge.judge(task);
                await new Promise((resolve) => setTimeout(resolve, count === 1 ? 0 : (delays[turn++ % 4] as number)));
                return judging;
              },
              close: async () => undefined,
            };
          };
          const once = await toldBy(await pieces('ndjson', bytes, []), judges(1));
          // Pieces of whole lines, of a size that leaves some of each.
          const found = await pieces(
            'ndjson',
            bytes,
            cuts.map((size) => size * 20),
          );
          expect(await toldBy(found, judges(width))).toBe(once);
          // One judge, to whom rows claim at once.
          expect(await toldBy(found, judgesHere(judge))).toBe(once);
        },
      ),
      { numRuns: RUNS },
    );
  });
});
