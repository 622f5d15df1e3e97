import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { commandIn, linesOf } from '../support/command.ts';

const { file, folder, library, jestril } = commandIn();

const module = file(
  'stay.mjs',
  `import { decimal, group, intake, length, list, text, whole } from '${library}';
   console.log('a module may speak');
   setInterval(() => undefined, 1000);
   export const stay = intake('stay', {
     name: text('Name of the guest', length({ max: 5 })),
     nights: whole('Nights'),
     price: decimal('Price').orAbsent(),
     crew: list('Crew', group('Member', { name: text('Name') })).orEmpty(),
   });`,
);
const check = (args: readonly string[], input?: string) => jestril(['check', module, ...args], input);
/** What became of each piece of data, by line. */
function outcomes(args: readonly string[], input?: string) {
  const { stdout, stderr } = check([...args, '--format', 'json'], input);
  return {
    told: linesOf(stdout)
      .slice(0, -1)
      .map(({ line, entry, outcome, problem, findings }) =>
        [line ?? entry, problem ?? (findings ? findings.map(({ use }: { use: string }) => use).join() : outcome)].join(' '),
      ),
    stderr: stderr.replace('a module may speak\n', ''),
  };
}
const utf16 = (text: string, isBig: boolean) => {
  const bytes = Buffer.from(`\ufeff${text}`, 'utf16le');
  return isBig ? bytes.swap16() : bytes;
};
const ROW = '{"name":"Ida","nights":2}\n';

test.each<[string, string | Uint8Array, readonly string[], readonly string[]]>([
  ['rows.csv', 'name,nights\nIda,2\nLongest,2\n', [], ['2 accepted', '3 length@name']],
  ['semicolons.csv', 'name;nights;price\r\n"Ida";2;"1.5"\r\n;2;x\r\n', [], ['2 accepted', '3 needed@name,readable@price']],
  ['labels.csv', 'Name of the guest\tNIGHTS\nIda\t2\n', [], ['2 accepted']],
  ['nested.csv', 'name,nights,crew.0.name,crew.1.name\nIda,2,Liv,Bo\n', [], ['2 accepted']],
  [
    'ragged.csv',
    'name,nights\nIda\nIda,2,3\nIda,2\n',
    [],
    ['2 1 cell where the header has 2', '3 3 cells where the header has 2', '4 accepted'],
  ],
  ['breaks.csv', 'name,nights\n"I\na",2\nLongest,1\n', [], ['2 accepted', '4 length@name']],
  [
    'quote.csv',
    'name,nights\nIda,2\n"Ida,2\n',
    [],
    ['2 accepted', '3 not CSV: a quoted cell does not end, or a quote stands inside a cell that is not quoted'],
  ],
  ['bare.csv', 'Ida|2\n', ['--header', 'name, nights'], ['1 accepted']],
  ['said.csv', 'name:nights\nIda:2\n', ['--delimiter', ':'], ['2 accepted']],
  ['tabs.csv', 'name\tnights\nI,a\t2\n', ['--delimiter', 'tab'], ['2 accepted']],
  ['unnamed', 'name,nights\nIda,2\n', [], ['2 accepted']],
  ['form', 'name=Ida&nights=2\nname=Ida&nights=two\n', [], ['1 accepted', '2 readable@nights']],
  ['lines.json', ROW + ROW, [], ['1 accepted', '2 accepted']],
  ['lines.txt', `\n${ROW}{"name":}\n${ROW}`, [], ['2 accepted', '3 not JSON: column 9: value expected', '4 accepted']],
  ['list.txt', `[${ROW},{"name":"Ida"}]`, [], ['1 accepted', '2 needed@nights']],
  ['twice.ndjson', '{"name":"Ida","nights":2,"name":"Liv"}\n', [], ['1 not JSON: an object names a member twice']],
  ['little.ndjson', utf16(ROW, false), [], ['1 accepted']],
  ['big.csv', utf16('name,nights\nIda,2\n', true), [], ['2 accepted']],
  ['bytes.ndjson', Buffer.concat([Buffer.from(ROW), Buffer.from([0x22, 0xff])]), [], ['1 accepted', '2 bytes that are not UTF-8']],
  ['crlf.ndjson', `\ufeff${ROW.replaceAll('\n', '\r\n')}`, [], ['1 accepted']],
])('%s', (name, data, flags, told) => {
  expect(outcomes([file(name, data), ...flags])).toEqual({ told, stderr: '' });
});

