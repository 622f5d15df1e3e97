import {
  asCompact,
  asLines,
  asText,
  byPlace,
  choice,
  day,
  decimal,
  inOrder,
  intake,
  labelled,
  length,
  list,
  pattern,
  rule,
  same,
  text,
} from 'jestril';
import { de, pl } from 'jestril/catalogues';
import { localeFor } from 'jestril/locale';
import { messagesOf } from '../support/judging.ts';

const speaks = rule(
  'speaks',
  { on: day, size: decimal },
  {
    takes: { rate: decimal },
    holds: () => false,
    message: 'rule: {on_value, date, long} {size_value, number} {rate, number}',
    blames: 'on',
  },
);
const fields = { on: day('On'), size: decimal('Size') };
const submission = { on: '2031-05-01', size: 1234.56789 };

test('numbers and days are told in the language, as precisely as they are judged, and days without a time zone', () => {
  const form = intake('f', fields, { rules: [speaks({ on: 'on', size: 'size' }, { rate: 0.000001 })] });
  const told = (locale: string) => messagesOf(form.judgeLocally(submission, { locale }));
  expect(told('en')).toEqual(['rule: May 1, 2031 1,234.56789 0.000001']);
  expect(told('de-DE')).toEqual(['rule: 1. Mai 2031 1.234,56789 0,000001']);
  expect(told('ar')[0]).toContain('2031'.replace(/\d/g, (digit) => new Intl.NumberFormat('ar').format(Number(digit))));
});

test('the nearest words win: use, its name, rule and field, rule, then what the rule says itself', () => {
  const said = (messages: Record<string, string>, message?: string) =>
    messagesOf(
      intake('f', fields, {
        messages,
        rules: [speaks({ on: 'on', size: 'size' }, { rate: 1 }, { as: 'named', ...(message && { message }) })],
      }).judgeLocally(submission),
    )[0];
  expect(said({ named: 'name', 'speaks@on': 'field', speaks: 'id' }, 'use')).toBe('use');
  expect(said({ named: 'name', 'speaks@on': 'field', speaks: 'id' })).toBe('name');
  expect(said({ 'speaks@on': 'field', speaks: 'id' })).toBe('field');
  expect(said({ speaks: 'id' })).toBe('id');
});

test('an intake has its own words for what the engine finds', () => {
  const form = intake('f', { a: text('A'), b: text('B') }, { messages: { needed: '{field}, please', 'needed@b': 'And {field}!' } });
  expect(messagesOf(form.judgeLocally({}))).toEqual(['A, please', 'And B!']);
});

test('a language of its own for each text, and English where one is missing', () => {
  const form = intake(
    'f',
    { mark: text('Mark', pattern(/^\d$/, { en: 'one digit', de: 'eine Ziffer' }), length({ max: 1 })) },
    { messages: { pattern: { en: '{field} must be {description}.', de: '{field} muss {description} sein.' } } },
  );
  expect(messagesOf(form.judgeLocally({ mark: 'xx' }, { locale: 'de' }))).toEqual([
    'Mark muss eine Ziffer sein.',
    'Mark must have at most 1 character.',
  ]);
});

test('markup and braces in values and labels stay what they are', () => {
  const form = intake(
    'f',
    { a: text('A <b>{x}</b>'), b: text('B') },
    { rules: [same({ first: 'a', second: 'b' }, { message: "{second} is '{'not'}' {first} <i>" })] },
  );
  expect(messagesOf(form.judgeLocally({ a: '<s>', b: '{y}' }))).toEqual(['B is {not} A <b>{x}</b> <i>']);
});

