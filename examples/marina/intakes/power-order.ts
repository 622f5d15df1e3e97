import { type Accepted, atLeast, between, choice, exact, intake, known, places, totalAtMost, whole } from 'jestril';
import { de } from 'jestril/catalogues';
import { vessels } from '../collections.ts';
import { contact } from './contact.ts';
import { registrationMark } from './mark.ts';
import { powerLanguages } from './office-languages.ts';

/** A guest orders shore power, up to a limit of their own. */
export const powerOrder = intake(
  'power-order',
  {
    mark: registrationMark,
    plug: choice('Plug', ['16A', '32A']),
    price: exact('Price of a kilowatt-hour', atLeast('0.01'), places(4)),
    amount: whole('Kilowatt-hours', between(1, 500)),
    limit: exact('Limit', atLeast(1), places(2)),
    contact,
  },
  {
    catalogues: [de],
    languages: powerLanguages,
    rules: [totalAtMost([['price', 'amount']], 'limit', { as: 'within-limit' }), known(vessels, { mark: 'mark' })],
  },
);
export interface PowerOrder extends Accepted<typeof powerOrder> {}

/** The same for staff, who say whom they order for: an intake that extends another. */
export const staffPowerOrder = intake(
  'staff-power-order',
  { ...powerOrder.fields, orderedBy: whole('Staff number') },
  { rules: [...powerOrder.rules] },
);
