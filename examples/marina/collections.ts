import { choice, collection, day, decimal, exact, flag, text, whole } from 'jestril';

// What is stored at Pellwick Marina, as far as its rules need to know.

export const owners = collection('owners', { id: whole, email: text, creditLimit: decimal }, { key: 'id' });

export const vessels = collection('vessels', { id: whole, mark: text, ownerId: whole, electric: flag, insuredUntil: day }, { key: 'id' });

export const berths = collection('berths', { code: text, maxLength: decimal, price: decimal }, { key: 'code' });

export const bookings = collection('bookings', { id: whole, berth: text, arrives: day, departs: day }, { key: 'id' });

/** What a kilowatt-hour costs, by plug. */
export const tariffs = collection('tariffs', { plug: choice, price: exact }, { key: 'plug' });
