import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { JobFolder, type Manifest } from '../../src/cli/screen/job.ts';
import { Summary } from '../../src/screening/summary.ts';
import { commandIn, linesOf } from '../support/command.ts';
import { Random } from '../support/random.ts';
import { begun, MODULE } from '../support/screening.ts';

const { folder, file, jestril } = commandIn();
const module = file(
  'quay.mjs',
  MODULE.replace("'jestril'", `'${join(process.cwd(), 'dist/index.js')}'`).replace(
    "'jestril/memory'",
    `'${join(process.cwd(), 'dist/records/memory.js')}'`,
  ),
);
const NOW = ['--records', module, '--now', '2031-01-01T00:00:00Z'];

/** Rows that claim what others do, some of them unreadable. */
function rowsOf(count: number, seed: number, marks = count) {
  const random = new Random(seed);
  return Array.from({ length: count }, (_, at) => {
    if (random.below(40) === 0) return '{';
    const arrives = 1 + random.below(20);
    const day = (number: number) =>
      `2031-0${1 + random.below(9)}-${String(number).padStart(2, '0')}`.replace(/-0\d-/, `-0${1 + (at % 9)}-`);
    return JSON.stringify({
      mark: `M${random.below(marks)}`,
      berth: `B${random.below(40)}`,
      arrives: day(arrives),
      departs: day(arrives + random.below(4)),
      name: random.below(30) === 0 ? 'much too long' : 'Ida',
    });
  });
}

/** What `check` says of every row, and what a screening does. */
const checked = (path: string) =>
  linesOf(jestril(['check', module, path, ...NOW, '--format', 'json']).stdout)
    .slice(0, -1)
    .map(({ line, outcome, findings = [], warnings = [] }) => [
      line,
      outcome,
      [...findings, ...warnings].map(({ use, message }: { use: string; message: string }) => `${use} ${message}`),
    ]);
const screened = (to: string) =>
  linesOf(readFileSync(join(to, 'verdicts.ndjson'), 'utf8')).map(({ line, outcome, findings = [] }) => [
    line,
    outcome,
    findings.map(({ use, message }: { use: string; message: string }) => `${use} ${message}`),
  ]);
const startArgs = (path: string, to: string, ...more: readonly string[]) => [
  'screen',
  'start',
  module,
  path,
  ...NOW,
  '--to',
  to,
  '--range-bytes',
  '2000',
  ...more,
];

const RESULT = ['counts.csv', 'examples.ndjson', 'findings.svg', 'index.html', 'not-accepted.csv', 'summary.json', 'verdicts.ndjson'];

test('a screening in many ranges says of every row what one run does, claims of rows in other ranges among it', () => {
  const path = file('rows.ndjson', `${rowsOf(1500, 7).join('\n')}\n`);
  const to = join(folder, 'screened');
  const { status, stdout, stderr } = jestril(startArgs(path, to, '--workers', '2'));
  expect([status, stderr]).toEqual([3, expect.stringContaining('index.html shows them')]);
  const expected = checked(path);
  expect(screened(to)).toEqual(expected);
  expect(expected.filter(([, , found]) => String(found).includes('once ')).length).toBeGreaterThan(100);
  const count = (outcome: string) => expected.filter(([, each]) => each === outcome).length;
  const summary = JSON.parse(readFileSync(join(to, 'summary.json'), 'utf8'));
  expect(summary.counts).toEqual({
    accepted: count('accepted'),
    rejected: count('rejected'),
    undecided: 0,
    unreadable: count('unreadable'),
  });
  expect(stdout).toContain(`${count('unreadable')} unreadable`);
  // For people: a table of what was not accepted, counts, a chart, and nothing that was only needed on the way.
  expect(readFileSync(join(to, 'not-accepted.csv'), 'utf8').trim().split('\r\n')).toHaveLength(1 + count('rejected') + count('unreadable'));
  expect(readFileSync(join(to, 'findings.svg'), 'utf8')).toContain('What was found, by rule');
  expect(readdirSync(to).sort()).toEqual([...RESULT, 'job.json'].sort());
  // Again: it is done already.
  expect(jestril(startArgs(path, to, '--resume')).stdout).toBe(stdout);
  expect(jestril(startArgs(path, to))).toMatchObject({ status: 3, stderr: expect.stringContaining('go on with it by --resume') });
});

