import { certifiedLanguages, certifiedRegistration } from '@pellwick/marina';
import { intake, mediaTypes, upload, uploadSize } from 'jestril';
import { de } from 'jestril/catalogues';
import { fileContent } from 'jestril/content';

const TYPES = ['application/pdf', 'image/png', 'image/jpeg'];

/** The registration as the desk takes it: what a certificate is, its bytes tell, which a page cannot see. */
export const receivedRegistration = intake(
  certifiedRegistration.name,
  {
    ...certifiedRegistration.fields,
    certificate: upload(
      'Insurance certificate',
      mediaTypes(TYPES),
      fileContent(TYPES, {
        message: {
          en: '{field} is not what it says it is; send a PDF, PNG or JPEG file.',
          de: '{field} ist nicht, was er sein soll; bitte als PDF, PNG oder JPEG senden.',
        },
      }),
      uploadSize({ max: 2_000_000 }),
    ),
  },
  { zone: 'Europe/Oslo', catalogues: [de], languages: certifiedLanguages, rules: [...certifiedRegistration.rules] },
);
