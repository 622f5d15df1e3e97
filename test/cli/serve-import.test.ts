import { spawnSync } from 'node:child_process';
import { appendFileSync, readFileSync, utimesSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { commandIn } from '../support/command.ts';
import { GOOD as good, MODULE, type Served, served, SETTINGS as settings } from '../support/workbench.ts';

// The verdicts of an import in a workbench: each row by its number, and its like by another version. By hand: JESTRIL_RANDOM=40 npm test -- test/cli/serve-import.test.ts
const RUNS = Math.ceil(Number(process.env.JESTRIL_RANDOM ?? 4));

const { folder, file, jestril } = commandIn();
const module = file('quay.ts', MODULE);
const laxer = file('laxer.ts', MODULE.replace('between(2, 40)', 'between(2, 90)'));
const FLAGS = [
  '--records',
  file(
    'records.json',
    JSON.stringify({
      berths: [{ code: 'A1', maxLength: 12, open: true }],
      bookings: [{ id: 1, mark: 'PW-0001', berth: 'A1' }],
    }),
  ),
  '--given',
  '{ "caller": { "staff": false } }',
  '--now',
  '2031-05-01T10:00:00Z',
];

let bench: Served;
beforeAll(async () => {
  bench = await served(module, FLAGS);
});
afterAll(() => bench?.close());

const ask = async (name: string, asked: object) => (await bench.send('POST', `api/import/${name}`, asked)).json();
const row = (path: string, number: number) => ask('row', { path, row: number, intake: 'booking' });
const rowsOf = (count: number) =>
  Array.from({ length: count }, (_, at) => ({
    ...good,
    mark: `PW-${String(1000 + at)}`,
    length: at % 7 === 3 ? 50 : 11.5,
    departs: at % 5 === 4 ? '2031-05-01' : good.departs,
  }));
const ndjson = (rows: readonly object[]) => rows.map((each) => `${JSON.stringify(each)}\n`).join('');
/** What a check writes, as it is. */
const checked = (path: string) =>
  spawnSync('node', ['bin/jestril.js', 'check', module, path, ...FLAGS, '--format', 'json'], { encoding: 'utf8' }).stdout;
const screened = (name: string, data: string, more: readonly string[] = []) => {
  const to = `${folder}/${name}`;
  const told = jestril(['screen', 'start', module, data, '--to', to, ...FLAGS, ...more]);
  expect([0, 1, 3]).toContain(told.status);
  return to;
};

test('a screening is counted by rule, each row is opened as it was judged, and its like is judged by another version', async () => {
  const to = screened('done', file('rows.ndjson', ndjson(rowsOf(70))), ['--range-bytes', '2000']);
  const opened = await ask('open', { path: to });
  expect(opened).toMatchObject({ rows: 70, intake: 'booking', counts: { accepted: 48, rejected: 22, undecided: 0, unreadable: 0 } });
  expect(
    opened.rules.map(({ use, count, rows }: { use: string; count: number; rows: number[] }) => [use, count, rows.slice(0, 2)]),
  ).toEqual([
    ['order', 14, [5, 10]],
    ['between@length', 10, [4, 11]],
  ]);
  const told = await row(to, 11);
  expect(told).toMatchObject({
    place: expect.stringMatching(/rows\.ndjson, line 11$/),
    outcome: 'rejected',
    findings: [{ use: 'between@length', message: 'Length must be from 2 to 40.', at: ['/length'] }],
    settings: { as: 'json', now: '2031-05-01T10:00:00Z', given: '{ "caller": { "staff": false } }' },
  });
  expect(JSON.parse(told.submission)).toEqual(rowsOf(70)[10]);
  const alike = {
    path: to,
    use: 'between@length',
    severity: 'error',
    intake: 'booking',
    settings: { ...settings, records: `${folder}/records.json` },
  };
  expect(await ask('alike', alike)).toMatchObject({ judged: 10, same: [4, 11, 18, 25, 32, 39, 46, 53, 60, 67], accepted: [], other: [] });
  // Longer vessels are let in, but fit no berth.
  expect(await ask('alike', { ...alike, version: laxer })).toMatchObject({ judged: 10, same: [], other: expect.arrayContaining([4, 11]) });
});

test('a check or a screening of CSV, compressed or not, and of a list: any row is what stands in the file', async () => {
  const cell = fc.oneof(fc.string({ unit: fc.constantFrom(...'ab ,;"\n\r\'é') }), fc.constantFrom('PW-1', '50', '11.5', ''));
  const data = fc.array(fc.record({ mark: cell, length: cell, berth: cell }), { minLength: 1, maxLength: 40 });
  let count = 0;
  await fc.assert(
    fc.asyncProperty(data, fc.constantFrom('csv', 'csv.gz', 'json', 'ndjson'), async (rows, format) => {
      count += 1;
      const path = `${folder}/made-${count}.${format}`;
      const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;
      const csv = `mark,length,berth\n${rows.map(({ mark, length, berth }) => `${[mark, length, berth].map(quoted).join(',')}\n`).join('')}`;
      writeFileSync(
        path,
        format === 'csv.gz' ? gzipSync(csv) : format === 'csv' ? csv : format === 'json' ? JSON.stringify(rows) : ndjson(rows),
      );
      writeFileSync(`${folder}/told.ndjson`, checked(path));
      const opened = await ask('open', { path: `${folder}/told.ndjson` });
      expect(opened.rows).toBe(rows.length);
      for (const number of new Set([1, Math.ceil(rows.length / 2), rows.length])) {
        const told = await row(`${folder}/told.ndjson`, number);
        expect(told.settings).toEqual({ as: format.startsWith('csv') ? 'form' : 'json' });
        expect(JSON.parse(told.submission)).toEqual(rows[number - 1]);
      }
      // The same of a screening, of which a copy that was only needed on the way is gone.
      const to = screened(`screened-${count}`, path, ['--range-bytes', '200']);
      for (const number of new Set([1, rows.length])) {
        const told = await row(to, number);
        if (format === 'csv.gz') expect(told.problem).toContain('the copy is gone with the screening');
        else expect([JSON.parse(told.submission), told.settings.as]).toEqual([rows[number - 1], format === 'csv' ? 'form' : 'json']);
      }
    }),
    { numRuns: RUNS },
  );
});

test('a row that is another than was judged is not shown as if it were that one', async () => {
  const data = file('changing.ndjson', ndjson(rowsOf(20)));
  const to = screened('changing', data);
  file('changing.told', checked(data));
  writeFileSync(data, readFileSync(data, 'utf8').replace('PW-1003', 'PW-9999'));
  expect((await row(to, 4)).problem).toContain('changing.ndjson is not what it was when the screening began');
  utimesSync(data, new Date(), new Date(Date.now() + 60_000));
  expect((await row(`${folder}/changing.told`, 4)).doubt).toContain(
    'was changed after these verdicts were written: its rows may be others.',
  );
  writeFileSync(data, '');
  expect((await row(`${folder}/changing.told`, 4)).problem).toContain('is empty');
});

test.each([
  ['nothing', 'no-such', 'There is no folder or file no-such.'],
  ['a folder without a screening', folder, 'holds no screening'],
  ['a file of rows', file('plain.ndjson', ndjson(rowsOf(2))), 'holds no verdicts; name the folder of a screening'],
  ['a file that is no JSON', file('plain.txt', 'hello\n'), 'holds no verdicts'],
  ['an empty file', file('empty.ndjson', ''), 'holds no verdicts'],
])('%s is told in a sentence', async (_what, path, problem) => {
  expect((await ask('open', { path })).problem).toContain(problem);
});

test('rows that there are not, that cannot be read, and verdicts that went on', async () => {
  const data = file('odd.ndjson', `${ndjson(rowsOf(1))}{ no\n`);
  const told = file('odd.told', checked(data));
  expect((await row(told, 2)).problem).toMatch(/^Row 2 \(.*odd\.ndjson, line 2\) cannot be opened: not JSON: /);
  for (const number of [0, 3]) expect((await row(told, number)).problem).toMatch(/^There is no row .*; they are counted from 1 to 2\.$/);
  expect((await ask('alike', { path: told, use: 'none', severity: 'error', intake: 'booking', settings })).problem).toContain(
    '"none" has found nothing',
  );
  appendFileSync(told, `${JSON.stringify({ version: 1, file: data, line: 3, outcome: 'accepted' })}\n`);
  utimesSync(told, new Date(), new Date(Date.now() + 90_000));
  expect((await ask('open', { path: told })).rows).toBe(3);
});
