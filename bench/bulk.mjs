// Screening a file of NDJSON beside reading and parsing it only: CPU time, and peak memory in processes of their own.
import { spawnSync } from 'node:child_process';
import { createReadStream, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { bad, good, make } from './booking.mjs';
import { median } from './paired.mjs';

const ROWS = 200_000;
const OPTIONS = { crlfDelay: Number.POSITIVE_INFINITY };

async function* parsed(file) {
  for await (const line of createInterface({ input: createReadStream(file), ...OPTIONS })) yield JSON.parse(line);
}

const WAYS = {
  async parse(file) {
    let count = 0;
    for await (const row of parsed(file)) count += row.amount;
    return count;
  },
  async 'row by row'(file, intake) {
    let count = 0;
    for await (const row of parsed(file)) if (intake.judgeLocally(row).outcome === 'accepted') count++;
    return count;
  },
  async batches(file, intake) {
    let count = 0;
    for await (const { verdict } of intake.judgeMany(parsed(file))) if (verdict.outcome === 'accepted') count++;
    return count;
  },
};

if (process.argv[2] === '--way') {
  const [, , , way, file] = process.argv;
  const intake = make('booking', { code: 'at-once' });
  await new Promise((done) => setTimeout(done, 200));
  const start = process.cpuUsage();
  await WAYS[way](file, intake);
  const { user, system } = process.cpuUsage(start);
  console.log(JSON.stringify({ cpu: user + system, peak: process.resourceUsage().maxRSS }));
}

/** @returns rows of what is measured, its ratio, and its target */
export function bulk() {
  const folder = mkdtempSync(join(tmpdir(), 'jestril-bulk-'));
  try {
    const file = join(folder, 'rows.ndjson');
    writeFileSync(file, Array.from({ length: ROWS }, (_, row) => JSON.stringify(row % 50 === 0 ? bad : good)).join('\n'));
    const run = (way) => JSON.parse(spawnSync('node', [fileURLToPath(import.meta.url), '--way', way, file], { encoding: 'utf8' }).stdout);
    const rounds = Array.from({ length: 5 }, () => Object.fromEntries(Object.keys(WAYS).map((way) => [way, run(way)])));
    const ratio = (way, what) => median(rounds.map((round) => round[way][what] / round.parse[what]));
    return [
      { what: 'screening NDJSON in batches, CPU beside parsing it', value: ratio('batches', 'cpu'), target: 1.15 },
      { what: 'screening NDJSON row by row, CPU beside parsing it', value: ratio('row by row', 'cpu'), target: 1.4 },
      { what: 'screening NDJSON in batches, peak memory', value: ratio('batches', 'peak'), target: 1.2 },
    ];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
