import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { commandIn, linesOf } from '../support/command.ts';
import { begun } from '../support/screening.ts';

// The same rows, however they come: compressed, in UTF-16, from an address that breaks off; as a whole, or a sample of them.

const { folder, file, library } = commandIn();
const module = file(
  'guests.mjs',
  `import { intake, length, text, whole } from '${library}';
   export const guest = intake('guest', { name: text('Name', length({ max: 6 })), nights: whole('Nights') });`,
);
const ROWS = 3000;
const rows = Array.from({ length: ROWS }, (_, at) => ({ name: at % 7 === 0 ? 'much too long' : `é${at}`, nights: at % 5 }));
const json = rows.map((row) => `${JSON.stringify(row)}\n`).join('');
const csv = `name,nights\n${rows.map(({ name, nights }) => `${name},${nights}\n`).join('')}`;
const utf16 = (text: string) => Buffer.from(`\ufeff${text}`, 'utf16le');

/** Answers with some bytes, and breaks off in the middle of what was not asked for from there on. */
const served: { [path: string]: { readonly bytes: Buffer; readonly tag?: string; readonly ranges?: boolean } } = {};
let breaks = 0;
const server = createServer((request: IncomingMessage, response: ServerResponse) => {
  const found = served[request.url ?? ''];
  if (!found || (request.url?.includes('secret') && request.headers.authorization !== 'Basic aWRhOnDDpHNz'))
    return void response.writeHead(404).end();
  const { bytes, tag, ranges = true } = found;
  const from = Number(/^bytes=(\d+)-$/.exec(request.headers.range ?? '')?.[1] ?? Number.NaN);
  const isRest = ranges && from >= 0 && request.headers['if-range'] === tag;
  const body = isRest ? bytes.subarray(from) : bytes;
  response.writeHead(isRest ? 206 : 200, { 'content-length': body.length, ...(tag && { etag: tag }) });
  if (isRest && body.length < bytes.length / 2) return void response.end(body);
  breaks += 1;
  response.write(body.subarray(0, body.length / 2 + 7), () => response.destroy());
});
beforeAll(() => new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve)));
afterAll(() => void server.close());
const address = (path: string, who = '') => `http://${who}127.0.0.1:${(server.address() as AddressInfo).port}${path}`;

const run = async (...args: readonly string[]) => {
  const { code, told } = await begun(args, process.cwd()).ended;
  return { code, told: told.replaceAll(folder, '') };
};
const ACCEPTED = rows.filter(({ name }) => name !== 'much too long').length;
const SUMMARY = `3,000 submissions: ${ACCEPTED.toLocaleString('en')} accepted, ${ROWS - ACCEPTED} rejected, 0 undecided.`;

test.each<[name: string, data: () => string]>([
  ['compressed NDJSON', () => file('rows.ndjson.gz', gzipSync(json))],
  ['compressed CSV', () => file('rows.csv.gz', gzipSync(csv))],
  ['compressed without a name that says so', () => file('rows', gzipSync(json))],
  ['compressed UTF-16', () => file('wide.csv.gz', gzipSync(utf16(csv)))],
  ['CSV in UTF-16', () => file('wide.csv', utf16(csv))],
  ['a compressed list', () => file('rows.json.gz', gzipSync(JSON.stringify(rows)))],
  [
    'an address that breaks off again and again',
    () => {
      served['/rows.csv?of=3'] = { bytes: Buffer.from(csv), tag: '"1"' };
      return address('/rows.csv?of=3');
    },
  ],
  [
    'an address of what is compressed, with a password',
    () => {
      served['/secret/rows.ndjson.gz'] = { bytes: gzipSync(json), tag: '"7"' };
      return address('/secret/rows.ndjson.gz', 'ida:p%C3%A4ss@');
    },
  ],
])('%s is judged as it is by itself', async (name, data) => {
  const path = data();
  expect(await run('check', module, path, '--quiet')).toMatchObject({ code: 1, told: expect.stringContaining(SUMMARY) });
  const to = join(folder, `to ${name}`);
  const screened = await run('screen', 'start', module, path, '--to', to, '--range-bytes', '9000');
  expect(screened).toMatchObject({ code: 1, told: expect.stringContaining(SUMMARY) });
  const lines = linesOf(readFileSync(join(to, 'verdicts.ndjson'), 'utf8'));
  expect(lines.map(({ row, outcome }) => [row, outcome])).toEqual(
    rows.map(({ name: own }, at) => [at + 1, own === 'much too long' ? 'rejected' : 'accepted']),
  );
  for (const text of [screened.told, readFileSync(join(to, 'job.json'), 'utf8'), readFileSync(join(to, 'index.html'), 'utf8')])
    expect(text).not.toMatch(/p%C3%A4ss|päss/);
  // What is done is that of the same source, and is not read again.
  expect(await run('screen', 'start', module, path, '--to', to, '--resume')).toMatchObject({
    code: 1,
    told: expect.stringContaining(SUMMARY),
  });
});

