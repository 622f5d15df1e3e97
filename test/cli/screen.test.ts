import { existsSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { NO_CLAIMS } from '../../src/cli/claims/claim-list.ts';
import { JobFolder, type Manifest } from '../../src/cli/screen/folder/job.ts';
import { Summary } from '../../src/screening/summary.ts';
import { commandIn, linesOf } from '../support/command.ts';
import { Random } from '../support/random.ts';
import { begun, MODULE, turnsDone } from '../support/screening.ts';

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
const checked = (path: string, flags: readonly string[] = NOW) =>
  linesOf(jestril(['check', module, path, ...flags, '--format', 'json']).stdout)
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
  expect(readdirSync(to).sort()).toEqual([...RESULT, 'job.json', 'log.ndjson', 'ranges.ndjson'].sort());
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

test('where nobody is asked for records, rows are told of each other all the same', () => {
  const path = file('unasked.ndjson', `${rowsOf(120, 5, 60).join('\n')}\n`);
  const to = join(folder, 'unasked');
  jestril(['screen', 'start', module, path, '--now', '2031-01-01T00:00:00Z', '--to', to, '--range-bytes', '2000']);
  const expected = checked(path, NOW.slice(2));
  expect(expected.filter(([, , found]) => String(found).includes('once ')).length).toBeGreaterThan(20);
  expect(screened(to)).toEqual(expected);
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
    const progress = () => turnsDone(to);
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

test('a row that is given up leaves those undecided that may claim what it does, until it is judged', () => {
  const text = readFileSync(module, 'utf8');
  const flaky = file(
    'flaky.mjs',
    `import { existsSync } from 'node:fs';${text}`.replace(
      "'exit') process.exit(9)",
      "'exit' && !existsSync(new URL('well', import.meta.url))) process.exit(9)",
    ),
  );
  const rowOf = (mark: string, berth: string, name = 'Ida') =>
    JSON.stringify({ mark, berth, arrives: '2031-01-05', departs: '2031-01-07', name });
  const rows = [rowOf('A', 'X'), rowOf('B', 'Y', 'exit'), rowOf('B', 'Z'), rowOf('C', 'Y'), rowOf('D', 'V'), rowOf('A', 'W')];
  const path = file('flaky.ndjson', `${rows.join('\n')}\n`);
  const outcomes = (to: string) => screened(to).map(([, outcome]) => outcome);
  const args = ['screen', 'start', flaky, path, '--records', flaky, '--now', '2031-01-01T00:00:00Z'];
  for (const [size, more] of [
    ['20', []],
    ['100000', ['--workers', '2']],
  ] as const) {
    const to = join(folder, `flaky-${size}`);
    const first = jestril([...args, '--to', to, '--range-bytes', size, ...more]);
    // The row itself, the one with its mark, and the one at its berth; the others are sure.
    expect([first.status, outcomes(to)]).toEqual([1, ['accepted', 'undecided', 'undecided', 'undecided', 'accepted', 'rejected']]);
    expect(first.stderr).toContain('3 rows are undecided; judge again what may be decided by now with --resume --undecided.');
    file('well', '');
    const again = jestril([...args, '--to', to, '--resume', '--undecided']);
    rmSync(join(folder, 'well'));
    expect([again.status, outcomes(to)]).toEqual([1, ['accepted', 'accepted', 'rejected', 'rejected', 'accepted', 'rejected']]);
    expect(readdirSync(to).some((name) => name.startsWith('work-'))).toBe(false);
  }
  // So says check, where it judges in threads.
  const threaded = jestril(['check', flaky, path, '--records', flaky, '--workers', '2', '--format', 'json']);
  expect(
    linesOf(threaded.stdout)
      .slice(0, -1)
      .map(({ outcome }) => outcome),
  ).toEqual(['accepted', 'undecided', 'undecided', 'undecided', 'accepted', 'rejected']);
});

test('a row that waits long, for its thread or in it, is not taken for one that never ends', () => {
  const rows = [...Array.from({ length: 12 }, () => row('slow')), row('sleeping'), row('Ida')].map((line) => `${line}\n`);
  const path = file('slow.ndjson', rows.join(''));
  const to = join(folder, 'slow');
  const size = Buffer.byteLength(rows.slice(0, 13).join(''));
  expect(jestril(['screen', 'start', alone, path, '--to', to, '--range-bytes', String(size)])).toMatchObject({ status: 0 });
  expect(JSON.parse(readFileSync(join(to, 'job.json'), 'utf8'))).toMatchObject({ ranges: 2 });
});

test('whoever ends late writes over nothing that came behind, nor into another screening of the same folder', () => {
  const manifest = { layout: 2, id: 'one' } as Manifest;
  const [job, late] = [new JobFolder(join(folder, 'late')), new JobFolder(join(folder, 'late'))];
  job.create(manifest, []);
  late.manifest();
  const done = { index: 3, turn: 'r0', rows: 1, summed: new Summary().summed, took: 1 };
  const judged = (told: string) => ({ told, notable: [told], claims: NO_CLAIMS, accepted: '', rejected: [] });
  job.finish(done, judged('first\n'));
  const outcome = job.outcome(done);
  late.finish(done, judged('late\n'));
  const textOf = (of: typeof outcome) =>
    (['rows.ndjson', 'notable.ndjson'] as const).map((part) => readFileSync(job.partOf(of, part), 'utf8'));
  expect([textOf(outcome), textOf(job.outcome(done))]).toEqual([
    ['first\n', 'first\n'],
    ['late\n', 'late\n'],
  ]);
  job.tidy();
  job.create({ ...manifest, id: 'two' }, []);
  expect(() => late.finish(done, judged('much too late\n'))).toThrow('cannot be written');
  expect([...job.done()]).toEqual([]);
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

test('what is gone on with is what was begun: other rules, another file, one that was changed, two at once are refused in a sentence', async () => {
  const rows = `${rowsOf(6000, 17).join('\n')}\n`;
  const path = file('many.ndjson', rows);
  const other = file('other.ndjson', rows);
  const to = join(folder, 'refused');
  const refused = (problem: string, ...args: readonly string[]) =>
    expect(jestril(args.length > 0 ? args : startArgs(path, to, '--resume'))).toMatchObject({
      status: 3,
      stderr: expect.stringContaining(problem),
    });
  const running = begun(startArgs(path, to), process.cwd());
  while (!existsSync(join(to, 'job.json'))) await new Promise((resolve) => setTimeout(resolve, 20));
  running.kill('SIGSTOP');
  refused(`is being worked on by process ${running.pid} on `);
  running.kill('SIGKILL');
  await running.ended;

  writeFileSync(module, `${readFileSync(module, 'utf8')}\n// changed\n`);
  refused('has other rules for "stay"');
  writeFileSync(module, readFileSync(module, 'utf8').replace('\n// changed\n', ''));
  refused('is the screening of other data: it was begun with', ...startArgs(other, to, '--resume'));
  refused('another --locale: it was begun with en.', ...startArgs(path, to, '--resume', '--locale', 'de'));
  refused('another --now', ...startArgs(path, to, '--resume').map((arg) => arg.replace('2031-01-01', '2031-01-02')));
  refused('write --resume with it', ...startArgs(path, to, '--undecided'));
  writeFileSync(path, rows.slice(0, -8));
  refused('is not as long as when the screening began');
  // As long, and with other text in it; also where its time says that nobody has changed it.
  const { time } = JSON.parse(readFileSync(join(to, 'job.json'), 'utf8')).sources[0];
  const at = rows.lastIndexOf('"mark":"M') + 9;
  writeFileSync(path, `${rows.slice(0, at)}x${rows.slice(at + 1)}`);
  refused('is not what it was when the screening began (rows ');
  utimesSync(path, time / 1000, time / 1000);
  refused('is not what it was when the screening began (rows ');
  // What was only touched is the same.
  writeFileSync(path, rows);
  expect(jestril(startArgs(path, to, '--resume')).status).toBe(3);
  expect(screened(to)).toEqual(checked(path));
  // It is done: what it says is said of that file, and of no other.
  refused('is the screening of other data', ...startArgs(other, to, '--resume'));
  writeFileSync(path, `${rows.slice(0, at)}x${rows.slice(at + 1)}`);
  refused('is not what it was when the screening began');
  rmSync(path);
  refused('There is no file');
});

test('data that cannot be screened are refused in a sentence', async () => {
  const path = file('few.ndjson', `${rowsOf(20_000, 17).join('\n')}\n`);
  const to = join(folder, 'few');
  const run = begun(startArgs(path, to), process.cwd());
  while (!existsSync(join(to, 'job.json'))) await new Promise((resolve) => setTimeout(resolve, 20));
  expect(jestril(['screen', 'watch', to])).toMatchObject({ status: 2, stdout: expect.stringMatching(/^\d+ of \d+ ranges judged/) });
  run.kill();
  await run.ended;
  expect(jestril(['screen', 'end', to])).toMatchObject({ status: 0 });
  expect(jestril(['screen', 'watch', to]).stdout).toBe('It was ended before its time.\n');
  for (const [args, problem] of [
    [[file('whole.json', '{\n"a":1}')], 'is one JSON value, which cannot be cut'],
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
