import {
  type Accepted,
  above,
  between,
  collapse,
  day,
  decimal,
  flag,
  intake,
  length,
  notBefore,
  places,
  text,
  today,
  trim,
  unique,
} from 'jestril';
import { vessels } from '../collections.ts';
import { slender } from '../rules/slender.ts';
import { contact } from './contact.ts';
import { registrationMark } from './mark.ts';

/** An owner registers a vessel. */
export const vesselRegistration = intake(
  'vessel-registration',
  {
    mark: registrationMark,
    name: text('Name of the vessel', trim(), collapse(), length({ max: 60 })),
    lengthOverall: decimal('Length overall', between(2, 40), places(2)),
    beam: decimal('Beam', above(0), places(2)),
    electric: flag('Electric drive'),
    insuredUntil: day('Insured until', notBefore(today)),
    skipper: contact,
  },
  {
    storedIn: vessels,
    zone: 'Europe/Oslo',
    rules: [slender({ beam: 'beam', length: 'lengthOverall' }), unique(vessels, { mark: 'mark' })],
  },
);
export interface VesselRegistration extends Accepted<typeof vesselRegistration> {}
