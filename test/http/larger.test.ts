import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { larger, processorTime } from '../support/larger.ts';
import { doorTo, FIELDS, ROWS } from '../support/larger-door.ts';

// One odd thing, as large as a body may be: what it costs grows no faster than it does, and so does what is answered.

/** What is usual takes two or three milliseconds; whatever grows with the square of a body, seconds. */
const MOST = 600;
const SIZE = 99_000;

test.each(['firstOfEach', 'everything'] as const)('%s', async (report) => {
  const handle = doorTo(report);
  const slow: unknown[] = [];
  for (const accept of ['application/json', 'text/html'])
    for (const { what, headers, body } of larger(FIELDS, ROWS, SIZE)) {
      let answer = '';
      const took = await processorTime(async () => {
        const response = await handle(new Request('https://x.example/', { method: 'POST', headers: { accept, ...headers }, body }));
        answer = `${response.status} ${await response.text()}`;
      });
      if (took > MOST || answer.length > 1.5 * SIZE || answer.startsWith('500'))
        slow.push([what, accept, Math.round(took), answer.length, answer.slice(0, 200)]);
    }
  expect(slow).toEqual([]);
});

test('all of it together fits into a small heap', async () => {
  // The library and what is sent take some 35 MB of it.
  const jiti = 'node_modules/jiti/lib/jiti-cli.mjs';
  const { stdout } = await promisify(execFile)('node', ['--max-old-space-size=80', jiti, 'test/support/small-heap.ts']);
  expect(Number(stdout)).toBeGreaterThan(2000);
});
