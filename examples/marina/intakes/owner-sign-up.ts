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
  notAfter,
  pattern,
  same,
  text,
  trim,
  unique,
  yearsBeforeToday,
} from 'jestril';
import { owners } from '../collections.ts';

/** Somebody opens an account. */
export const ownerSignUp = intake(
  'owner-sign-up',
  {
    name: text('Name', trim(), length({ max: 80 })),
    email: text('E-mail', trim(), foldCase(), email()).orAbsent(),
    phone: text('Phone', trim(), pattern(/^\+[1-9]\d{6,14}$/, 'a plus sign, the country code and the number')).orAbsent(),
    born: day('Born', notAfter(yearsBeforeToday(18), { message: 'To open an account you must be 18 or older.' })),
    passphrase: text('Passphrase', length({ min: 12, max: 128 })).secret(),
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
