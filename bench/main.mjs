// npm run bench: what judging costs, beside what it is compared with; ratios only, since the machine has its moods.
//   --save      keeps the ratios in bench/ratios.json
//   --compare   says what has become worse than the ratios kept (by a tenth or more), with exit code 1
//   --only x    one part: judging, growth, loading, bulk
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { bulk } from './bulk.mjs';
import { growth } from './growth.mjs';
import { judging } from './judging.mjs';
import { loading } from './loading.mjs';

const { values } = parseArgs({ options: { save: { type: 'boolean' }, compare: { type: 'boolean' }, only: { type: 'string' } } });
const KEPT = new URL('./ratios.json', import.meta.url);
const HEAP = ['--expose-gc', '--max-semi-space-size=256', '--min-semi-space-size=256'];

const bytes = () => {
  const { stdout } = spawnSync('node', [...HEAP, 'bench/judging.mjs', '--bytes'], { encoding: 'utf8' });
  return [{ what: 'bytes allocated by an accepted judgement', value: Number(stdout), target: 1.6 }];
};
const PARTS = { judging: async () => [...(await judging()), ...bytes()], growth, loading, bulk };
const rows = [];
for (const [name, part] of Object.entries(PARTS)) {
  if (values.only !== undefined && values.only !== name) continue;
  for (const row of await part()) {
    rows.push(row);
    console.log(lineOf(row));
  }
}
if (values.save) writeFileSync(KEPT, `${JSON.stringify(rows.map(rounded), null, 2)}\n`);
if (values.compare) compare();

function lineOf({ what, value, target, unit = '' }) {
  const aim = target === undefined ? '' : `${value <= target ? 'within' : 'MISSES'} ${target}`;
  return `${what.padEnd(60)} ${value.toFixed(2).padStart(8)} ${unit.padEnd(2)}  ${aim}`;
}

function rounded({ value, ...row }) {
  return { ...row, value: Number(value.toFixed(2)) };
}

function compare() {
  const kept = existsSync(KEPT) ? JSON.parse(readFileSync(KEPT, 'utf8')) : [];
  const worse = rows.filter(({ what, value }) => value > 1.1 * (kept.find((row) => row.what === what)?.value ?? Number.POSITIVE_INFINITY));
  for (const { what, value } of worse) console.log(`Worse than kept: ${what}, ${value.toFixed(2)}`);
  process.exitCode = worse.length > 0 ? 1 : 0;
}