test('what cannot be read to its end is told, and nothing passes for all of it', async () => {
  const whole = gzipSync(json);
  const cut = file('cut.ndjson.gz', whole.subarray(0, whole.length / 2));
  const checked = await run('check', module, cut, '--quiet');
  expect([checked.code, checked.told]).toEqual([3, expect.stringContaining('1 unreadable')]);
  const to = ['--to', join(folder, 'never')];
  served['/changed.csv'] = { bytes: Buffer.from(csv), tag: '"1"', ranges: false };
  served['/weak.csv'] = { bytes: Buffer.from(csv), tag: 'W/"1"' };
  for (const [args, problem] of [
    [['screen', 'start', module, cut, ...to], 'cannot be screened: it holds something that is not sound gzip'],
    [['check', module, address('/none.csv')], 'none.csv cannot be read: 404 Not Found.'],
    [['check', module, 'http://127.0.0.1:49151/x.csv'], 'http://127.0.0.1:49151/x.csv cannot be read: ECONNREFUSED.'],
    [['check', module, address('/weak.csv'), '--quiet'], 'broke off behind '],
    [['check', module, address('/changed.csv'), '--quiet'], 'broke off, and is not what it was by now; begin again.'],
    [['screen', 'start', module, address('/changed.csv'), ...to], 'broke off, and is not what it was by now; begin again.'],
  ] as const)
    expect(await run(...args)).toMatchObject({ code: 3, told: expect.stringContaining(problem) });
  expect(breaks).toBeGreaterThan(2);
});

test('a sample stands for all of a file: so many rows from the first to the last, with their numbers', async () => {
  for (const path of [file('all.ndjson', json), file('all.csv', csv), file('all.json', JSON.stringify(rows, null, 1))]) {
    const to = join(folder, `sample of ${path.slice(-6)}`);
    const told = await run('screen', 'start', module, path, '--to', to, '--sample', '120', '--range-bytes', '9000');
    expect(told).toMatchObject({ code: 1, told: expect.stringContaining('Of 3,000 rows 120 are judged, from the first to the last.') });
    const lines = linesOf(readFileSync(join(to, 'verdicts.ndjson'), 'utf8'));
    const numbers = lines.map(({ row }) => row);
    expect([numbers.length, new Set(numbers).size, numbers[0]]).toEqual([120, 120, 1]);
    expect(Math.max(...numbers)).toBeGreaterThan(ROWS * 0.6);
    for (const { row, outcome, line, entry } of lines) {
      expect(outcome).toBe(rows[row - 1]?.name === 'much too long' ? 'rejected' : 'accepted');
      expect(entry ?? line - (path.endsWith('csv') ? 1 : 0)).toBe(row);
    }
  }
});

test('it stops where too much is not accepted, and its log tells what happened', async () => {
  const path = file('bad.ndjson', json);
  const to = join(folder, 'stopped');
  const start = (...more: readonly string[]) =>
    run('screen', 'start', module, path, '--to', to, '--range-bytes', '9000', '--resume', ...more);
  const stopped = await start('--most-rejected', '2%');
  expect(stopped).toMatchObject({
    code: 1,
    told: expect.stringContaining('rows are not accepted, and --most-rejected 2% ends it here: nothing is written or stored.'),
  });
  expect(await start('--stop-after', '100')).toMatchObject({ code: 1, told: expect.stringContaining('and --stop-after 100 ends it here') });
  expect(await start('--most-rejected', '0.2')).toMatchObject({ code: 1, told: expect.stringContaining(SUMMARY) });
  const log = linesOf(readFileSync(join(to, 'log.ndjson'), 'utf8'));
  const { run: id } = JSON.parse(readFileSync(join(to, 'summary.json'), 'utf8'));
  expect(new Set(log.map((each) => each.run))).toEqual(new Set([id]));
  const events = log.map(({ event }) => event).filter((event) => event !== 'range');
  expect(events).toEqual(['begun', 'stopped', 'resumed', 'stopped', 'resumed', 'done']);
  expect(log.at(-1)).toMatchObject({
    accepted: ACCEPTED,
    rejected: ROWS - ACCEPTED,
    undecided: 0,
    unreadable: 0,
    seconds: expect.any(Number),
  });
  const checked = await run('check', module, path, '--quiet', '--stop-after', '10');
  expect(checked).toMatchObject({ code: 1, told: expect.stringContaining('Stopped: what was read so far is told above.') });
});
