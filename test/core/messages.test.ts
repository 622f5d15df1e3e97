import { choice, day, decimal, intake, length, list, pattern, rule, same, text } from 'jestril';
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
