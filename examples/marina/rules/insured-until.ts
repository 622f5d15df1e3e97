import { day, rule, text } from 'jestril';
import { vessels } from '../collections.ts';

/** The vessel is registered, and insured to the end of its stay. */
export const insuredUntil = rule(
  'marina/insured-until',
  { mark: text, until: day },
  {
    looksUp: { vessel: vessels.one({ mark: 'mark' }, ['insuredUntil']) },
    holds: ({ until }, { vessel }) => vessel.insuredUntil >= until,
    message: {
      en: 'The insurance of {mark_value} ends on {vessel_insuredUntil, date, long}, before the departure.',
      de: 'Die Versicherung von {mark_value} endet am {vessel_insuredUntil, date, long}, vor der Abreise.',
      pl: 'Ubezpieczenie {mark_value} kończy się {vessel_insuredUntil, date, long}, przed wyjazdem.',
    },
    blames: ['until', 'mark'],
    samples: {
      holds: [{ mark: 'PW-2040', until: '2031-05-03', vessel: { insuredUntil: '2031-05-03' } }],
      fails: [{ mark: 'PW-2040', until: '2031-05-04', vessel: { insuredUntil: '2031-05-03' } }],
    },
  },
);
