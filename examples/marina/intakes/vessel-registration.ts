import {
  type Accepted,
  above,
  between,
  collapse,
  day,
  decimal,
  flag,
  intake,
  length,
  mediaTypes,
  notBefore,
  places,
  text,
  today,
  trim,
  unique,
  upload,
  uploadSize,
} from 'jestril';
import { de } from 'jestril/catalogues';
import { vessels } from '../collections.ts';
import { slender } from '../rules/slender.ts';
import { contact } from './contact.ts';
import { registrationMark } from './mark.ts';
import { registrationLanguages } from './office-languages.ts';

/** An owner registers a vessel. */
export const vesselRegistration = intake(
  'vessel-registration',
  {
    mark: registrationMark,
    name: text('Name of the vessel', trim(), collapse(), length({ max: 60 })),
    lengthOverall: decimal('Length overall', between(2, 40), places(2)),
    beam: decimal('Beam', above(0), places(2)),
    electric: flag('Electric drive'),
    insuredUntil: day('Insured until', notBefore(today)),
    skipper: contact,
  },
  {
    storedIn: vessels,
    zone: 'Europe/Oslo',
    catalogues: [de],
    languages: registrationLanguages,
    rules: [slender({ beam: 'beam', length: 'lengthOverall' }), unique(vessels, { mark: 'mark' })],
  },
);
export interface VesselRegistration extends Accepted<typeof vesselRegistration> {}

/** What the office says in German, of the certificate, too. */
export const certifiedLanguages = { de: { labels: { ...registrationLanguages.de.labels, certificate: 'Versicherungsnachweis' } } };

/** The same with the certificate of the insurance, as a form brings it along. */
export const certifiedRegistration = intake(
  'certified-registration',
  {
    ...vesselRegistration.fields,
    certificate: upload(
      'Insurance certificate',
      mediaTypes(['application/pdf', 'image/png', 'image/jpeg']),
      uploadSize({ max: 2_000_000 }),
    ),
  },
  {
    storedIn: vessels,
    zone: 'Europe/Oslo',
    catalogues: [de],
    languages: certifiedLanguages,
    rules: [...vesselRegistration.rules],
  },
);
export interface CertifiedRegistration extends Accepted<typeof certifiedRegistration> {}
