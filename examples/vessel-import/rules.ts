import { slender, vesselRegistration, vessels } from '@pellwick/marina';
import { intake, mediaTypes, unique, upload, uploadSize } from 'jestril';
import { de } from 'jestril/catalogues';

const { mark, name, lengthOverall, beam, electric, insuredUntil } = vesselRegistration.fields;

/** A row of a list of vessels, as another harbour hands it over. */
export const listedVessel = intake(
  'listed-vessel',
  { mark, name, lengthOverall, beam, electric, insuredUntil },
  {
    storedIn: vessels,
    zone: 'Europe/Oslo',
    catalogues: [de],
    rules: [slender({ beam: 'beam', length: 'lengthOverall' }), unique(vessels, { mark: 'mark' })],
  },
);

/** The file with such rows, as the harbour office sends it. */
export const vesselList = intake('vessel-list', {
  // What browsers call a file of CSV differs from system to system.
  list: upload(
    'List of vessels',
    mediaTypes(['text/csv', 'application/csv', 'application/vnd.ms-excel', 'text/plain']),
    uploadSize({ max: 50_000_000 }),
  ),
});
