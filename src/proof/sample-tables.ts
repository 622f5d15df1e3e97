import { collectionSpec } from '../core/declared/look-up.ts';
import { day } from '../core/kinds/day.ts';
import { exact } from '../core/kinds/exact.ts';
import { flag } from '../core/kinds/flag.ts';
import { decimal, whole } from '../core/kinds/numbers.ts';
import { text } from '../core/kinds/text.ts';
import { moment, timeOfDay } from '../core/kinds/times.ts';
import { collection } from '../core/rules/collection.ts';
import { maybe } from '../core/rules/roles.ts';
import type { StoredRow } from '../core/stored/records.ts';

// What a store is filled with before its answers are tried.

/** One collection: the author of a store makes a table of it, and fills it. */
export interface SampleTable {
  /** Kinds by column: `text`, `whole`, `decimal`, `exact`, `flag`, `day`, `moment`, `time`; texts have 4,000 characters at most. */
  readonly columns: { readonly [column: string]: { readonly kind: string; readonly mayBeMissing: boolean } };
  /** Days, moments (RFC 3339, in UTC), times and exact numbers are texts. */
  readonly rows: readonly StoredRow[];
}
/** By the name of the collection. The key is always `id`. */
export type SampleTables = { readonly [collection: string]: SampleTable };

export const BERTHS = collection(
  'sample_berths',
  {
    id: whole,
    code: text,
    pier: maybe(text),
    metres: decimal,
    price: exact,
    since: day,
    until: maybe(day),
    seen: maybe(moment),
    opens: timeOfDay,
    lit: flag,
  },
  { key: 'id' },
);
export const WORDS = collection('sample_words', { id: whole, word: text }, { key: 'id' });
export const NIGHTS = collection('sample_nights', { id: whole, berth: text }, { key: 'id' });
export const NONE = collection('sample_none', { id: whole }, { key: 'id' });

/** Each differs from the others under any collation, though not in the characters that languages of queries use. */
export const HOSTILE: readonly string[] = [
  "a' or '1'='1",
  'b%',
  'c_',
  'd\\',
  'e"; drop table sample_words; --',
  'f\n\t',
  'g{"$ne":null}',
  'null',
  'true',
  '1',
  '01',
  '1.0',
  'h*?[a-z]',
  'i\u{1D11E}\u00e9',
  'j'.repeat(4000),
];

const COLUMNS = ['code', 'pier', 'metres', 'price', 'since', 'until', 'seen', 'opens', 'lit'];
// biome-ignore format: a row is a line
const berths: readonly (readonly unknown[])[] = [
  ['A1', 'north', 12, '38.50', '2031-05-01', null, '2031-05-01T09:30:00.250Z', '07:00', true],
  ['A2', 'north', 15.25, '40.00', '2030-12-31', '2031-05-31', '2031-01-01T00:00:00.000Z', '00:00', false],
  ['B1', 'south', 9, '10.05', '2032-02-29', '2032-02-29', '2031-05-01T09:30:00.251Z', '23:59', true],
  ['B2', null, 0.5, '10.5', '2031-05-01', '2033-01-01', null, '07:30', false],
  ['C1', null, 0, '0', '1999-12-31', null, '1999-12-31T23:59:59.999Z', '12:00', true],
  ['C2', 'west', -3.75, '-2.125', '2031-05-02', '2031-05-02', null, '12:00', true],
  // Where a store goes through floating-point numbers, these do not come to 0.3.
  ['D1', 'outer', 30, '0.1', '2031-06-01', null, null, '08:00', false],
  ['D2', 'outer', 31, '0.2', '2031-06-02', null, null, '08:00', false],
];

/** Ninety nights: one in three of berth A2, the others of A1. */
const nights = Array.from({ length: 90 }, (_, index) => ({ berth: ['A1', 'A2', 'A1'][index % 3] }));

export const sampleTables: SampleTables = {
  sample_berths: table(
    BERTHS,
    berths.map((values) => Object.fromEntries(values.map((value, at) => [COLUMNS[at], value]))),
  ),
  sample_words: table(
    WORDS,
    HOSTILE.map((word) => ({ word })),
  ),
  sample_nights: table(NIGHTS, nights),
  sample_none: table(NONE, []),
};

function table(made: { readonly name: string }, rows: readonly StoredRow[]): SampleTable {
  const kinds = Object.entries(collectionSpec(made).columns);
  return {
    columns: Object.fromEntries(kinds.map(([name, { spec, maybe: may }]) => [name, { kind: spec.name, mayBeMissing: may === true }])),
    rows: rows.map((row, index) => ({ id: index + 1, ...row })),
  };
}
