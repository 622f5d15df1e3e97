import {
  above,
  absent,
  allOf,
  allowed,
  anyOf,
  atLeastOneOf,
  between,
  choice,
  contains,
  day,
  decimal,
  digits,
  distinct,
  endsWith,
  equals,
  exact,
  exactlyOneOf,
  flag,
  forbidden,
  group,
  inOrder,
  intake,
  isTrue,
  length,
  letters,
  list,
  moment,
  multipleOf,
  mustContain,
  needed,
  not,
  occasionIs,
  oneOfShapes,
  pattern,
  phone,
  places,
  present,
  satisfiesAny,
  satisfiesNone,
  shape,
  startsWith,
  table,
  text,
  timeOfDay,
  together,
  trim,
  when,
  whole,
  without,
} from 'jestril';
import { jsonSchemaOf } from 'jestril/describe';
import * as marina from '../../examples/marina/index.ts';
import { Maker } from '../../src/made/index.ts';
import { accepts } from '../support/json-schema.ts';
import { Random } from '../support/random.ts';
import { submissionFor } from '../support/random-data.ts';
import { buildIntake, describeIntake } from '../support/random-intake.ts';

// What a schema accepts and the intake rejects is exactly what was listed; what the intake accepts, sent as it is kept, the schema accepts.
// By hand: JESTRIL_RANDOM=20000 npm test -- test/describe/json-schema.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 150);

type Judging = {
  readonly name: string;
  judgeLocally(
    submission: unknown,
    options?: object,
  ): { readonly outcome: string; readonly value?: unknown; readonly findings?: readonly { readonly use: string }[] };
};

/** What is wrong with a schema for one submission. */
function differenceOf(made: Judging, told: ReturnType<typeof jsonSchemaOf>, submission: unknown, options: object = {}): string | undefined {
  const verdict = made.judgeLocally(submission, { report: 'everything', ...options });
  const isAccepted = accepts(told.schema as never, submission);
  if (verdict.outcome === 'rejected' && isAccepted) {
    const listed = new Set(told.unsaid.map(({ use }) => use));
    const missed = (verdict.findings ?? []).map(({ use }) => use).filter((use) => !listed.has(use));
    if (missed.length > 0) return `the schema accepts ${JSON.stringify(submission)}, and ${missed.join()} is not listed`;
  }
  // Null stands for what is absent, and is not kept.
  const isAsKept =
    !JSON.stringify(submission).includes('null') &&
    verdict.outcome !== 'rejected' &&
    JSON.stringify(kept(submission, verdict.value)) === JSON.stringify(verdict.value);
  if (isAsKept && verdict.value !== undefined && !accepts(told.schema as never, submission))
    return `the schema refuses ${JSON.stringify(submission)}`;
  return undefined;
}

/** A submission in the order of the value, without what is not part of it. */
function kept(submission: unknown, value: unknown): unknown {
  if (Array.isArray(value) && Array.isArray(submission)) return value.map((each, at) => kept(submission[at], each));
  if (typeof value !== 'object' || value === null || typeof submission !== 'object' || submission === null) return submission;
  return Object.fromEntries(Object.keys(value).map((key) => [key, kept((submission as never)[key], (value as never)[key])]));
}

