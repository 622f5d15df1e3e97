import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';

/**
 * A module whose rows claim values and intervals of each other, with a store of their own; one name ends whoever judges it, another never
 * ends, one takes long, one waits for long without doing anything.
 */
export const MODULE = `
import { collection, day, inOrder, intake, length, maybe, noOverlap, rule, text, unique, whole } from 'jestril';
import { memoryRecords } from 'jestril/memory';
export const stays = collection('stays', { id: whole, mark: text, berth: text, arrives: day, departs: day }, { key: 'id' });
export const records = memoryRecords({ stays: [{ id: 1, mark: 'S1', berth: 'A', arrives: '2031-01-01', departs: '2031-01-03' }] });
const ends = rule('quay/ends', { name: text }, {
  holds: ({ name }) => {
    if (name === 'exit') process.exit(9);
    if (name === 'forever') for (;;);
    if (name === 'sleeping') Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 8000);
    if (name === 'slow') for (const until = performance.now() + 500; performance.now() < until; );
    return true;
  },
  message: 'no', blames: 'name' });
export const stay = intake('stay', {
  mark: text('Mark'), berth: text('Berth'), arrives: day('Arrival'), departs: day('Departure'), name: text('Name', length({ max: 8 })),
}, { storedIn: stays, rules: [
  inOrder({ earlier: 'arrives', later: 'departs' }, { as: 'order' }),
  unique(stays, { mark: 'mark' }, { as: 'once' }),
  noOverlap(stays, { berth: 'berth', arrives: 'arrives', departs: 'departs' }, { interval: ['arrives', 'departs'], as: 'free' }),
  ends({ name: 'name' }),
] });
`;

/** The command in a process of its own, that can be killed. */
export function begun(args: readonly string[], cwd: string) {
  const child = spawn('node', [join(process.cwd(), 'bin/jestril.js'), ...args], { cwd, stdio: ['ignore', 'pipe', 'pipe'] });
  let told = '';
  for (const stream of [child.stdout, child.stderr]) {
    stream.on('data', (text) => {
      told += text;
    });
  }
  const ended = once(child, 'exit').then(([code]) => ({ code: code as number | null, told }));
  return { ended, kill: (signal: NodeJS.Signals = 'SIGKILL') => child.kill(signal), pid: child.pid };
}

/** How much of a screening is done: the files that say so in its folder. */
export function turnsDone(to: string): number {
  const work = existsSync(to) ? readdirSync(to).find((name) => name.startsWith('work-')) : undefined;
  return work !== undefined && existsSync(join(to, work, 'done')) ? readdirSync(join(to, work, 'done')).length : 0;
}
