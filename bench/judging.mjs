// Judging against a function written by hand that gives the same answers. `--bytes` tells what a judgement allocates (node --expose-gc).
import { bad, good, json, make, others, TELLING } from './booking.mjs';
import { handWritten } from './hand-written.mjs';
import { median, paired } from './paired.mjs';

const byHand = () => handWritten(good);
const byHandRejected = () => handWritten(bad);
const loaded = () => new Promise((done) => setTimeout(done, 200));

/** @returns rows of what is measured, its ratio, and its target */
export async function judging() {
  const code = make('booking', { code: 'at-once' });
  const telling = make('telling', { code: 'at-once', messages: TELLING });
  const loop = make('loop', { code: 'never' });
  await loaded();
  for (const made of [code, telling, loop]) check(made);
  const ratio = (run, base = byHand, options = {}) => {
    const [hand, own] = paired([base, run], options);
    return own / hand;
  };
  const rows = [
    ['generated code, accepted', ratio(() => code.judgeLocally(good)), 1.1],
    ['generated code, four findings, fixed', ratio(() => code.judgeLocally(bad), byHandRejected), 1.25],
    ['generated code, four findings, telling values', ratio(() => telling.judgeLocally(bad), byHandRejected), 3],
    ['no code generation, accepted', ratio(() => loop.judgeLocally(good)), 3.5],
    ['no code generation, four findings', ratio(() => loop.judgeLocally(bad), byHandRejected), 3],
    ['JSON.parse of the same text', ratio(() => JSON.parse(json)), undefined],
    ['define and judge once, in calls of the hand-written one', ratio(() => make('again').judgeLocally(good), byHand, { warm: 400 }), 110],
  ];
  const made = others();
  for (const other of made) for (let count = 0; count < 20_000; count++) other.judgeLocally({ [`field${count % 30}_1`]: 'x' });
  rows.splice(1, 0, ['generated code, accepted, after 30 other intakes', ratio(() => code.judgeLocally(good)), 1.15]);
  return rows.map(([what, value, target]) => ({ what, value, target }));
}

function check(made) {
  if (handWritten(good).findings || made.judgeLocally(good).outcome !== 'accepted') throw new Error('The good booking is not accepted.');
  if (handWritten(bad).findings.length !== 4 || made.judgeLocally(bad).findings.length !== 4)
    throw new Error('The bad booking has not four findings.');
}

/** Bytes that a call allocates, by the median of seven rounds. */
function bytesOf(run) {
  for (let count = 0; count < 60_000; count++) run();
  const rounds = Array.from({ length: 7 }, () => {
    globalThis.gc();
    const before = process.memoryUsage().heapUsed;
    for (let count = 0; count < 5000; count++) run();
    return (process.memoryUsage().heapUsed - before) / 5000;
  });
  return median(rounds);
}

if (process.argv.includes('--bytes')) {
  const code = make('booking', { code: 'at-once' });
  await loaded();
  console.log(bytesOf(() => code.judgeLocally(good)) / bytesOf(byHand));
}
