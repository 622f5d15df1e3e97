import type { Route } from 'jestril/describe';
import { certifiedRegistration, deskBooking, deskPowerOrder, ownerSignUp } from './index.ts';

/** What the booking desk takes, for its description: jestril export openapi examples/marina/routes.ts */
export const routes: readonly Route[] = [
  { method: 'post', path: '/sign-up', summary: 'An owner signs up.', intake: ownerSignUp },
  { method: 'post', path: '/vessels', summary: 'An owner registers a vessel.', intake: certifiedRegistration, needsCaller: true },
  { method: 'post', path: '/bookings', summary: 'Somebody books a berth.', intake: deskBooking, needsCaller: true },
  { method: 'patch', path: '/bookings/:id', summary: 'A booking is changed.', intake: deskBooking, amends: true, needsCaller: true },
  { method: 'get', path: '/power', summary: 'What power would cost.', intake: { query: deskPowerOrder } },
  { method: 'post', path: '/power', summary: 'Power is ordered.', intake: deskPowerOrder },
];
