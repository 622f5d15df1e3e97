import { decimal, rule } from 'jestril';

/** A vessel is longer than it is wide, by half again at least. */
export const slender = rule(
  'marina/slender',
  { beam: decimal, length: decimal },
  {
    holds: ({ beam, length }) => beam * 1.5 <= length,
    message: {
      en: '{beam} and {length} do not go together; please check both.',
      de: '{beam} und {length} passen nicht zusammen; bitte beides prüfen.',
      pl: '{beam} i {length} nie pasują do siebie; proszę sprawdzić obie wartości.',
    },
    blames: ['beam', 'length'],
    samples: {
      holds: [{ beam: 4, length: 6 }],
      fails: [{ beam: 4, length: 5.99 }],
    },
  },
);