test('columns that are no fields are told, and the rest is judged', () => {
  const { told, stderr } = outcomes([file('odd.csv', 'name,nights,nihgts,colour\nIda,2,2,red\n')]);
  expect([told, stderr]).toEqual([
    ['2 accepted'],
    expect.stringContaining('the columns "nihgts" (did you mean "nights"?), "colour" are no fields.'),
  ]);
});

test('a pipe with a name is read as it comes', () => {
  const command = `node bin/jestril.js check ${module} <(printf '${ROW.replace('\n', '\\n')}') --format json`;
  const { stdout } = spawnSync('bash', ['-c', command], { encoding: 'utf8' });
  expect(linesOf(stdout)[0]).toMatchObject({ line: 1, outcome: 'accepted' });
});

test.each(['rows.csv', 'rows.ndjson', 'rows.json', 'rows'])(
  'what is rejected in %s is written as it came, and is judged alike when sent again',
  (name) => {
    const rows = [
      { name: 'Ida', nights: '2' },
      { name: 'too; "long"', nights: '2' },
      { name: 'Liv', nights: 'two' },
    ];
    const typed = rows.map((row) => ({ ...row, nights: row.nights === 'two' ? 'two' : Number(row.nights) }));
    const texts: { readonly [name: string]: string } = {
      'rows.csv': `name,nights\n${rows.map((row) => `"${row.name.replaceAll('"', '""')}",${row.nights}`).join('\n')}\n`,
      'rows.ndjson': typed.map((row) => JSON.stringify(row)).join('\n'),
      'rows.json': JSON.stringify(typed),
      rows: rows.map((row) => String(new URLSearchParams(row))).join('\n'),
    };
    const again = join(folder, `again-${name}`);
    const usesIn = (told: readonly string[]) => told.map((each) => each.replace(/^\d+ /, ''));
    expect(usesIn(outcomes([file(name, texts[name] as string), '--rejected', again]).told)).toEqual([
      'accepted',
      'length@name',
      'readable@nights',
    ]);
    expect(usesIn(outcomes([again]).told)).toEqual(['length@name', 'readable@nights']);
    const mended = file(
      `mended-${name}`,
      readFileSync(again, 'utf8')
        .replace('too', 't')
        .replace(/long|two/g, (word) => (word === 'two' ? '2' : ''))
        .replace('"2"', '2')
        .replace(/; ?|%3B\+/, '')
        .replaceAll(/"{4}|\\"\\"|%22%22/g, ''),
    );
    expect(usesIn(outcomes([mended]).told)).toEqual(['accepted', 'accepted']);
  },
);

test('any table that a spreadsheet program writes is read cell by cell', () => {
  const cell = fc.string({ unit: fc.constantFrom('a', 'é', '"', ',', ';', '\n', '\r\n', ' ', "'", '=', '\t', '#'), maxLength: 6 });
  const tables = fc.sample(fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 6 }), { numRuns: 12, seed: 7 });
  for (const [at, rows] of tables.entries()) {
    const delimiter = [',', ';', '\t'][at % 3] as string;
    const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;
    const lines = rows.map(([name, note]) => [`x${name}`, note, '2'].map(quoted).join(delimiter));
    const echoing = file(
      'echo.mjs',
      `import { intake, text, whole } from '${library}';
       export const echo = intake('echo', { name: text('Name').blankAllowed(), note: text('Note').blankAllowed().orElse(''), nights: whole('Nights') }, { strangers: 'refuse' });`,
    );
    const path = file('table.csv', `name${delimiter}note${delimiter}nights\r\n${lines.join('\r\n')}\r\n`);
    const { stdout } = jestril(['check', echoing, path, '--explain', '--format', 'json']);
    expect(linesOf(stdout).at(-1).summary).toMatchObject({ accepted: rows.length, unreadable: 0 });
  }
});