test('random rows come out the same in one run, with threads, and in ranges', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 1e6 }),
      fc.integer({ min: 20, max: 200 }),
      fc.integer({ min: 2, max: 60 }),
      (seed, count, marks) => {
        const path = file('random.ndjson', rowsOf(count, seed, marks).join('\n'));
        const to = join(folder, `random-${seed}-${count}-${marks}`);
        jestril(startArgs(path, to));
        expect(screened(to)).toEqual(checked(path));
        const threaded = ['check', module, path, ...NOW, '--format', 'json', '--workers'];
        expect(jestril([...threaded, '2']).stdout).toBe(jestril([...threaded, '1']).stdout);
      },
    ),
    { numRuns: Math.ceil(Number(process.env.JESTRIL_RANDOM ?? 80) / 40) },
  );
});

test("the same file twice: every value is the first one's", () => {
  const path = file('twice.ndjson', `${rowsOf(120, 3, 1e6).join('\n')}\n`);
  const to = join(folder, 'twice');
  jestril(['screen', 'start', module, path, path, ...NOW, '--to', to, '--range-bytes', '2000']);
  const lines = screened(to);
  const [first, second] = [lines.slice(0, lines.length / 2), lines.slice(lines.length / 2)];
  expect(first.filter(([, outcome]) => outcome === 'accepted').length).toBeGreaterThan(20);
  expect(second.every(([, outcome, found]) => outcome === 'unreadable' || String(found).includes('once '))).toBe(true);
});

test.each(['SIGKILL', 'SIGINT'] as const)(
  'ended by %s at any time, it is gone on with: no row is lost and none is there twice',
  async (signal) => {
    const path = file(`${signal}.ndjson`, `${rowsOf(2200, 11).join('\n')}\n`);
    const to = join(folder, signal);
    const random = new Random(5);
    let ended = { code: null as number | null, told: '' };
    let times = 0;
    const progress = () => ['alone', 'settled'].flatMap((pass) => (existsSync(join(to, pass)) ? readdirSync(join(to, pass)) : [])).length;
    while (!existsSync(join(to, 'summary.json'))) {
      const run = begun(startArgs(path, to, '--resume'), process.cwd());
      const before = progress();
      let isOver = false;
      void run.ended.then(() => {
        isOver = true;
      });
      // Mostly some time after it has got somewhere, however slow the machine is; now and then before.
      if (times % 4 !== 3) while (!isOver && progress() === before) await new Promise((resolve) => setTimeout(resolve, 20));
      setTimeout(() => run.kill(signal), random.below(1000));
      ended = await run.ended;
      if (signal === 'SIGINT' && ended.code === 2) expect(ended.told).toContain('What is done is kept: go on with --resume.');
      times += 1;
    }
    expect(times).toBeGreaterThan(1);
    // Once the summary is there, so is all else.
    expect(readdirSync(to)).toEqual(expect.arrayContaining(RESULT));
    expect(screened(to)).toEqual(checked(path));
  },
);