test('a choice lists its options, a secret is never told, a long value is cut', () => {
  const long = rule('long', { a: text }, { holds: () => false, message: '{a_value}', blames: 'a' });
  const leaky = rule(
    'leaky',
    { p: text },
    { holds: () => false, facts: ({ p }) => ({ said: `it was ${p}` }), message: '{p} {said}', blames: 'p' },
  );
  const form = intake(
    'f',
    { c: choice('C', ['x', 'y', 'z']), a: text('A'), p: text('P', length({ max: 1 })).secret(), q: text('Q').secret() },
    { rules: [long({ a: 'a' }), leaky({ p: 'q' })] },
  );
  const verdict = form.judgeLocally({ c: 'w', a: '⛵'.repeat(5000), p: 'hunter-two', q: 'swordfish' });
  expect(messagesOf(verdict).map((message) => message.slice(0, 40))).toEqual([
    'C must be x, y, or z.',
    '⛵'.repeat(40),
    'P must have at most 1 character.',
    'Q …',
  ]);
  expect(JSON.stringify(verdict).length).toBeLessThan(1500);
  for (const secret of ['hunter', 'swordfish']) expect(JSON.stringify(verdict)).not.toContain(secret);
});

test('a slot that a rule leaves empty does not lose the finding', () => {
  const forgetful = rule('forgetful', { a: text }, { holds: () => false, facts: () => ({}), message: '{a} {missing}', blames: 'a' });
  expect(messagesOf(intake('f', { a: text('A') }, { rules: [forgetful({ a: 'a' })] }).judgeLocally({ a: 'x' }))).toEqual(['A: forgetful']);
});

test('a place in an entry is labelled by the entry’s field', () => {
  const form = intake('f', { tags: list('Tags', text('Tag', length({ max: 1 }))) });
  expect(form.judgeLocally({ tags: ['a', 'bc'] })).toMatchObject({
    findings: [{ use: 'length@tags.*', places: [{ field: 'tags.*', pointer: '/tags/1', label: 'Tag' }] }],
  });
});

describe('languages', () => {
  const form = intake(
    'stay',
    {
      mark: text('Registration mark', length({ max: 3 })),
      power: choice(
        'Shore power',
        labelled([
          ['16A', '16 ampere'],
          ['32A', '32 ampere'],
        ]),
      ),
      crew: list('Crew', text('Name', length({ min: 2 })), length({ max: 1 })),
      from: day('Arrival'),
      to: day('Departure'),
    },
    {
      catalogues: [de, pl],
      languages: {
        de: {
          labels: { mark: 'Kennzeichen', from: 'Ankunft', to: 'Abreise', 'crew.*': 'Name' },
          options: { power: { '16A': '16 Ampere', '32A': '32 Ampere' } },
          messages: { nights: '{later}: zu kurz nach {earlier}.' },
        },
        pl: { labels: { mark: 'Numer rejestracyjny', from: 'Przyjazd', to: 'Wyjazd' } },
      },
      messages: { nights: '{later} is too soon after {earlier}.' },
      rules: [inOrder({ earlier: 'from', later: 'to' }, { as: 'nights' })],
    },
  );
  const bad = { mark: 'long', power: '64A', crew: ['a', 'bc'], from: '2031-05-02', to: '2031-05-01' };

  test.each([
    [
      'en',
      [
        'Registration mark must have at most 3 characters.',
        'Shore power must be 16 ampere or 32 ampere.',
        'Crew must have at most 1 entry.',
        'Name must have at least 2 characters.',
        'Departure is too soon after Arrival.',
      ],
      'Departure',
    ],
    [
      'de',
      [
        'Kennzeichen: Bitte höchstens 3 Zeichen angeben.',
        'Shore power: Möglich ist 16 Ampere oder 32 Ampere.',
        'Crew: Bitte höchstens 1 Eintrag angeben.',
        'Name: Bitte mindestens 2 Zeichen angeben.',
        'Abreise: zu kurz nach Ankunft.',
      ],
      'Abreise',
    ],
    [
      'pl-PL',
      [
        'Numer rejestracyjny: proszę podać najwyżej 3 znaki.',
        'Shore power: możliwe wartości to 16 ampere lub 32 ampere.',
        'Crew: proszę podać najwyżej 1 pozycję.',
        'Name: proszę podać co najmniej 2 znaki.',
        'Wyjazd: musi być później niż Przyjazd.',
      ],
      'Wyjazd',
    ],
  ])('%s', (locale, messages, label) => {
    const verdict = form.judgeLocally(bad, { locale });
    expect(messagesOf(verdict)).toEqual(messages);
    expect(verdict.outcome === 'rejected' && verdict.findings.at(-1)?.places[0]?.label).toBe(label);
  });

  test.each([
    [1, 'znak'],
    [2, 'znaki'],
    [5, 'znaków'],
    [12, 'znaków'],
    [22, 'znaki'],
    [25, 'znaków'],
  ])('Polish counts %d %s', (min, noun) => {
    const counted = intake('i', { a: text('A', length({ min })).orAbsent() }, { catalogues: [pl] });
    expect(messagesOf(counted.judgeLocally({ a: '' }, { locale: 'pl' }))).toEqual([`A: proszę podać co najmniej ${min} ${noun}.`]);
  });

  test('a label for what is no field is a fault', () => {
    expect(() => intake('i', { a: text('A') }, { languages: { de: { labels: { b: 'B' } as never } } })).toThrow(
      'Intake "i", language "de": "b" is no field; did you mean "a"?',
    );
  });

  test('in a language from right to left, labels and values keep to their own direction', () => {
    const rtl = intake(
      'i',
      { a: text('A') },
      { messages: { needed: { he: '{field} נדרש.' } }, languages: { he: { labels: { a: 'שם' } } } },
    );
    expect(messagesOf(rtl.judgeLocally({}, { locale: 'he' }))).toEqual(['\u2068שם\u2069 נדרש.']);
  });
});

