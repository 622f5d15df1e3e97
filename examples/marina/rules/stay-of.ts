import { day, nightsBetween, rule, whole } from 'jestril';

/** The nights from one day to another are within limits. */
export const stayOf = rule(
  'marina/stay-of',
  { from: day, to: day },
  {
    takes: { least: whole, most: whole },
    holds({ from, to }, _found, { least, most }) {
      const nights = nightsBetween(from, to);
      return nights >= least && nights <= most;
    },
    message: {
      en: 'A stay is {least, number} to {most, plural, one {# night} other {# nights}}.',
      de: 'Ein Aufenthalt dauert {least, number} bis {most, plural, one {# Nacht} other {# Nächte}}.',
      pl: 'Pobyt trwa od {least, number} do {most, plural, one {# nocy} few {# nocy} many {# nocy} other {# nocy}}.',
    },
    blames: 'to',
    samples: {
      holds: [
        { from: '2031-05-01', to: '2031-05-02', least: 1, most: 28 },
        { from: '2031-05-01', to: '2031-05-29', least: 1, most: 28 },
      ],
      fails: [
        { from: '2031-05-01', to: '2031-05-01', least: 1, most: 28 },
        { from: '2031-05-01', to: '2031-05-30', least: 1, most: 28 },
      ],
    },
  },
);
