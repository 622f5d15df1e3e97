import { flag, rule, text, whole } from 'jestril';
import { vessels } from '../collections.ts';

/** A vessel is booked by its owner, or by the harbour office. */
export const ownVessel = rule(
  'marina/own-vessel',
  { mark: text, person: whole, staff: flag },
  {
    looksUp: { vessel: vessels.one({ mark: 'mark' }, ['ownerId']) },
    holds: ({ person, staff }, { vessel }) => staff || vessel.ownerId === person,
    message: {
      en: 'Only the owner of {mark_value} can book for it.',
      de: 'Nur wem {mark_value} gehört, kann dafür buchen.',
      pl: 'Rezerwować dla {mark_value} może tylko właściciel.',
    },
    blames: 'mark',
    samples: {
      holds: [
        { mark: 'PW-2040', person: 1, staff: false, vessel: { ownerId: 1 } },
        { mark: 'PW-2040', person: 90, staff: true, vessel: { ownerId: 1 } },
      ],
      fails: [{ mark: 'PW-2040', person: 2, staff: false, vessel: { ownerId: 1 } }],
    },
  },
);