test.each([
  ['de-AT,de;q=0.9,en;q=0.5', 'de'],
  ['fr, pl;q=0.3', 'pl'],
  ['pl;q=0, *', 'en'],
  ['xx', 'en'],
  ['', 'en'],
  [undefined, 'en'],
  ['a'.repeat(5000), 'en'],
  ['en;q=abc', 'en'],
])('Accept-Language %s is answered in %s', (header, expected) => {
  expect(localeFor(header, ['en', 'de', 'pl'])).toBe(expected);
});

test('findings as lines, by place, as one text, and for machines', () => {
  const form = intake('f', { a: text('A', length({ min: 3 }), length({ max: 1 }, { severity: 'warning', as: 'short' })), b: text('B') });
  const verdict = form.judgeLocally({ a: 'xx' });
  const findings = verdict.outcome === 'rejected' ? verdict.findings : [];
  expect(asLines(findings)).toEqual(['/a: A must have at least 3 characters.', '/a: A must have at most 1 character.', '/b: B is needed.']);
  expect(byPlace(findings)).toEqual({
    '/a': ['A must have at least 3 characters.', 'A must have at most 1 character.'],
    '/b': ['B is needed.'],
  });
  expect(asText(findings)).toBe('A must have at least 3 characters. A must have at most 1 character. B is needed.');
  expect(asCompact(findings)).toEqual([
    { rule: 'length', use: 'length@a', at: ['/a'], facts: { min: 3 } },
    { rule: 'length', use: 'short', at: ['/a'], facts: { max: 1 }, severity: 'warning' },
    { rule: 'needed', use: 'needed@b', at: ['/b'] },
  ]);
});

test('an intake says how it reports; the call may say otherwise', () => {
  const form = intake(
    'f',
    { a: text('A', length({ min: 3 }), length({ min: 4 })), b: text('B') },
    { report: 'firstOfEach', mostFindings: 1 },
  );
  expect(form.judgeLocally({ a: 'x' })).toMatchObject({ more: true, findings: [{ rule: 'length' }] });
  expect(messagesOf(intake('f', form.fields, { report: 'firstOfEach' }).judgeLocally({ a: 'x' }))).toHaveLength(2);
  expect(messagesOf(intake('f', form.fields, { report: 'firstOfEach' }).judgeLocally({ a: 'x' }, { report: 'everything' }))).toHaveLength(
    3,
  );
  expect(() => intake('f', form.fields, { mostFindings: 0 })).toThrow('mostFindings 0 is not a number of findings.');
});
