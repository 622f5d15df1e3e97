import { decimal, rule, text } from 'jestril';
import { berths } from '../collections.ts';

/** The berth exists, and is long enough for the vessel. */
export const fitsBerth = rule(
  'marina/fits-berth',
  { berth: text, length: decimal },
  {
    looksUp: { found: berths.one({ code: 'berth' }, ['maxLength']) },
    holds: ({ length }, { found }) => length <= found.maxLength,
    message: {
      en: 'A vessel of {length_value, number} m does not fit berth {berth_value}, which takes up to {found_maxLength, number} m.',
      de: 'Ein Boot von {length_value, number} m passt nicht an Liegeplatz {berth_value}, der bis zu {found_maxLength, number} m aufnimmt.',
      pl: 'Łódź o długości {length_value, number} m nie zmieści się na stanowisku {berth_value}, które przyjmuje do {found_maxLength, number} m.',
    },
    blames: ['length', 'berth'],
    samples: {
      holds: [{ berth: 'A1', length: 12, found: { maxLength: 12 } }],
      fails: [{ berth: 'A1', length: 12.01, found: { maxLength: 12 } }],
    },
  },
);
