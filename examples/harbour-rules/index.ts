import { above, below, collection, day, decimal, rule, text } from 'jestril';

// A package of rules that the harbour team publishes. It knows nothing of the fields, tables and columns of those who use
// it: roles are bound to their fields, and collections are mapped to their tables by the records they pass.

export const slots = collection('harbour/slots', { code: text, length: decimal }, { key: 'code' });
export const stays = collection('harbour/stays', { id: text, slot: text, from: day, to: day }, { key: 'id' });

/** The slot exists and is long enough. */
export const slotFits = rule(
  'harbour/slot-fits',
  { slot: text, length: decimal },
  {
    looksUp: { found: slots.one({ code: 'slot' }, ['length']) },
    holds: ({ length }, { found }) => length <= found.length,
    message: {
      en: '{slot} takes up to {found_length, number} m.',
      de: '{slot}: Hier passen bis zu {found_length, number} m.',
    },
    blames: ['slot', 'length'],
    samples: {
      holds: [{ slot: 'K1', length: 5, found: { length: 5 } }],
      fails: [{ slot: 'K1', length: 5.1, found: { length: 5 } }],
    },
  },
);

/** Nobody else has the slot on these days. */
export const slotFree = rule(
  'harbour/slot-free',
  { slot: text, from: day, to: day },
  {
    looksUp: { taken: stays.exists({ slot: 'slot', from: below('to'), to: above('from') }, { exceptItself: true }) },
    holds: (_read, { taken }) => !taken,
    message: {
      en: '{slot} is taken on some of these days.',
      de: '{slot}: An einigen dieser Tage belegt.',
    },
    blames: ['slot', 'from', 'to'],
    samples: {
      holds: [{ slot: 'K1', from: '2031-05-01', to: '2031-05-02', taken: false }],
      fails: [{ slot: 'K1', from: '2031-05-01', to: '2031-05-02', taken: true }],
    },
  },
);
