import { type Accepted, intake, known } from 'jestril';
import { de, pl } from 'jestril/catalogues';
import { bookings, vessels } from '../collections.ts';
import { ownVessel } from '../rules/own-vessel.ts';
import { withinLimit } from '../rules/within-limit.ts';
import { berthBooking } from './berth-booking.ts';
import { bookingLanguages } from './booking-languages.ts';
import { powerLanguages } from './office-languages.ts';
import { powerOrder } from './power-order.ts';

// What the front office adds to the marina's intakes: who may book for a vessel, and that prices are not the guest's to say.

// Pages without scripts have rows to spare.
const fields = { ...berthBooking.fields, crew: berthBooking.fields.crew.blankRowsDropped() };

export const deskBooking = intake('desk-booking', fields, {
  storedIn: bookings,
  zone: 'Europe/Oslo',
  catalogues: [de, pl],
  languages: bookingLanguages,
  rules: [...berthBooking.rules, ownVessel({ mark: 'mark', person: 'caller.id', staff: 'caller.staff' })],
});

const { price: _price, ...orderFields } = powerOrder.fields;
const { price: _word, ...labels } = powerLanguages.de.labels;

export const deskPowerOrder = intake('desk-power-order', orderFields, {
  catalogues: [de],
  languages: { de: { labels } },
  rules: [withinLimit({ plug: 'plug', amount: 'amount', limit: 'limit' }), known(vessels, { mark: 'mark' })],
});
export interface DeskPowerOrder extends Accepted<typeof deskPowerOrder> {}
