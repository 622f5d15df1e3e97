import { condition, flag, text } from 'jestril';
import { vessels } from '../collections.ts';

/** The vessel has an electric drive, and so needs shore power. */
export const isElectric = condition(
  'marina/is-electric',
  { mark: text },
  {
    looksUp: { vessel: vessels.one({ mark: 'mark' }, ['electric']) },
    holds: (_read, { vessel }) => vessel.electric,
  },
);

/** The caller works at the marina. */
export const isStaff = condition('marina/is-staff', { staff: flag }, { holds: ({ staff }) => staff });
