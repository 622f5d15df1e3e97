import {
  type Accepted,
  above,
  between,
  choice,
  day,
  decimal,
  flag,
  group,
  inOrder,
  intake,
  isTrue,
  length,
  list,
  needed,
  not,
  notBefore,
  pattern,
  places,
  same,
  text,
  today,
  trim,
  whole,
} from 'jestril';
import { de, pl } from 'jestril/catalogues';
import { bookings } from '../collections.ts';
import { berthFree } from '../rules/berth-free.ts';
import { isElectric, isStaff } from '../rules/conditions.ts';
import { fitsBerth } from '../rules/fits-berth.ts';
import { insuredUntil } from '../rules/insured-until.ts';
import { oneAdult } from '../rules/one-adult.ts';
import { slender } from '../rules/slender.ts';
import { stayOf } from '../rules/stay-of.ts';
import { bookingLanguages } from './booking-languages.ts';
import { registrationMark } from './mark.ts';

const fourDigits = pattern(/^\d{4}$/, { en: 'four digits', de: 'vier Ziffern', pl: 'cztery cyfry' });

/** A guest books a berth for some nights. */
export const berthBooking = intake(
  'berth-booking',
  {
    mark: registrationMark,
    lengthOverall: decimal('Length overall', between(2, 40), places(2)),
    beam: decimal('Beam', above(0), places(2)),
    berth: text('Berth'),
    arrives: day('Arrival', notBefore(today)),
    departs: day('Departure'),
    power: choice('Shore power', ['16A', '32A']).orAbsent(),
    crew: list(
      'Crew',
      group('Crew member', { name: text('Name', trim(), length({ max: 80 })), born: day('Born') }),
      length({ min: 1, max: 12 }),
    ),
    notes: text('Notes', length({ max: 500 })).orAbsent(),
    gateCode: text('Gate code', fourDigits).secret(),
    gateCodeAgain: text('Gate code again').secret().leftOut(),
    terms: flag('Harbour rules', isTrue()).leftOut(),
    caller: group('Caller', { id: whole('Id'), staff: flag('Staff') }).given(),
  },
  {
    storedIn: bookings,
    zone: 'Europe/Oslo',
    catalogues: [de, pl],
    languages: bookingLanguages,
    rules: [
      inOrder({ earlier: 'arrives', later: 'departs' }),
      stayOf(
        { from: 'arrives', to: 'departs' },
        { least: 1, most: 28 },
        { as: 'stay-length', when: not(isStaff({ staff: 'caller.staff' })) },
      ),
      same({ first: 'gateCode', second: 'gateCodeAgain' }),
      slender({ beam: 'beam', length: 'lengthOverall' }),
      fitsBerth({ berth: 'berth', length: 'lengthOverall' }),
      // Enforced by one row a night, unique by berth.
      berthFree({ berth: 'berth', from: 'arrives', to: 'departs' }, { constraint: 'berthNights.berth, berthNights.night' }),
      insuredUntil({ mark: 'mark', until: 'departs' }),
      needed('power', { when: isElectric({ mark: 'mark' }) }),
      oneAdult({ crew: { born: 'crew.*.born' }, on: 'arrives' }),
    ],
  },
);
export interface BerthBooking extends Accepted<typeof berthBooking> {}
