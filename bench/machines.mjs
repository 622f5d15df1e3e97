// How a screening grows with its machines: a simulation, with what it takes measured here, checked against real runs here, and then asked
// about more machines and rows than there are.
//   node bench/machines.mjs                 measures, predicts runs that then happen, and simulates a hundred workers
//   node bench/machines.mjs --from FILE     simulates with what was measured before (bench/machines.json)
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, openSync, readdirSync, readFileSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { root } from '../scripts/setup.mjs';

const JESTRIL = join(root, 'bin/jestril.js');
const REDIS = process.env.JESTRIL_REDIS ?? 'redis://127.0.0.1:6379';
const LOCK = 15;

/**
 * Simulates a screening: ranges are taken by workers and judged; a worker may be lost, and its range waits for the lock to end. Cutting comes
 * before; behind it one machine settles what the rows claim, ranges whose rows are told otherwise are judged again, and one machine gathers.
 *
 * @returns seconds of each step, and in all
 */
export function simulate({ rows, workers, perRange, judge, cut, settle, gather, begin, lost = 0, contested = 0, seed = 1 }) {
  const random = randomOf(seed);
  const ranges = Math.ceil(rows / perRange);
  const pass = (count) => {
    // Workers by the moment at which each is free.
    const free = new Heap(Array.from({ length: workers }, () => ({ at: begin * (0.8 + 0.4 * random()) })));
    let end = 0;
    for (let left = count; left > 0; left--) {
      const { at } = free.pop();
      if (lost > 0 && random() < lost) {
        // The worker is gone half way, and another takes its place; its range is offered again.
        free.push({ at: at + (perRange * judge) / 2 + LOCK + begin });
        left += 1;
        continue;
      }
      const judged = at + perRange * judge * (0.9 + 0.2 * random());
      free.push({ at: judged });
      end = Math.max(end, judged);
    }
    return end;
  };
  const cutting = rows * cut;
  const judging = pass(ranges);
  const settling = rows * settle + (contested > 0 ? pass(Math.ceil(ranges * contested)) - begin : 0);
  const gathering = rows * gather;
  return { cutting, judging, settling, gathering, all: cutting + judging + settling + gathering };
}

function randomOf(seed) {
  let state = seed;
  return () => {
    state = (state * 1664525 + 1013904223) >>> 0;
    return state / 4294967296;
  };
}

/** The first of some workers to be free, again and again. */
class Heap {
  constructor(values) {
    this.values = [];
    for (const value of values) this.push(value);
  }
  push(value) {
    const { values } = this;
    let at = values.push(value) - 1;
    while (at > 0 && values[(at - 1) >> 1].at > values[at].at) {
      [values[at], values[(at - 1) >> 1]] = [values[(at - 1) >> 1], values[at]];
      at = (at - 1) >> 1;
    }
  }
  pop() {
    const { values } = this;
    const [least] = values;
    const last = values.pop();
    if (values.length === 0) return least;
    values[0] = last;
    for (let at = 0; ; ) {
      const [left, right] = [2 * at + 1, 2 * at + 2];
      let next = at;
      if (left < values.length && values[left].at < values[next].at) next = left;
      if (right < values.length && values[right].at < values[next].at) next = right;
      if (next === at) return least;
      [values[at], values[next]] = [values[next], values[at]];
      at = next;
    }
  }
}

const MODULE = `
import { between, collection, day, decimal, intake, pattern, places, text, unique, whole } from '${join(root, 'dist/index.js')}';
import { memoryRecords } from '${join(root, 'dist/records/memory.js')}';
const vessels = collection('vessels', { id: whole, mark: text }, { key: 'id' });
export const records = memoryRecords({ vessels: [] });
const fields = { mark: text('Mark', pattern(/^M\\d+$/, 'M and digits')), name: text('Name'), length: decimal('Length', between(2, 40), places(2)), insured: day('Insured until') };
export const plain = intake('plain', fields);
export const claiming = intake('claiming', fields, { storedIn: vessels, rules: [unique(vessels, { mark: 'mark' })] });
`;

/** A real screening by so many workers that joined; seconds of its steps as the coordinator saw them. */
async function real(folder, intake, rows, workers, rangeBytes) {
  const to = join(folder, `${intake}-${workers}-${Math.random().toString(36).slice(2)}`);
  const records = intake === 'claiming' ? ['--records', join(folder, 'vessels.mjs')] : [];
  const common = [join(folder, 'vessels.mjs')];
  const begun = performance.now();
  const coordinator = spawn(
    'node',
    [
      JESTRIL,
      'screen',
      'start',
      ...common,
      join(folder, `${rows}.ndjson`),
      '--intake',
      intake,
      '--to',
      to,
      '--redis',
      REDIS,
      '--range-bytes',
      String(rangeBytes),
      ...records,
    ],
    { stdio: 'ignore' },
  );
  while (!existsSync(join(to, 'job.json'))) await pause(20);
  const cut = performance.now();
  const crew = Array.from({ length: workers }, () =>
    spawn('node', [JESTRIL, 'screen', 'join', ...common, '--to', to, '--redis', REDIS, ...records], { stdio: 'ignore' }),
  );
  const { ranges } = JSON.parse(readFileSync(join(to, 'job.json'), 'utf8'));
  const busyBefore = busySeconds();
  let busy;
  let judged;
  while (!existsSync(join(to, 'summary.json'))) {
    const done = doneIn(to) ?? ranges;
    if (done === ranges && judged === undefined) {
      judged = performance.now();
      busy = busySeconds() - busyBefore;
    }
    await pause(20);
  }
  judged ??= performance.now();
  const end = performance.now();
  await Promise.all(crew.map((each) => new Promise((resolve) => each.once('exit', resolve))));
  coordinator.kill();
  rmSync(to, { recursive: true, force: true });
  return {
    ranges,
    cutting: (cut - begun) / 1000,
    judging: (judged - cut) / 1000,
    busy: ((busy ?? busySeconds() - busyBefore) * 1000) / (judged - cut),
    rest: (end - judged) / 1000,
  };
}

