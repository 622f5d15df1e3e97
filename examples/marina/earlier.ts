import { above, between, collapse, day, decimal, flag, intake, length, places, text, trim, unique } from 'jestril';
import { vessels } from './collections.ts';
import { contact } from './intakes/contact.ts';
import { registrationMark } from './intakes/mark.ts';

/** How vessels were registered a year ago, to be compared: jestril compare examples/marina/earlier.ts examples/marina/index.ts */
export const vesselRegistration = intake(
  'vessel-registration',
  {
    mark: registrationMark,
    name: text('Name of the vessel', trim(), collapse(), length({ max: 80 })),
    lengthOverall: decimal('Length overall', between(2, 30), places(2)),
    beam: decimal('Beam', above(0), places(2)),
    electric: flag('Electric drive').orElse(false),
    insuredUntil: day('Insured until').orAbsent(),
    skipper: contact,
  },
  { storedIn: vessels, zone: 'Europe/Oslo', rules: [unique(vessels, { mark: 'mark' })] },
);
