import { berthBooking, deskBooking, ownerSignUp, powerOrder, staffPowerOrder, vesselRegistration } from '@pellwick/marina';
import {
  anyOf,
  asMermaid,
  asStored,
  between,
  type Condition,
  choice,
  collection,
  day,
  entries,
  equals,
  exact,
  fingerprintOf,
  graphOf,
  inspect,
  intake,
  length,
  list,
  needed,
  not,
  occasionIs,
  pattern,
  present,
  rule,
  text,
  trim,
  unique,
  upperCase,
  when,
  whole,
} from 'jestril';

const vessels = collection('vessels', { id: whole, mark: text }, { key: 'id', secret: ['mark'] });
const few = rule(
  'test/few',
  { marks: entries({ mark: text }) },
  { holds: ({ marks }) => marks.length < 5, message: 'few', blames: 'marks' },
);
const steady = rule('test/steady', { was: text, is: text }, { holds: ({ was, is }) => was === is, message: 'steady', blames: 'is' });
const made = (more: { least?: number; clean?: boolean; field?: string; secret?: boolean; on?: string; expression?: RegExp } = {}) =>
  intake(
    'form',
    {
      mark: text('Mark', ...(more.clean ? [trim()] : []), pattern(more.expression ?? /^[A-Z]+$/, 'capitals')),
      guests: whole('Guests', between(more.least ?? 1, 9)).orElse(() => 2),
      code: more.secret ? text('Code').secret().orElse('4071') : text('Code').orElse('4071'),
      power: choice('Power', ['16A', '32A']).orAbsent(),
      on: day('On').orAbsent(),
      marks: list('Marks', text('Mark', length({ max: 9 }))).orEmpty(),
    },
    {
      rules: [
        unique(vessels, { mark: 'mark' }),
        few({ marks: { mark: 'marks.*' } }),
        steady({ was: asStored('mark'), is: 'mark' }, { as: 'same', severity: 'warning' }),
        needed('power', { when: occasionIs(more.on ?? 'create') }),
      ],
    },
  );

test('the plan as JSON: ids with parameters, roles by path, functions by place', () => {
  const plan = inspect(made({ clean: true, secret: true }));
  expect(JSON.parse(JSON.stringify(plan))).toEqual(plan);
  expect(plan).toMatchObject({
    name: 'form',
    fields: [
      { path: 'mark', kind: 'text', cleans: ['trim'], rules: [{ rule: 'pattern', takes: { expression: { expression: '/^[A-Z]+$/' } } }] },
      { path: 'guests', presence: { call: { function: 'guests.orElse' } }, rules: [{ rule: 'between', takes: { min: 1, max: 9 } }] },
      { path: 'code', secret: true, presence: { value: '…' } },
      { path: 'power', presence: 'optional', options: ['16A', '32A'] },
      { path: 'on' },
      { path: 'marks', presence: { value: [] }, item: { path: 'marks.*', rules: [{ rule: 'length' }] } },
    ],
    rules: [
      {
        rule: 'unique',
        step: 'record',
        roles: { mark: 'mark' },
        looksUp: { '(row)': { collection: 'vessels', want: 'exists', exceptItself: true } },
      },
      { rule: 'test/few', holds: { function: 'test/few.holds' }, roles: { marks: { entries: { mark: 'marks.*' } } } },
      { use: 'same', severity: 'warning', roles: { was: { path: 'mark', stored: true }, is: 'mark' } },
      { rule: 'needed', when: [{ occasion: ['create'] }] },
    ],
    collections: [{ name: 'vessels', columns: { id: 'whole', mark: 'text' }, key: ['id'], secret: ['mark'] }],
  });
});

test('whatever is judged otherwise has another fingerprint', () => {
  const outside = (within: number, open?: string) =>
    rule(
      'test/outside',
      { mark: text },
      { asks: async () => true, within, facts: () => ({ a: 1 }), ...(open && { open: [open] }), message: 'no', blames: 'mark' },
    );
  const fields = {
    mark: text('Mark'),
    kind: choice('Kind', ['a', 'b']),
    price: exact('Price'),
    code: text('Code').secret().orElse('4071'),
  };
  const guarded = (condition: Condition<typeof fields>) =>
    intake('a', fields, { rules: [when(condition, [outside(100)({ mark: 'mark' })])] });
  const all = [
    intake('a', fields),
    intake('a', { ...fields, price: exact('Price', { places: 2 }) }),
    intake('a', { ...fields, price: exact('Price', { places: 3 }) }),
    intake('a', { ...fields, code: text('Code').secret().orElse('4072') }),
    ...[outside(100), outside(200), outside(100, 'a')].map((made) => intake('a', fields, { rules: [made({ mark: 'mark' })] })),
    ...[equals<typeof fields>({ kind: 'a' }), equals<typeof fields>({ kind: 'b' }), not(equals<typeof fields>({ kind: 'a' }))].map(guarded),
    ...['1', '2'].map((code) => guarded(equals<typeof fields>({ code }))),
  ];
  expect(new Set(all.map(fingerprintOf)).size).toBe(all.length);
  expect(JSON.stringify(all.map(inspect))).not.toMatch(/4071|4072|"1"|"2"/);
  const withheld = all.slice(-1).flatMap((made) => graphOf(made).conditions.map(({ name }) => name));
  expect(withheld).toEqual(['code is …']);
  const made = outside(100);
  const long = (end: string) => when(equals<typeof fields>({ mark: `${'m'.repeat(200)}${end}` }), [made({ mark: 'mark' })]);
  const graph = graphOf(intake('a', fields, { rules: [long('x'), long('y')] }));
  expect(new Set(graph.conditions.map(({ name }) => name)).size).toBe(2);
  expect(
    Math.max(
      ...asMermaid(graph)
        .split('\n')
        .map((line) => line.length),
    ),
  ).toBeLessThan(90);
});

test('a graph tells what its conditions compare', () => {
  const few = rule('test/few', { mark: text }, { holds: () => true, message: 'few', blames: 'mark' });
  const fields = { mark: text('Mark'), kind: choice('Kind', ['x', 'y', 'z']).orAbsent() };
  const made = intake('a', fields, {
    rules: [
      when(equals({ kind: 'x' }), [few({ mark: 'mark' })], [few({ mark: 'mark' })]),
      when(equals({ kind: ['x', 'y'] }), [few({ mark: 'mark' })]),
      when(not(anyOf(equals({ kind: 'y' }), not(present('kind')))), [few({ mark: 'mark' })]),
    ],
  });
  expect(graphOf(made).rules.flatMap(({ when }) => when.join(' + '))).toEqual([
    'kind is x',
    'not: kind is x',
    'kind is x or y',
    'not: kind is y + kind is there',
  ]);
});

test('its fingerprint is the same from run to run, and another for another plan', () => {
  const others = [{}, { least: 2 }, { clean: true }, { secret: true }, { on: 'amend' }, { expression: /^[A-Z]*$/ }].map((more) =>
    fingerprintOf(made(more)),
  );
  expect(others).toEqual(
    [{}, { least: 2 }, { clean: true }, { secret: true }, { on: 'amend' }, { expression: /^[A-Z]*$/ }].map((more) =>
      fingerprintOf(made(more)),
    ),
  );
  const marina = [berthBooking, deskBooking, ownerSignUp, powerOrder, staffPowerOrder, vesselRegistration].map(fingerprintOf);
  expect(new Set([...others, ...marina]).size).toBe(12);
  expect(fingerprintOf(intake('a', { mark: text('Mark', upperCase()) }))).not.toBe(fingerprintOf(intake('a', { mark: text('Mark') })));
});