const everything = intake(
  'everything',
  {
    name: text('Name', trim(), length({ max: 5 })),
    code: text('Code', pattern(/^[A-Z]\d+$/, 'a letter and digits'), without('13')).orAbsent(),
    odd: text('Odd', pattern(/./, 'a character'), length({ min: 1, max: 2 })).orAbsent(),
    part: text('Part', startsWith('a.'), endsWith('z'), contains('b')).blankAllowed().orAbsent(),
    digits: text('Digits', digits(), letters().id === 'letters' ? length({ min: 2 }) : length({ min: 2 })).orAbsent(),
    call: text('Call', phone()).orAbsent(),
    either: text('Either', satisfiesAny([digits(), length({ max: 2 })], { message: '{field}?' })).orAbsent(),
    neither: text('Neither', satisfiesNone([digits(), startsWith('x')], { message: '{field}?' })).orAbsent(),
    count: whole('Count', between(0, 9), multipleOf(3), forbidden([6])).orNull(),
    size: decimal('Size', above(0), places(2)).orElse(1.5),
    price: exact('Price', between('0', '10')).orAbsent(),
    ok: flag('OK', isTrue()).leftOut(),
    sort: choice('Sort', ['a', 'b', 3]),
    fixed: text('Fixed', allowed(['x', 'y'])).orAbsent(),
    on: day('On').orAbsent(),
    until: day('Until').orAbsent(),
    at: moment('At').orAbsent(),
    opens: timeOfDay('Opens').orAbsent(),
    inner: group('Inner', { a: text('A').orAbsent(), b: whole('B').orAbsent() }),
    marks: list('Marks', text('Mark', length({ max: 3 })), length({ min: 1, max: 3 }), distinct(), mustContain('a')).orAbsent(),
    rows: list('Rows', group('Row', { a: whole('A').orAbsent(), b: whole('B').orAbsent() })).orEmpty(),
    named: table('Named', whole('N', between(1, 2))).orAbsent(),
    pay: oneOfShapes('Pay', 'by', { card: shape({ number: text('Number', digits()) }), cash: shape({}) }),
  },
  {
    rules: [
      together('on', 'until'),
      atLeastOneOf('inner.a', 'inner.b'),
      exactlyOneOf('at', 'opens'),
      inOrder({ earlier: 'on', later: 'until' }),
      needed('code', { when: equals({ sort: 'a' }) }),
      absent('code', { when: allOf(not(equals({ sort: ['a', 'b'] })), not(equals({ 'inner.b': 2 }))) }),
      needed('fixed', { when: anyOf(equals({ size: 1.5 }), equals({ pay: 'cash' })) }),
      when(occasionIs('amend'), [needed('price')]),
    ],
  },
);

const PIECES: readonly unknown[] = [
  undefined,
  null,
  true,
  false,
  0,
  1,
  2,
  3,
  6,
  9,
  12,
  1.5,
  0.25,
  0.255,
  -1,
  1e20,
  '',
  ' ',
  'a',
  'b',
  'ab',
  ' ab ',
  'abcdef',
  'A1',
  'A13',
  'x',
  'y',
  'a.bz',
  '12',
  '123',
  '+4712345678',
  '2031-05-01',
  '2031-02-30',
  '2031-06-01',
  '2031-05-01T10:00:00Z',
  '10:00',
  '24:00',
  '\u{1f41f}',
  '\u{1f41f}\u{1f41f}',
  '7.5',
  '70',
  [],
  ['a'],
  ['a', 'a'],
  ['a', 'b', 'c', 'd'],
  {},
  { a: 'x' },
  { b: 2 },
  { a: 1 },
  { n: 1 },
  { n: 3 },
  { by: 'card', number: '12' },
  { by: 'card' },
  { by: 'cash' },
  { by: 'barter' },
  [{ a: 1 }],
  [{ a: 'x' }],
  'card',
  7,
];
const GOOD = {
  name: 'Ida',
  count: 3,
  size: 2,
  ok: true,
  sort: 'b',
  inner: { b: 1 },
  at: '2031-05-01T10:00:00Z',
  pay: { by: 'card', number: '12' },
  rows: [],
};

test('every kind and rule: what the schema accepts and the intake rejects is listed', () => {
  const random = new Random(11);
  for (const which of ['received', 'sent'] as const) {
    const told = jsonSchemaOf(everything, { of: which });
    expect(accepts(told.schema as never, which === 'sent' ? withoutLeftOut(GOOD) : GOOD)).toBe(true);
  }
  const told = jsonSchemaOf(everything);
  for (let run = 0; run < RUNS * 40; run++) {
    const submission: { [name: string]: unknown } = { ...GOOD };
    for (let changes = random.below(4); changes >= 0; changes--) {
      const key = random.pick(Object.keys(everything.fields));
      const value = random.pick(PIECES);
      if (value === undefined) delete submission[key];
      else submission[key] = value;
    }
    const difference = differenceOf(everything as never, told, submission);
    if (difference) throw new Error(difference);
  }
});
const withoutLeftOut = ({ ok: _ok, ...rest }: typeof GOOD) => rest;

