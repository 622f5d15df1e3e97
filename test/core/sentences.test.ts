import { readdirSync, readFileSync } from 'node:fs';
import { type MessageFormatElement, parse } from '@formatjs/icu-messageformat-parser';
import Big from 'big.js';
import fc from 'fast-check';
import { IntlMessageFormat } from 'intl-messageformat';
import { compareExact, exactSum, intake, rule, text } from 'jestril';
import { de, pl } from 'jestril/catalogues';
import { parseMessage } from '../../src/core/messages/parse.ts';
import { compileSentence } from '../../src/core/messages/sentence.ts';

// The parser and the sentences are ours, so as to be small; well-known ones say what they have to be. By hand: JESTRIL_RANDOM=20000.
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 2000);

/** Only what both trees have. */
const plain = (elements: readonly MessageFormatElement[] | ReturnType<typeof parseMessage>): unknown[] =>
  elements.map((element) => ({
    ...(element as object),
    ...('style' in element && { style: typeof element.style === 'string' ? element.style : element.style ? 'a skeleton' : undefined }),
    location: undefined,
    ...('options' in element && {
      options: Object.fromEntries(Object.entries(element.options).map(([name, { value }]) => [name, plain(value)])),
    }),
  }));
const tried = (run: () => unknown): unknown => {
  try {
    return run();
  } catch {
    return 'refused';
  }
};
const both = (message: string) => [
  tried(() => JSON.parse(JSON.stringify(plain(parse(message, { ignoreTag: true }))))),
  tried(() => JSON.parse(JSON.stringify(plain(parseMessage(message))))),
];

const ours = [
  ...Object.values(de.messages),
  ...Object.values(pl.messages),
  ...readdirSync('src/core/rules').flatMap((file) =>
    [...readFileSync(`src/core/rules/${file}`, 'utf8').matchAll(/\b(?:en|de|pl): (['`])((?:(?!\1)[^\\]|\\.)*)\1/gs)].map((found) =>
      String(found[2]),
    ),
  ),
].filter((message) => !message.includes('${'));

const piece = fc.oneof(
  {
    weight: 3,
    arbitrary: fc.constantFrom(
      'a',
      ' ',
      "'",
      "''",
      '#',
      '<b>',
      '{x}',
      '{ y }',
      '{n, number}',
      '{n, number, integer}',
      '{d, date, long}',
      '{d,time}',
      "'{'",
      '|',
      'ö',
      '\n',
    ),
  },
  fc.constantFrom('{', '}', ',', '{x', "'{x}'", '{n, nummer}', '{n, number, }'),
);
const message = fc.letrec<{ message: string; branches: string }>((tie) => ({
  message: fc
    .array(fc.oneof({ weight: 5, arbitrary: piece }, { weight: 1, arbitrary: tie('branches') }), { maxLength: 6 })
    .map((all) => all.join('')),
  branches: fc
    .tuple(fc.constantFrom('plural', 'select', 'selectordinal', 'plural, offset:1'), tie('message'), tie('message'))
    .map(([type, one, other]) => `{k, ${type}, one {${one}} other {${other}}}`),
})).message;

test('every message of ours, and made-up ones, are parsed as a well-known parser does', () => {
  expect(ours.length).toBeGreaterThan(100);
  for (const each of ours) {
    const [expected, parsed] = both(each);
    expect({ each, parsed }).toEqual({ each, parsed: expected });
  }
  fc.assert(
    fc.property(message, (each) => {
      const [expected, parsed] = both(each);
      expect(parsed).toEqual(expected);
    }),
    { numRuns: RUNS },
  );
});

const slots = fc.record({
  n: fc.oneof(fc.integer({ min: -3, max: 30 }), fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 })),
  k: fc.constantFrom(0, 1, 2, 5, 21),
  x: fc.constantFrom('Ida', 'one', ''),
  y: fc.constantFrom('Bo', 'other'),
  d: fc.constantFrom('2031-05-01', '2031-12-24'),
});
const STYLES = ['', ', integer', ', percent', ', ::currency/EUR', ', ::.00', ', ::compact-short', ', ::percent', ', ::unit/meter'];
const DAYS = ['', ', short', ', long', ', full', ', ::yMMMd', ', ::EEEMd'];
const sentence = fc
  .array(
    fc.oneof(
      fc.constantFrom('On ', ' and ', '{x}', '{y}', '#', "it''s "),
      fc.constantFrom(...STYLES).map((style) => `{n, number${style}}`),
      fc.constantFrom(...DAYS).map((style) => `{d, date${style}}`),
      fc.constantFrom(
        '{k, plural, =0 {none} one {# night} few {# noce} other {{k} nights}}',
        '{k, selectordinal, one {#st} other {#th}}',
        '{x, select, one {1} other {{y}}}',
        '{k, plural, offset:1 one {# more} other {# others}}',
      ),
    ),
    { maxLength: 5 },
  )
  .map((all) => all.join(''));

test('sentences are what a well-known formatter makes of them, in every language', () => {
  const precise = {
    formatters: {
      getNumberFormat: (locales: never, options: object) => new Intl.NumberFormat(locales, { maximumFractionDigits: 20, ...options }),
      getDateTimeFormat: (locales: never, options: object) => new Intl.DateTimeFormat(locales, { ...options, timeZone: 'UTC' }),
      getPluralRules: (locales: never, options: object) => new Intl.PluralRules(locales, options),
    },
  };
  fc.assert(
    fc.property(sentence, slots, fc.constantFrom('en', 'de', 'pl', 'fr-CA', 'ar'), (each, values, locale) => {
      const made = compileSentence<Record<string, string | number>>(parseMessage(each), locale, (from, name) => from[name] as string);
      const known = new IntlMessageFormat(each, locale, undefined, precise as never);
      expect(made(values)).toBe(String(known.format({ ...values, d: new Date(`${values.d}T00:00:00Z`) })));
    }),
    { numRuns: RUNS / 2 },
  );
});

test.each([
  ['{n, number, money}', 'the style "money" is not known; there are integer, percent'],
  ['{n, number, ::precise}', 'the number skeleton "precise" is not known'],
  ['{n, date, ::QQQ}', 'the date field "QQQ" is not known'],
  ['{n, plural, one {1}}', 'no branch "other" at 21'],
])('a message that is none is a fault when it is declared: %s', (each, why) => {
  const bad = () => rule('test/bad', { n: text }, { holds: () => true, message: each.replace('{n', '{n_value'), blames: 'n' });
  expect(() => intake('bad', { a: text('A') }, { rules: [bad()({ n: 'a' })] })).toThrow(why.replace(' at 21', ''));
});

test('exact decimals are counted as a library for them counts', () => {
  const decimal = fc.oneof(
    fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e30, max: 1e30 }).map((value) => new Big(value).toFixed()),
    fc
      .tuple(fc.bigInt({ min: -(10n ** 30n), max: 10n ** 30n }), fc.nat(20))
      .map(([units, places]) => new Big(String(units)).div(new Big(10).pow(places)).toFixed(places)),
  );
  Big.DP = 100;
  fc.assert(
    fc.property(decimal, decimal, (a, b) => {
      expect(compareExact(a, b)).toBe(new Big(a).cmp(b));
      expect(new Big(exactSum(a, b)).eq(new Big(a).plus(b))).toBe(true);
    }),
    { numRuns: RUNS / 2 },
  );
  for (const none of ['', 'x', '1.2.3', '.', '1e']) expect(() => compareExact(none, 1.5)).toThrow('This is no number.');
});
