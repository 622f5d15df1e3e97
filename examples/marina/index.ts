// The rules of Pellwick Marina, an invented harbour: shared by the tour, the booking desk and the command line.
export { berths, bookings, owners, tariffs, vessels } from './collections.ts';
export { type BerthBooking, berthBooking } from './intakes/berth-booking.ts';
export { contact } from './intakes/contact.ts';
export { type DeskPowerOrder, deskBooking, deskPowerOrder } from './intakes/desk.ts';
export { type OwnerSignUp, ownerSignUp } from './intakes/owner-sign-up.ts';
export { type PowerOrder, powerOrder, staffPowerOrder } from './intakes/power-order.ts';
export {
  type CertifiedRegistration,
  certifiedLanguages,
  certifiedRegistration,
  type VesselRegistration,
  vesselRegistration,
} from './intakes/vessel-registration.ts';
export { nightsOf } from './nights.ts';
export { berthFree } from './rules/berth-free.ts';
export { isElectric, isStaff } from './rules/conditions.ts';
export { fitsBerth } from './rules/fits-berth.ts';
export { insuredUntil } from './rules/insured-until.ts';
export { oneAdult } from './rules/one-adult.ts';
export { ownVessel } from './rules/own-vessel.ts';
export { slender } from './rules/slender.ts';
export { stayOf } from './rules/stay-of.ts';
export { withinLimit } from './rules/within-limit.ts';
export { totalOf } from './total.ts';
