import {
  type AnyField,
  atLeast,
  atMost,
  between,
  day,
  daysFromToday,
  decimal,
  email,
  flag,
  isTrue,
  length,
  list,
  notAfter,
  notBefore,
  pattern,
  places,
  text,
  today,
  whole,
  yearsBeforeToday,
} from 'jestril';
import { judgeValue, messagesOf, rulesOf } from '../support/judging.ts';

// Oslo is two hours ahead: there it is 30 April already.
const now = new Date('2031-04-29T22:30:00Z');
const born18 = notAfter(yearsBeforeToday(18));

type Row = [rule: string, field: AnyField, holds: readonly unknown[], fails: readonly unknown[], message: string];
const table: Row[] = [
  [
    'length',
    text('F', length({ min: 2, max: 3 })),
    ['ab', 'abc', '⛵⛵', '⛵⛵⛵', 'a⛵'],
    ['a', 'abcd', '⛵', '⛵⛵⛵⛵', 'ab⛵⛵'],
    'F must have 2 to 3 characters.',
  ],
  ['length', text('F', length({ max: 1 })), ['a', '⛵'], ['ab', '⛵a'], 'F must have at most 1 character.'],
  ['length', text('F', length({ min: 2 })), ['ab', '⛵⛵', '⛵⛵⛵⛵'], ['a', '⛵'], 'F must have at least 2 characters.'],
  ['length', text('F', length({ min: 4, max: 4 })), ['abcd'], ['abc', 'abcde'], 'F must have exactly 4 characters.'],
  ['length', list('F', text('I'), length({ min: 1, max: 2 })), [['a'], ['a', 'b']], [[], ['a', 'b', 'c']], 'F must have 1 to 2 entries.'],
  ['length', list('F', text('I'), length({ min: 1 })), [['a']], [[]], 'F must have at least 1 entry.'],
  [
    'pattern',
    text('F', pattern(/^[A-Z]{2}-\d{4}$/, 'two letters, a dash, four digits')),
    ['PW-2040'],
    ['pw-2040', 'PW-20400', 'PW-2040\n'],
    'F must be two letters, a dash, four digits.',
  ],
  [
    'email',
    text('F', email()),
    ['a@b.example', "o'neil+x@sub.b-c.example", 'a@localhost', `a@${'b'.repeat(63)}.example`],
    ['a', '@b', 'a@', 'a@b..c', 'a@-b', 'a b@c', 'ä@b.example', `a@${'b'.repeat(64)}`],
    'F must be an e-mail address, such as name@example.org.',
  ],
  ['between', whole('F', between(1, 28)), [1, 28], [0, 29], 'F must be from 1 to 28.'],
  ['between', decimal('F', between(0.00001, 1234.5)), [0.00001, 1234.5], [0, 1234.50001], 'F must be from 0.00001 to 1,234.5.'],
  ['at-least', whole('F', atLeast(0)), [0, 1], [-1], 'F must be at least 0.'],
  ['at-most', decimal('F', atMost(2.5)), [2.5, -1], [2.51], 'F must be at most 2.5.'],
  [
    'places',
    decimal('F', places(2)),
    [1, 0.29, 1.15, 1e21, -8.7, 4503599627370.25],
    [1.005, 0.001],
    'F must have at most 2 decimal places.',
  ],
  ['places', decimal('F', places(0)), [3], [3.5], 'F must have no decimal places.'],
  ['is-true', flag('F', isTrue()), [true], [false], 'F must be confirmed.'],
  ['not-before', day('F', notBefore('2031-05-01')), ['2031-05-01', '2031-05-02'], ['2031-04-30'], 'F must not be before May 1, 2031.'],
  ['not-before', day('F', notBefore(today)), ['2031-04-30'], ['2031-04-29'], 'F must not be before April 30, 2031.'],
  ['not-after', day('F', notAfter(daysFromToday(2))), ['2031-05-02'], ['2031-05-03'], 'F must not be after May 2, 2031.'],
  ['not-after', day('F', born18), ['2013-04-30'], ['2013-05-01'], 'F must not be after April 30, 2013.'],
];

test.each(table)('%s %#', (rule, field, holds, fails, message) => {
  for (const value of holds) expect([value, rulesOf(judgeValue(field, value, { now }))]).toEqual([value, []]);
  for (const value of fails) {
    const verdict = judgeValue(field, value, { now });
    expect([value, rulesOf(verdict), messagesOf(verdict)]).toEqual([value, [rule], [message]]);
  }
});

test.each([
  ['2030-02-28T12:00:00Z', '2012-02-28'],
  ['2030-03-01T12:00:00Z', '2012-03-01'],
  ['2032-02-29T12:00:00Z', '2014-02-28'],
])('on %s, whoever was born by %s is 18', (moment, last) => {
  const facts = judgeValue(day('Born', born18), '2020-01-01', { now: new Date(moment) });
  expect(facts).toMatchObject({ findings: [{ facts: { bound: last } }] });
});

test('all rules of a value run, in the order written; one finding each', () => {
  const field = text('F', length({ max: 2 }), pattern(/^\d*$/, 'digits'), email());
  expect(rulesOf(judgeValue(field, 'abc'))).toEqual(['length', 'pattern', 'email']);
  expect(rulesOf(judgeValue(field, 'abc', { report: 'firstOfEach' }))).toEqual(['length']);
});

test('a warning is told and does not stop acceptance; a message of its own is said', () => {
  const field = text('F', length({ max: 2 }, { severity: 'warning', message: '{field} is long: over {max}.' }));
  expect(judgeValue(field, 'abc')).toMatchObject({
    outcome: 'accepted',
    value: { value: 'abc' },
    warnings: [{ severity: 'warning', message: 'F is long: over 2.' }],
  });
});

test('a rule for some occasions only', () => {
  const field = text('F', length({ max: 2 }, { on: 'amend' }));
  expect(rulesOf(judgeValue(field, 'abc'))).toEqual([]);
  expect(rulesOf(judgeValue(field, 'abc', { occasion: 'amend' }))).toEqual(['length']);
});
