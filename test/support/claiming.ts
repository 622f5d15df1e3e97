import fc from 'fast-check';
import { collection, day, exact, group, intake, list, maybe, noOverlap, text, unique, whole } from 'jestril';
import { memoryRecords } from 'jestril/memory';

// Rows that claim values and intervals of each other, and of themselves.

const columns = { id: whole, mark: text, berth: text, arrives: day, departs: day, low: maybe(exact), high: maybe(exact) };
const stays = collection('stays', columns, { key: 'id' });
export const records = memoryRecords({ stays: [{ id: 1, mark: 'S', berth: 'A', arrives: '2031-01-01', departs: '2031-01-02' }] });
const night = group('Night', { berth: text('Berth'), arrives: day('Arrival'), departs: day('Departure') });
const interval = { interval: ['arrives', 'departs'] } as const;
export const stay = intake(
  'stay',
  {
    low: exact('Low').orAbsent(),
    high: exact('High').orAbsent(),
    mark: text('Mark'),
    marks: list('Marks', text('Mark')),
    nights: list('Nights', night),
  },
  {
    storedIn: stays,
    rules: [
      unique(stays, { mark: 'mark' }),
      unique(stays, { mark: 'marks.*' }, { ignoringCase: ['mark'], as: 'each-once' }),
      noOverlap(stays, { berth: 'nights.*.berth', arrives: 'nights.*.arrives', departs: 'nights.*.departs' }, interval),
      noOverlap(stays, { mark: 'mark', low: 'low', high: 'high' }, { interval: ['low', 'high'] }),
      noOverlap(stays, { berth: 'mark', arrives: 'nights.*.arrives', departs: 'nights.*.departs' }, { ...interval, touching: 'refused' }),
    ],
  },
);

const mark = fc.constantFrom('S', 'a', 'A', 'b', '\u{1D11E}', 'x'.repeat(300));
const date = fc.integer({ min: 1, max: 9 }).map((number) => `2031-01-0${number}`);
const number = fc.constantFrom(undefined, '-1', '0.5', '7', '7.0', '12', '9'.repeat(700));
const row = fc.record({
  low: number,
  high: number,
  mark,
  marks: fc.array(mark, { maxLength: 2 }),
  nights: fc.array(fc.record({ berth: fc.constantFrom('A', 'B', 'b'), arrives: date, departs: date }), { maxLength: 3 }),
});
/** A row as a line of NDJSON; some are none. */
export const line = fc.oneof(
  { weight: 9, arbitrary: row.map((each) => JSON.stringify(each)) },
  { weight: 1, arbitrary: fc.constantFrom('{', '') },
);