// Nobody is asked, so that little patience is needed.
const alone = file('alone.mjs', readFileSync(module, 'utf8').replace(/ {2}unique\(.*\n {2}noOverlap\(.*\n/, ''));
const row = (name: string) => JSON.stringify({ mark: 'X1', berth: 'Z', arrives: '2031-01-01', departs: '2031-01-02', name });

test('a row that ends whoever judges it, or never ends, is undecided, and stops nobody', () => {
  const rows = Array.from({ length: 400 }, (_, at) =>
    row(at === 100 ? 'exit' : at === 300 ? 'forever' : at % 50 === 7 ? 'much too long' : 'Ida'),
  );
  const to = join(folder, 'poison');
  const path = file('poison.ndjson', rows.join('\n'));
  expect(jestril(['screen', 'start', alone, path, '--to', to])).toMatchObject({ status: 1 });
  expect(screened(to).flatMap(([line, outcome]) => (outcome === 'accepted' ? [] : [`${line} ${outcome}`]))).toEqual(
    rows.flatMap((_, at) => (at === 100 || at === 300 ? [`${at + 1} undecided`] : at % 50 === 7 ? [`${at + 1} rejected`] : [])),
  );
});

test('a row that waits long for its thread is not taken for one that never ends', () => {
  const rows = [...Array.from({ length: 14 }, () => row('slow')), row('Ida')].map((line) => `${line}\n`);
  const path = file('slow.ndjson', rows.join(''));
  const to = join(folder, 'slow');
  const size = Buffer.byteLength(rows.slice(0, 14).join(''));
  expect(jestril(['screen', 'start', alone, path, '--to', to, '--range-bytes', String(size)])).toMatchObject({ status: 0 });
  expect(JSON.parse(readFileSync(join(to, 'job.json'), 'utf8'))).toMatchObject({ ranges: 2 });
});

test('a worker that was given up, and ends late after all, changes nothing that came behind', () => {
  const job = new JobFolder(join(folder, 'late'));
  job.create({ layout: 1 } as Manifest, []);
  const outcome = { index: 3, rows: 1, summed: new Summary().summed, took: 1 };
  for (const pass of ['alone', 'settled', 'alone'] as const) job.finish(pass, outcome, { told: `${pass}\n`, notable: [`${pass}\n`] });
  for (const part of ['rows', 'notable'] as const) expect(readFileSync(job.rowsFile(3, part), 'utf8')).toBe('settled\n');
  expect([...job.done('alone'), ...job.done('settled')]).toEqual([3, 3]);
});

test('one that is ended while it runs stops for good', async () => {
  const path = file('ended.ndjson', `${rowsOf(20_000, 23).join('\n')}\n`);
  const to = join(folder, 'ended');
  const run = begun(startArgs(path, to), process.cwd());
  while (!existsSync(join(to, 'job.json'))) await new Promise((resolve) => setTimeout(resolve, 50));
  expect(jestril(['screen', 'end', to]).status).toBe(0);
  expect(await run.ended).toMatchObject({ code: 2, told: expect.stringContaining('It was ended by jestril screen end.') });
  expect(jestril(startArgs(path, to, '--resume'))).toMatchObject({
    status: 3,
    stderr: expect.stringContaining('was ended; name another folder'),
  });
});

test('a machine with other rules, another file, or an unfit one is refused in a sentence', () => {
  const path = file('few.ndjson', `${rowsOf(200, 17).join('\n')}\n`);
  const to = join(folder, 'refused');
  // Begun, and ended before its time.
  writeFileSync(path, `${rowsOf(200, 17).join('\n')}\n`);
  const begin = jestril(startArgs(path, to, '--shared', 'none.db'));
  expect(begin).toMatchObject({ status: 3, stderr: expect.stringContaining('There is no file none.db.') });
  const odd = jestril(startArgs(path, to, '--resume', '--shared', path));
  expect(odd).toMatchObject({
    status: 3,
    stderr: expect.stringContaining('is the address of no database; give one such as postgres://…, mysql://…, file.db.'),
  });
  writeFileSync(module, `${readFileSync(module, 'utf8')}\n// changed\n`);
  expect(jestril(startArgs(path, to, '--resume'))).toMatchObject({
    status: 3,
    stderr: expect.stringContaining('has other rules for "stay"'),
  });
  writeFileSync(module, readFileSync(module, 'utf8').replace('\n// changed\n', ''));
  writeFileSync(path, `${rowsOf(199, 17).join('\n')}\n`);
  expect(jestril(startArgs(path, to, '--resume'))).toMatchObject({
    status: 4,
    stderr: expect.stringContaining('is not as long as when the screening began'),
  });
  expect(jestril(['screen', 'watch', to])).toMatchObject({ status: 2, stdout: expect.stringMatching(/^\d+ of \d+ ranges judged/) });
  expect(jestril(['screen', 'end', to])).toMatchObject({ status: 0 });
  expect(jestril(['screen', 'watch', to]).stdout).toBe('It was ended before its time.\n');
  for (const [args, problem] of [
    [[file('whole.json', '[{}]')], 'is one JSON text, which cannot be cut'],
    [[file('wide.ndjson', Buffer.from('\ufeff{}', 'utf16le'))], 'is UTF-16'],
    [['none.ndjson'], 'There is no file none.ndjson.'],
    [[], 'Name the files to screen'],
    [[path, '--from', 'x.txt'], 'is no database'],
  ] as const)
    expect(jestril(['screen', 'start', module, ...args, ...NOW, '--to', join(folder, 'unfit')])).toMatchObject({
      status: 3,
      stderr: expect.stringContaining(problem),
    });
  expect(jestril(['screen', 'watch', folder])).toMatchObject({ status: 3, stderr: expect.stringContaining('holds no screening') });
});