test.each([undefined, 2, 12_000])('lists and tables of as many entries as there may be, and of one more (%s)', (most) => {
  const size = most === undefined ? [] : [length({ max: most })];
  const sized = { list: list('L', flag('F'), ...size).orEmpty(), table: table('T', flag('F')).orEmpty() };
  const made = intake('sized', { ...sized, note: text('Note').orAbsent() }, { rules: [needed('note', { when: present('table') })] });
  const told = jsonSchemaOf(made);
  const entries = (count: number) => Array.from({ length: count }, () => true);
  for (const count of [0, 1, most ?? 10_000, (most ?? 10_000) + 1]) {
    const tableOf = (all: readonly boolean[]) => Object.fromEntries(all.map((each, at) => [`n${at}`, each]));
    const ofTable = Math.min(count, 10_001);
    for (const submission of [
      { list: entries(count) },
      { table: tableOf(entries(ofTable)), note: 'x' },
      { table: tableOf(entries(ofTable)) },
    ]) {
      const isAccepted = made.judgeLocally(submission).outcome === 'accepted';
      expect([count, Object.keys(submission), accepts(told.schema as never, submission)]).toEqual([
        count,
        Object.keys(submission),
        isAccepted,
      ]);
    }
  }
});

test('random intakes: the same', () => {
  const random = new Random(5);
  for (let run = 0; run < RUNS; run++) {
    const description = describeIntake(random);
    const made = buildIntake(description) as unknown as Judging;
    const told = jsonSchemaOf(made);
    for (let each = 0; each < 20; each++) {
      const difference = differenceOf(made, told, submissionFor(random, description.fields, 0.3));
      if (difference) throw new Error(`${JSON.stringify(description)}: ${difference}`);
    }
  }
});

test('what is accepted is as the schema of what is sent says; a change is as that of changes says', () => {
  const { value } = everything.judgeLocally({ ...GOOD, name: ' Ida ', rows: undefined }) as never as { value: object };
  const sent = jsonSchemaOf(everything, { of: 'sent' });
  expect(accepts(sent.schema as never, value)).toBe(true);
  expect(accepts(sent.schema as never, { ...value, name: 'too long' })).toBe(false);
  expect(accepts(sent.schema as never, { ...value, more: 1 })).toBe(false);
  const { schema, unsaid } = jsonSchemaOf(everything, { of: 'amended' });
  expect([{}, { name: 'Bo' }, { code: null }, { inner: { a: null } }].map((change) => accepts(schema as never, change))).toEqual([
    true,
    true,
    true,
    true,
  ]);
  expect([{ name: null }, { name: 7 }, { rows: [{ a: 'x' }] }].map((change) => accepts(schema as never, change))).toEqual([
    false,
    false,
    false,
  ]);
  expect(unsaid).toContainEqual(expect.objectContaining({ use: 'needed@code', why: 'a change is judged with what is stored' }));
});

test('the marina: what is made to be accepted is accepted by its schema, and each rule is said or listed', async () => {
  for (const made of Object.values(marina) as unknown as (Judging & { readonly plan?: object })[]) {
    if (made.plan === undefined || made.name === 'certified-registration') continue;
    const { schema, unsaid } = jsonSchemaOf(made);
    const maker = new Maker(made, { now: new Date('2031-04-20T08:00:00Z') });
    const accepted = await maker.accepted();
    expect(accepts(schema as never, accepted?.situation.submission)).toBe(true);
    for (const { use } of maker.uses) {
      const rejected = await maker.rejectedBy(use);
      const isListed = unsaid.some((each) => each.use === use);
      if (rejected && !isListed) expect([use, accepts(schema as never, rejected.situation.submission)]).toEqual([use, false]);
    }
  }
});
