import fc from 'fast-check';
import { splitRows } from '../../src/cli/reading/csv-rows.ts';
import { cut } from '../../src/cli/reading/piece.ts';

// Whatever stands in a file of CSV, and however it is cut, its rows are those that the grammar says.
// By hand: JESTRIL_RANDOM=20000 npm test -- test/cli/csv-rows.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 1500);

interface Read {
  readonly cells: readonly string[] | string;
  readonly line: number;
}

function rowsOf(text: string): Read[] {
  const rows: Read[] = [];
  splitRows(text, ',', (cells, line) => rows.push({ cells, line }));
  return rows;
}

/** Reads a text in chunks, as a file is read: cut where rows end, and each piece read by itself. */
function rowsInChunks(text: string, sizes: readonly number[]): Read[] {
  const bytes = Buffer.from(text);
  const read: Read[] = [];
  let [rest, at, lines, turn] = [Buffer.alloc(0), 0, 0, 0];
  const take = (isEnd: boolean) => {
    const found = cut(rest, { format: 'csv', delimiter: ',', rowsBefore: 0 }, isEnd);
    const rows = rowsOf(rest.subarray(0, found.end).toString());
    expect(rows).toHaveLength(found.rows);
    read.push(...rows.map(({ cells, line }) => ({ cells, line: line + lines })));
    lines += found.lines;
    rest = rest.subarray(found.end);
  };
  while (at < bytes.length) {
    const size = sizes[turn++ % sizes.length] as number;
    rest = Buffer.concat([rest, bytes.subarray(at, at + size)]);
    at += size;
    take(false);
  }
  take(true);
  expect(rest).toHaveLength(0);
  return read;
}

/** The grammar, written as one would say it: slow, and nothing clever. */
function naive(text: string): Read[] {
  const rows: Read[] = [];
  let [rest, line] = [text, 0];
  const cell = /^(?:"((?:[^"]|"")*)"(?=,|\r?\n|\r?$)|([^",\n]*?)(?=,|\r?\n|\r?$))/;
  while (rest !== '') {
    const cells: string[] = [];
    let left: string | undefined = rest;
    for (;;) {
      const found: RegExpExecArray | null = cell.exec(left);
      if (!found) {
        left = undefined;
        break;
      }
      cells.push(found[1]?.replaceAll('""', '"') ?? (found[2] as string));
      left = left.slice(found[0].length);
      if (!left.startsWith(',')) break;
      left = left.slice(1);
    }
    const end = rest.indexOf('\n');
    const first = end < 0 ? rest : rest.slice(0, end);
    if (left === undefined) {
      rows.push({ cells: first.replace(/\r$/, ''), line });
      rest = end < 0 ? '' : rest.slice(end + 1);
      line += 1;
      continue;
    }
    left = left.replace(/^\r?\n|^\r?$/, '');
    const own = rest.slice(0, rest.length - left.length);
    if (own.replace(/\r?\n$|\r$/, '') !== '') rows.push({ cells, line });
    line += own.split('\n').length - (own.endsWith('\n') ? 1 : 0);
    rest = left;
  }
  return rows;
}

const texts = fc
  .array(fc.constantFrom('"', '"', ',', '\n', '\r\n', 'a', '""', ',"', '",', 'ü', 'b c'), { maxLength: 60 })
  .map((all) => all.join(''));

describe('rows of CSV', () => {
  it('are those of the grammar, whatever stands where', () => {
    fc.assert(
      fc.property(texts, (text) => expect(rowsOf(text)).toEqual(naive(text))),
      { numRuns: RUNS },
    );
  });

  it('are the same in whatever chunks a file comes', () => {
    fc.assert(
      fc.property(texts, fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 4 }), (text, sizes) => {
        expect(rowsInChunks(text, sizes)).toEqual(rowsOf(text));
      }),
      { numRuns: RUNS },
    );
  });

  it('are read on with the line behind a stray quote', () => {
    expect(rowsOf('a,b\npipe 5" wide,c\n"never ends,c\n"two\nlines",d\n"x"y,e\nf,g\n')).toEqual([
      { cells: ['a', 'b'], line: 0 },
      { cells: 'pipe 5" wide,c', line: 1 },
      { cells: '"never ends,c', line: 2 },
      { cells: ['two\nlines', 'd'], line: 3 },
      { cells: '"x"y,e', line: 5 },
      { cells: ['f', 'g'], line: 6 },
    ]);
  });
});
