import { type Accepted, day, flag, intake, isTrue, length, same, text, trim, unique, without, yearsOld } from 'jestril';
import { de } from 'jestril/catalogues';
import { owners } from '../collections.ts';
import { contact } from './contact.ts';
import { signUpLanguages } from './office-languages.ts';

/** Somebody opens an account. */
export const ownerSignUp = intake(
  'owner-sign-up',
  {
    name: text('Name', trim(), length({ max: 80 })),
    contact,
    born: day(
      'Born',
      yearsOld(18, { message: { en: 'To open an account you must be 18 or older.', de: 'Ein Konto gibt es ab 18 Jahren.' } }),
    ),
    passphrase: text('Passphrase', length({ min: 12, max: 128 }), without('pellwick', { ignoringCase: true })).secret(),
    passphraseAgain: text('Passphrase again').secret().leftOut(),
    terms: flag('Terms of the marina', isTrue()).leftOut(),
  },
  {
    storedIn: owners,
    zone: 'Europe/Oslo',
    catalogues: [de],
    languages: signUpLanguages,
    rules: [
      same({ first: 'passphrase', second: 'passphraseAgain' }),
      unique(owners, { email: 'contact.email' }, { ignoringCase: ['email'] }),
    ],
  },
);
export interface OwnerSignUp extends Accepted<typeof ownerSignUp> {}
