// node bench/judging.mjs: judging against a function written by hand, and against JSON.parse of the same text.
// Samples of all variants alternate in one process, and only their ratios are told: the machine has its moods.
import * as jestril from '../dist/index.js';
import { handWritten } from './hand-written.mjs';

const {
  between,
  choice,
  day,
  decimal,
  email,
  flag,
  group,
  inOrder,
  intake,
  length,
  list,
  nightsBetween,
  pattern,
  places,
  rule,
  same,
  text,
  whole,
} = jestril;

const stayOf = rule(
  'stay-of',
  { from: day, to: day },
  {
    takes: { least: whole, most: whole },
    holds: ({ from, to }, _found, { least, most }) => {
      const nights = nightsBetween(from, to);
      return nights >= least && nights <= most;
    },
    message: '{least} to {most}',
    blames: 'to',
  },
);
const wider = rule(
  'wider',
  { beam: decimal, length: decimal },
  { holds: ({ beam, length }) => beam < length, message: '{beam}', blames: 'beam' },
);

const make = (name) =>
  intake(
    name,
    {
      mark: text('Mark', pattern(/^[A-Z]{2}-\d{4}$/, 'a mark')),
      email: text('E-mail', email()),
      lengthOverall: decimal('Length', between(2, 40), places(2)),
      beam: decimal('Beam', between(1, 15), places(2)),
      berth: text('Berth', length({ max: 4 })),
      arrives: day('Arrival'),
      departs: day('Departure'),
      power: choice('Power', ['16A', '32A']).orAbsent(),
      amount: whole('Amount', between(0, 50)),
      crew: list('Crew', group('Member', { name: text('Name', length({ max: 80 })), born: day('Born') }), length({ max: 12 })),
      notes: text('Notes', length({ max: 500 })).orAbsent(),
      gateCode: text('Gate code', length({ min: 4, max: 12 })).secret(),
      gateCodeAgain: text('Again').secret().leftOut(),
      terms: flag('Terms'),
    },
    {
      rules: [
        inOrder({ earlier: 'arrives', later: 'departs' }),
        stayOf({ from: 'arrives', to: 'departs' }, { least: 1, most: 28 }),
        same({ first: 'gateCode', second: 'gateCodeAgain' }),
        wider({ beam: 'beam', length: 'lengthOverall' }),
      ],
    },
  );

const good = {
  mark: 'PW-2040',
  email: 'ida.sund@fjordmail.example',
  lengthOverall: 11.25,
  beam: 3.6,
  berth: 'A1',
  arrives: '2031-05-14',
  departs: '2031-05-18',
  power: '16A',
  amount: 12,
  crew: [
    { name: 'Ida Sund', born: '1988-02-29' },
    { name: 'Bram Oke', born: '1979-11-03' },
    { name: 'Liv Aas', born: '2001-07-17' },
    { name: 'Per Lund', born: '2015-01-30' },
  ],
  notes:
    'We arrive late in the evening and would be glad of a berth near the pier, since one of us walks with a stick. We bring a folding bicycle and a small dog, who is afraid of gulls. Thank you for the kind help last year, when the engine failed off the point.',
  gateCode: '407140',
  gateCodeAgain: '407140',
  terms: true,
};
const bad = { ...good, lengthOverall: 41, departs: '2031-05-13', gateCodeAgain: '4072' };
const json = JSON.stringify(good);

const booking = make('booking');
const others = Array.from({ length: 30 }, (_, index) =>
  intake(
    `other-${index}`,
    Object.fromEntries(
      Array.from({ length: 5 + (index % 9) }, (_, field) => [`field${index}_${field}`, field % 2 ? text('T') : whole('W')]),
    ),
  ),
);

const define = () => {
  const made = make('again');
  return made.judgeLocally(good);
};

/** Nanoseconds of each variant, by median of alternating samples. */
function measure(variants, rounds = 60, milliseconds = 8) {
  const samples = variants.map(() => []);
  const counts = variants.map(([, run]) => {
    const start = process.hrtime.bigint();
    let count = 0;
    while (process.hrtime.bigint() - start < BigInt(milliseconds * 1e6)) {
      run();
      count++;
    }
    return Math.max(1, count);
  });
  for (let round = 0; round < rounds; round++) {
    for (const [index, [, run]] of variants.entries()) {
      const start = process.hrtime.bigint();
      for (let i = 0; i < counts[index]; i++) run();
      samples[index].push(Number(process.hrtime.bigint() - start) / counts[index]);
    }
  }
  return samples.map((all) => all.sort((a, b) => a - b)[all.length >> 1]);
}

function table(title, variants) {
  const times = measure(variants);
  console.log(`${title}\n${variants.map(([name], index) => `  ${name.padEnd(44)} ${(times[index] / times[0]).toFixed(2)}`).join('\n')}\n`);
  return times;
}

if (handWritten(good).findings || booking.judgeLocally(good).outcome !== 'accepted') throw new Error('The good booking is not accepted.');
if (handWritten(bad).findings.length !== 4 || booking.judgeLocally(bad).findings.length !== 4)
  throw new Error('The bad booking has not four findings.');

table('Accepted, against a function written by hand', [
  ['by hand', () => handWritten(good)],
  ['jestril, loop', () => booking.judgeLocally(good)],
]);
table('Four findings, with their sentences, against a function written by hand', [
  ['by hand', () => handWritten(bad)],
  ['jestril, loop', () => booking.judgeLocally(bad)],
]);
table(`Against JSON.parse of the same text (${json.length} bytes)`, [
  ['JSON.parse', () => JSON.parse(json)],
  ['jestril, loop', () => booking.judgeLocally(good)],
]);
for (const other of others) for (let i = 0; i < 20_000; i++) other.judgeLocally({ [`field${i % 30}_1`]: 'x' });
table('Accepted, after 30 other intakes have run', [
  ['by hand', () => handWritten(good)],
  ['jestril, loop', () => booking.judgeLocally(good)],
]);
const [, microseconds] = measure([
  ['by hand', () => handWritten(good)],
  ['define', define],
]).map((nanoseconds) => nanoseconds / 1000);
console.log(`Define and judge once, warm: ${microseconds.toFixed(0)} µs`);
