// npm run explore: the suites that make cases up, with a seed of their own and many more cases than `npm test` tries.
//   npm run explore -- --seed 7 --cases 2000 test/core/claims.test.ts
// What is found is told with its seed, and belongs among the examples of its suite.
import { randomInt } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { build, install, program, root, run } from './setup.mjs';

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { seed: { type: 'string', default: String(randomInt(1, 2 ** 31)) }, cases: { type: 'string', default: '2000' } },
});
const suites = positionals.length > 0 ? positionals : suitesWithCases(join(root, 'test'));
console.error(`Seed ${values.seed}, ${values.cases} cases; again: npm run explore -- --seed ${values.seed} --cases ${values.cases}`);
install();
build();
run(
  'node',
  ['--experimental-vm-modules', '--no-warnings=ExperimentalWarning', program('jest/bin/jest.js'), '--testTimeout=3600000', ...suites],
  {
    env: { ...process.env, JESTRIL_SEED: values.seed, JESTRIL_RANDOM: values.cases },
  },
);

/** The suites that say how many cases they make up. */
function suitesWithCases(folder) {
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('.test.ts'));
  return files.filter((file) => readFileSync(join(folder, file), 'utf8').includes('JESTRIL_RANDOM')).map((file) => `test/${file}`);
}
