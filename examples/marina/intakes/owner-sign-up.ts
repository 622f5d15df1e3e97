import {
  type Accepted,
  atLeastOneOf,
  day,
  email,
  flag,
  foldCase,
  intake,
  isTrue,
  length,
  phone,
  same,
  text,
  trim,
  unique,
  without,
  yearsOld,
} from 'jestril';
import { owners } from '../collections.ts';

/** Somebody opens an account. */
export const ownerSignUp = intake(
  'owner-sign-up',
  {
    name: text('Name', trim(), length({ max: 80 })),
    email: text('E-mail', trim(), foldCase(), email()).orAbsent(),
    phone: text('Phone', trim(), phone()).orAbsent(),
    born: day('Born', yearsOld(18, { message: 'To open an account you must be 18 or older.' })),
    passphrase: text('Passphrase', length({ min: 12, max: 128 }), without('pellwick', { ignoringCase: true })).secret(),
    passphraseAgain: text('Passphrase again').secret().leftOut(),
    terms: flag('Terms of the marina', isTrue()).leftOut(),
  },
  {
    storedIn: owners,
    zone: 'Europe/Oslo',
    rules: [
      atLeastOneOf('email', 'phone'),
      same({ first: 'passphrase', second: 'passphraseAgain' }),
      unique(owners, { email: 'email' }, { ignoringCase: ['email'] }),
    ],
  },
);
export interface OwnerSignUp extends Accepted<typeof ownerSignUp> {}
