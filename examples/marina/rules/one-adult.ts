import { type Day, day, entries, rule } from 'jestril';

/** Someone of the crew is of age on a given day. */
export const oneAdult = rule(
  'marina/one-adult',
  { crew: entries({ born: day }), on: day },
  {
    holds: ({ crew, on }) => crew.some(({ born }) => yearsBetween(born, on) >= 18),
    message: {
      en: 'At least one of the crew must be 18 or older on arrival.',
      de: 'Mindestens eine Person der Crew muss bei der Ankunft 18 Jahre alt sein.',
      pl: 'Co najmniej jedna osoba z załogi musi mieć w dniu przyjazdu 18 lat.',
    },
    blames: 'crew',
    samples: {
      holds: [{ crew: [{ born: '2020-01-01' }, { born: '2013-05-01' }], on: '2031-05-01' }],
      fails: [
        { crew: [{ born: '2013-05-02' }], on: '2031-05-01' },
        { crew: [], on: '2031-05-01' },
        { crew: [{ born: '2013-06-01' }], on: '2031-05-31' },
      ],
    },
  },
);

/** Whole years; days in this form compare as text. */
function yearsBetween(born: Day, on: Day): number {
  const years = Number(on.slice(0, 4)) - Number(born.slice(0, 4));
  return on.slice(5) < born.slice(5) ? years - 1 : years;
}
