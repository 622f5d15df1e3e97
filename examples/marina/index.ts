// The rules of Pellwick Marina, an invented harbour: shared by the tour, the booking desk and the command line.
export { berths, bookings, owners, vessels } from './collections.ts';
export { type BerthBooking, berthBooking } from './intakes/berth-booking.ts';
export { type OwnerSignUp, ownerSignUp } from './intakes/owner-sign-up.ts';
export { nightsOf } from './nights.ts';
export { berthFree } from './rules/berth-free.ts';
export { isElectric, isStaff } from './rules/conditions.ts';
export { fitsBerth } from './rules/fits-berth.ts';
export { insuredUntil } from './rules/insured-until.ts';
export { oneAdult } from './rules/one-adult.ts';
export { stayOf } from './rules/stay-of.ts';