/** Ranges that were judged by themselves; nothing where all is over. */
function doneIn(to) {
  const work = readdirSync(to).find((name) => name.startsWith('work-'));
  return work && readdirSync(join(to, work, 'done')).filter((name) => name.endsWith('.r0.json')).length;
}

/** Seconds for which the cores of this machine were busy, all of them together. */
const busySeconds = () => cpus().reduce((sum, { times: { user, nice, sys, irq } }) => sum + (user + nice + sys + irq) / 1000, 0);

const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

function write(folder, rows) {
  const file = openSync(join(folder, `${rows}.ndjson`), 'w');
  for (let at = 0; at < rows; at += 10_000)
    writeSync(
      file,
      Array.from(
        { length: Math.min(10_000, rows - at) },
        (_, next) => `{"mark":"M${at + next}","name":"Vessel ${at + next}","length":11.5,"insured":"2041-04-20"}\n`,
      ).join(''),
    );
}

async function measure() {
  const folder = mkdtempSync(join(tmpdir(), 'jestril-machines-'));
  try {
    writeFileSync(join(folder, 'vessels.mjs'), MODULE);
    const [few, many, bytes] = [100_000, 400_000, 2_000_000];
    for (const rows of [few, many]) write(folder, rows);
    const measured = {};
    const runs = [];
    for (const intake of ['plain', 'claiming']) {
      const small = await real(folder, intake, few, 1, bytes);
      const large = await real(folder, intake, many, 1, bytes);
      const perRow = (large.judging - small.judging) / (many - few);
      measured[intake] = {
        perRange: many / large.ranges,
        perRow,
        busy: large.busy,
        begin: Math.max(0.1, small.judging - few * perRow),
        cut: Math.max(0, (large.cutting - small.cutting) / (many - few)),
        // Of rows that claim something, settling is part of it.
        rest: Math.max(0, (large.rest - small.rest) / (many - few)),
      };
      for (const workers of [1, 2]) runs.push({ intake, rows: many, workers, ...(await real(folder, intake, many, workers, bytes)) });
    }
    return { measured, runs };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Seconds a row of 80 bytes that cutting and gathering take at least: a disk of 200 MB a second. What is measured here is too short to tell. */
const DISK = 80 / 200e6;

/** What the simulation takes of what was measured. */
function modelOf({ measured }, intake, rows, workers, more = {}) {
  const { perRange, perRow, begin, cut, rest } = measured[intake];
  return {
    rows,
    workers,
    perRange,
    judge: perRow,
    cut: Math.max(cut, DISK),
    settle: intake === 'claiming' ? Math.max(0, rest - measured.plain.rest) : 0,
    gather: Math.max(measured.plain.rest, DISK),
    begin,
    ...more,
  };
}

const from = process.argv.indexOf('--from');
const kept = join(root, 'bench/machines.json');
const told = from > 0 ? JSON.parse(readFileSync(process.argv[from + 1] ?? kept, 'utf8')) : await measure();
if (from < 0) writeFileSync(kept, `${JSON.stringify(told, null, 2)}\n`);
const cores = cpus().length;
console.log('What was measured (one worker, seconds a million rows)');
for (const [intake, { perRow, cut, rest, begin, busy }] of Object.entries(told.measured))
  console.log(
    `  ${intake.padEnd(9)} judging ${(perRow * 1e6).toFixed(1)}, cutting ${(cut * 1e6).toFixed(1)}, settling and gathering ${(rest * 1e6).toFixed(1)}; a worker begins in ${begin.toFixed(1)} s; ${busy.toFixed(1)} cores are busy`,
  );
console.log(`\nPredicted beside real (on ${cores} cores, which coordinator, workers and Redis share)`);
for (const { intake, rows, workers, judging } of told.runs) {
  // Workers of one machine share its cores with the databases: it cannot be busier than it has some.
  const { busy, perRow } = told.measured[intake];
  const judge = perRow * Math.max(1, (workers * busy) / cores);
  const predicted = simulate(modelOf(told, intake, rows, workers, { judge })).judging;
  console.log(
    `  ${intake.padEnd(9)} ${rows.toLocaleString('en')} rows, ${workers} worker${workers > 1 ? 's' : ' '}: ${predicted.toFixed(1)} s predicted, ${judging.toFixed(1)} s real (${(predicted / judging).toFixed(2)})`,
  );
}
console.log('\nA thousand million rows, simulated');
for (const [what, intake, workers, more] of [
  ['1 worker', 'plain', 1, {}],
  ['10 workers', 'plain', 10, {}],
  ['100 workers', 'plain', 100, {}],
  ['100 workers, one range in a hundred loses its worker', 'plain', 100, { lost: 0.01 }],
  ['100 workers, all rows claim something', 'claiming', 100, {}],
  ['the same, one range in ten judged again', 'claiming', 100, { contested: 0.1 }],
]) {
  const steps = simulate(modelOf(told, intake, 1e9, workers, { perRange: 40_000, ...more }));
  const hours = (seconds) => (seconds >= 3600 ? `${(seconds / 3600).toFixed(1)} h` : `${(seconds / 60).toFixed(0)} min`);
  console.log(
    `  ${what}: ${hours(steps.all)} (cutting ${hours(steps.cutting)}, judging ${hours(steps.judging)}, settling ${hours(steps.settling)}, gathering ${hours(steps.gathering)})`,
  );
}
