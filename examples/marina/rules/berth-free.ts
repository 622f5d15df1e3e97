import { above, below, day, rule, text } from 'jestril';
import { bookings } from '../collections.ts';

/** No stored booking of the berth overlaps these days; one may arrive on the day another departs. */
export const berthFree = rule(
  'marina/berth-free',
  { berth: text, from: day, to: day },
  {
    looksUp: { taken: bookings.exists({ berth: 'berth', arrives: below('to'), departs: above('from') }, { exceptItself: true }) },
    holds: (_read, { taken }) => !taken,
    message: {
      en: 'Berth {berth_value} is taken on some of these days.',
      de: 'Liegeplatz {berth_value} ist an einigen dieser Tage belegt.',
      pl: 'Stanowisko {berth_value} jest w niektóre z tych dni zajęte.',
    },
    blames: ['berth', 'from', 'to'],
    samples: {
      holds: [{ berth: 'A1', from: '2031-05-01', to: '2031-05-03', taken: false }],
      fails: [{ berth: 'A1', from: '2031-05-01', to: '2031-05-03', taken: true }],
    },
  },
);
