// The booking that is measured: 14 fields, a crew list, four rules between fields, 664 bytes of JSON.
import {
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
} from 'jestril';

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

/** The booking's intake, anew each time. */
export const make = (name, more = {}) =>
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
      ...more,
    },
  );

export const good = {
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
export const bad = { ...good, lengthOverall: 41, departs: '2031-05-13', gateCodeAgain: '4072' };
export const json = JSON.stringify(good);

/** Messages that tell what was sent, and so are another for every submission. */
export const TELLING = {
  between: '{field} is {field_value, number}, and must be from {min, number} to {max, number}.',
  'in-order': '{later_value, date, long} is not after {earlier_value, date, long}.',
  'stay-of': 'From {from_value, date, short} it is {least} to {most} nights.',
};

/** Thirty other intakes: what many of them share slows down as they differ. */
export const others = () =>
  Array.from({ length: 30 }, (_, index) =>
    intake(
      `other-${index}`,
      Object.fromEntries(
        Array.from({ length: 5 + (index % 9) }, (_each, field) => [`field${index}_${field}`, field % 2 ? text('T') : whole('W')]),
      ),
    ),
  );
