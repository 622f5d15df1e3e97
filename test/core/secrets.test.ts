import {
  collection,
  contains,
  distinct,
  entries,
  type Fields,
  group,
  intake,
  length,
  list,
  maybe,
  oneOfShapes,
  rule,
  shape,
  storedChoice,
  table,
  text,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { looseIntake } from '../support/judging.ts';

// Whatever a rule is given of a secret, nothing of it leaves: not in a finding, a trace, a trial, a log line. Settled by what the
// rule was given, and not by looking for the text.

const PIN = 'seven-gulls';
/** Everything that a verdict says, causes that are logged apart. */
const said = (verdict: object) => JSON.stringify(verdict);

const team = collection('team', { name: text, phrase: text }, { key: 'name', secret: ['phrase'] });
const records = memoryRecords({
  team: [
    { name: 'ida', phrase: PIN },
    { name: 'bo', phrase: 'other' },
  ],
});

/** Facts that carry a value in every disguise. */
const disguises = (value: unknown) => {
  const told = JSON.stringify(value) ?? '';
  return { whole: told, upper: told.toUpperCase(), part: told.slice(1, 7), first: told.length, list: [told] as never };
};
const message = '{whole} {upper} {part} {first, number} {list}';

const cases: [what: string, fields: Fields, rules: (fields: never) => unknown[], submission: object][] = [
  [
    'a field',
    { pin: text('Pin').secret() },
    () => [
      rule(
        't/field',
        { pin: text },
        { holds: () => false, facts: ({ pin }) => disguises(pin), message, blames: 'pin' },
      )({ pin: 'pin' } as never),
    ],
    { pin: PIN },
  ],
  [
    'a group with a secret inside',
    { box: group('Box', { label: text('Label'), pin: text('Pin').secret() }) },
    () => [
      rule(
        't/group',
        { box: group },
        { holds: () => false, facts: ({ box }) => disguises(box), message, blames: 'box' },
      )({ box: 'box' } as never),
    ],
    { box: { label: 'a', pin: PIN } },
  ],
  [
    'the entries of a list',
    { boxes: list('Boxes', group('Box', { pin: text('Pin').secret() })) },
    () => [
      rule(
        't/entries',
        { all: entries({ pin: text }) },
        { holds: () => false, facts: ({ all }) => disguises(all), message, blames: 'all' },
      )({
        all: { pin: 'boxes.*.pin' },
      } as never),
    ],
    { boxes: [{ pin: PIN }] },
  ],
  [
    'a table, a list and shapes inside one another',
    { all: table('All', list('Some', oneOfShapes('One', 'is', { card: shape({ pin: text('Pin').secret() }) }))) },
    () => [
      rule(
        't/nested',
        { all: table },
        { holds: () => false, facts: ({ all }) => disguises(all), message, blames: 'all' },
      )({ all: 'all' } as never),
    ],
    { all: { a: [{ is: 'card', pin: PIN }] } },
  ],
  [
    'a secret column',
    { name: text('Name') },
    () => [
      rule(
        't/column',
        { name: text },
        {
          looksUp: { row: team.one({ name: 'name' }, ['phrase']) },
          holds: () => false,
          facts: (_read, { row }) => disguises(row.phrase),
          message,
          blames: 'name',
        },
      )({ name: 'name' } as never),
    ],
    { name: 'ida' },
  ],
  [
    'names in a secret table',
    { codes: table('Codes', text('Code', length({ max: 2 }))).secret() },
    () => [],
    { codes: { [PIN]: 'far too long' } },
  ],
  [
    'keys that nobody declared, under a secret group',
    { box: group('Box', { label: text('Label') }).secret() },
    () => [],
    { box: { label: 'a', [PIN]: 1 } },
  ],
  [
    'values of a secret list',
    { pins: list('Pins', text('Pin', contains('x')), distinct()).secret() },
    () => [unique(team, { phrase: 'pins.*' } as never)],
    { pins: [PIN, PIN] },
  ],
  [
    'names of a secret table, told by a rule that compares them with each other',
    { codes: table('Codes', text('Code')).secret() },
    () => [unique(team, { name: 'codes.*' } as never)],
    { codes: { [PIN]: 'zoe', [`${PIN}2`]: 'zoe' } },
  ],
];

test.each(cases)('%s', async (what, fields, rules, submission) => {
  const form = looseIntake(fields, rules(fields as never), { strangers: 'refuse' });
  const verdict = await form.judge(submission, { records, explain: true });
  expect(verdict.outcome).toBe('rejected');
  const told = said(verdict);
  for (const part of [PIN, PIN.toUpperCase(), PIN.slice(1, 7), PIN.slice(0, 5)]) expect(told).not.toContain(part);
  // Where nothing but the place is told, there is nothing to withhold.
  if (what !== 'values of a secret list') expect(told).toContain('…');
});

test('a fact that is declared open is told beside a secret; ready-made rules tell their parameters', () => {
  const guarded = rule(
    't/open',
    { pin: text },
    {
      holds: () => false,
      facts: ({ pin }) => ({ length: pin.length, first: pin.slice(0, 1) }),
      open: ['length'],
      message: '{length, number} {first}',
      blames: 'pin',
    },
  );
  const form = intake(
    'form',
    { pin: text('Pin', length({ min: 20 })).secret(), other: text('Other').secret() },
    { rules: [guarded({ pin: 'other' })] },
  );
  const verdict = form.judgeLocally({ pin: PIN, other: PIN });
  expect(verdict).toMatchObject({
    findings: [
      { rule: 'length', facts: { min: 20 }, message: 'Pin must have at least 20 characters.' },
      { rule: 't/open', facts: { length: PIN.length, first: '…' }, message: `${PIN.length} …` },
    ],
  });
});

test('a message that tells what holds a secret, and a list of a secret column, are refused', () => {
  const box = rule('t/box', { box: maybe(group) }, { holds: () => false, message: '{box_value}', blames: 'box' });
  expect(() => intake('form', { box: group('Box', { pin: text('Pin').secret() }) }, { rules: [box({ box: 'box' })] })).toThrow(
    '"box" holds something secret',
  );
  expect(() => intake('form', { name: text('Name') }, { rules: [storedChoice(team, { name: 'name' }, { shows: 'phrase' })] })).toThrow(
    'that column is secret',
  );
});

test('what is offered is not listed where the column compared is secret', async () => {
  const form = intake('form', { phrase: text('Phrase'), n: whole('N').orAbsent() }, { rules: [storedChoice(team, { phrase: 'phrase' })] });
  expect(said(await form.judge({ phrase: 'x' }, { records }))).not.toContain(PIN);
});
