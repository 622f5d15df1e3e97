import { slotFits, slotFree } from '@pellwick/harbour-rules';
import { day, decimal, entries, group, inOrder, intake, list, rule, text } from 'jestril';
import { de } from 'jestril/catalogues';
import type { SqlOptions } from 'jestril/sql';

// A kayak club keeps its boats on racks. It uses the harbour team's rules with its own fields, on every entry of a list,
// and its own tables.

/** Nobody asks for one rack twice in a request. */
const racksDiffer = rule(
  'kayak-club/racks-differ',
  { stays: entries({ rack: text }) },
  {
    failing: ({ stays }) => stays.flatMap(({ rack }, index) => (stays.findIndex((other) => other.rack === rack) < index ? [index] : [])),
    message: { en: '{stays}: each rack once, please.', de: '{stays}: bitte jedes Gestell nur einmal.' },
    blames: 'stays',
    samples: { holds: [{ stays: [{ rack: 'K1' }, { rack: 'K2' }] }], fails: [{ stays: [{ rack: 'K1' }, { rack: 'K1' }] }] },
  },
);

export const rackRequest = intake(
  'rack-request',
  {
    member: text('Member'),
    kayaks: list('Kayaks', group('Kayak', { rack: text('Rack'), metres: decimal('Length'), since: day('Since'), until: day('Until') })),
  },
  {
    catalogues: [de],
    languages: { de: { labels: { 'kayaks.*.rack': 'Gestell', kayaks: 'Kajaks' } } },
    rules: [
      inOrder({ earlier: 'kayaks.*.since', later: 'kayaks.*.until' }),
      slotFits({ slot: 'kayaks.*.rack', length: 'kayaks.*.metres' }),
      slotFree({ slot: 'kayaks.*.rack', from: 'kayaks.*.since', to: 'kayaks.*.until' }),
      racksDiffer({ stays: { rack: 'kayaks.*.rack' } }),
    ],
  },
);

/** Where the harbour's collections are in the club's database. */
export const clubTables: SqlOptions = {
  tables: {
    'harbour/slots': { table: 'racks', columns: { code: 'name', length: 'metres' } },
    'harbour/stays': { table: 'rack_use', columns: { id: 'rowid', slot: 'rack', from: 'since', to: 'until' } },
  },
};
