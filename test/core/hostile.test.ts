import { berthBooking, ownerSignUp } from '@pellwick/marina';
import fc from 'fast-check';
import {
  choice,
  day,
  decimal,
  exact,
  flag,
  group,
  intake,
  length,
  list,
  moment,
  notAfter,
  now,
  oneOfShapes,
  pattern,
  receivedFile,
  shape,
  table,
  text,
  timeOfDay,
  trim,
  upload,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { rulesOf } from '../support/judging.ts';

const records = memoryRecords({ owners: [], vessels: [], berths: [], bookings: [] });
const given = { caller: { id: 1, staff: false } };
const clock = new Date('2031-04-20T08:00:00Z');
const everyKind = intake('every-kind', {
  sum: exact('Sum').orAbsent(),
  at: moment('At', notAfter(now)).orAbsent(),
  opens: timeOfDay('Opens').orAbsent(),
  prices: table('Prices', decimal('Price')).orAbsent(),
  how: oneOfShapes('How', 'tag', { card: shape({ name: text('Name') }), cash: shape({}) }).orAbsent(),
  file: upload('File').orAbsent(),
  name: text('Name', trim(), length({ max: 5 }), pattern(/^\w*$/, 'letters')),
  count: whole('Count').orAbsent(),
  price: decimal('Price').orNull(),
  agreed: flag('Agreed'),
  power: choice('Power', ['16A', '32A']).orElse('16A'),
  on: day('On').orAbsent(),
  constructor: text('A name that objects have').orAbsent(),
  crew: list('Crew', group('Member', { name: text('Name'), tags: list('Tags', text('Tag')).orEmpty() })).orAbsent(),
});

/** JSON values whose objects often have the keys that the intake knows. */
const key = fc.oneof(
  fc.constantFrom(
    'name',
    'count',
    'price',
    'agreed',
    'power',
    'on',
    'constructor',
    'crew',
    'tags',
    '__proto__',
    'sum',
    'at',
    'opens',
    'prices',
    'how',
    'tag',
    'file',
    'mediaType',
    'size',
  ),
  fc.string(),
);
const { json } = fc.letrec((tie) => ({
  leaf: fc.oneof(
    fc.constantFrom(
      null,
      '',
      ' ',
      'card',
      'cash',
      '12.50',
      '2031-05-01T09:30:00Z',
      '09:30',
      'a/b',
      12,
      '16A',
      '2031-05-01',
      '2031-02-30',
      'a\0',
      '\ud800',
      true,
      false,
      7,
      1.5,
      1e300,
      -0,
    ),
    fc.string({ unit: 'binary' }),
    fc.double(),
  ),
  json: fc.oneof(
    { depthSize: 'small' },
    tie('leaf'),
    fc.array(tie('json'), { maxLength: 4 }),
    fc.dictionary(key, tie('json'), { maxKeys: 8 }),
  ),
}));
const submission = fc.oneof(json, fc.dictionary(key, json, { maxKeys: 10 }));

test('any JSON value gives a verdict, and the same one twice', async () => {
  await fc.assert(
    fc.asyncProperty(submission, fc.constantFrom('json' as const, 'form' as const), async (raw, as) => {
      const before = JSON.stringify(raw);
      const verdicts = [everyKind.judgeLocally(raw, { as, now: clock }), everyKind.judgeLocally(raw, { as, now: clock })];
      expect(verdicts[1]).toEqual(verdicts[0]);
      expect(JSON.stringify(raw)).toBe(before);
      expect(['accepted', 'rejected', 'undecided']).toContain((await berthBooking.judge(raw, { as, records, given, now: clock })).outcome);
      expect(['accepted', 'rejected', 'undecided']).toContain((await ownerSignUp.judge(raw, { as, records, now: clock })).outcome);
    }),
    { numRuns: 500 },
  );
});

test('what is accepted is accepted again as its own output', () => {
  const sound = fc.record(
    {
      name: fc.stringMatching(/^ ?\w{1,5} ?$/),
      count: fc.maxSafeInteger(),
      price: fc.oneof(fc.constant(null), fc.double({ noNaN: true, noDefaultInfinity: true })),
      agreed: fc.boolean(),
      power: fc.constantFrom('16A', '32A'),
      on: fc.constantFrom('2031-05-01', '1999-12-31'),
      sum: fc.constantFrom('12.50', '-0', '1', 3.25),
      at: fc.constantFrom('2026-01-01T00:00:00+02:00'),
      opens: fc.constantFrom('09:30:00', '23:59:59.10'),
      prices: fc.dictionary(fc.string({ unit: 'grapheme' }), fc.double({ noNaN: true, noDefaultInfinity: true })),
      how: fc.constantFrom({ tag: 'cash' }, { tag: 'card', name: 'x', more: 1 }),
      file: fc.constantFrom(
        { name: 'a', type: 'A/B', size: 0, content: new Uint8Array() },
        new File(['x'], 'b'),
        receivedFile({ name: 'c', mediaType: 'a/b', size: 9, content: '/tmp/c' }),
      ),
      crew: fc.array(fc.record({ name: fc.stringMatching(/^\w+$/) }), { maxLength: 3 }),
    },
    { requiredKeys: ['name', 'price', 'agreed'] },
  );
  fc.assert(
    fc.property(sound, (raw) => {
      const first = everyKind.judgeLocally(raw, { now: clock });
      const value = first.outcome === 'accepted' ? first.value : expect(first).toMatchObject({ outcome: 'accepted' });
      // A file is never what JSON says.
      const { file, ...rest } = value as { readonly file?: unknown };
      const again = { ...JSON.parse(JSON.stringify(rest)), ...(file !== undefined && { file }) };
      expect(everyKind.judgeLocally(again, { now: clock })).toEqual(first);
    }),
  );
});

describe('hostile submissions', () => {
  const nested = (depth: number, open: string, close: string) => JSON.parse(`${open.repeat(depth)}1${close.repeat(depth)}`);
  const manyKeys = Object.fromEntries(Array.from({ length: 1_000_000 }, (_, index) => [`k${index}`, index]));
  const strict = intake('strict', { name: text('Name', length({ max: 9 })), constructor: text('C').orAbsent() }, { strangers: 'refuse' });

  test.each([
    ['a prototype', JSON.parse('{"__proto__": {"name": "x", "polluted": true}, "constructor": {"prototype": {"polluted": true}}}')],
    ['a million keys', manyKeys],
    ['100,000 arrays', { name: nested(100_000, '[', ']') }],
    ['100,000 objects', { crew: nested(100_000, '{"crew":', '}') }],
    ['an array', [{ name: 'x' }]],
    ['a lone surrogate', { name: 'a\udfff' }],
    ['a long text', { name: 'x'.repeat(10_000_000) }],
    ['a date', new Date()],
    ['a map', new Map([['name', 'x']])],
    ['nothing', undefined],
  ])('%s is rejected, and changes no prototype', (_what, raw) => {
    for (const as of ['json', 'form'] as const) {
      for (const form of [everyKind, strict]) {
        const verdict = form.judgeLocally(raw, { as });
        expect(verdict.outcome).toBe('rejected');
        expect(JSON.stringify(verdict).length).toBeLessThan(100_000);
      }
    }
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
  });

  test('keys that objects inherit are absent unless sent', () => {
    expect(rulesOf(intake('i', { toString: text('T'), hasOwnProperty: text('H').orAbsent() }).judgeLocally({}))).toEqual(['needed']);
    const verdict = strict.judgeLocally(JSON.parse('{"name": "x", "__proto__": {"a": 1}}'));
    expect(verdict).toMatchObject({
      findings: [{ rule: 'stranger', places: [{ pointer: '/__proto__' }], message: 'There is no field "__proto__" here.' }],
    });
  });

  test('each key is read once', () => {
    const reads: string[] = [];
    const spy = new Proxy({ name: 'x' } as Record<string, unknown>, {
      get(target, name) {
        reads.push(String(name));
        return target[String(name)];
      },
    });
    intake('i', { name: text('Name', length({ max: 3 })), count: whole('C').orAbsent() }).judgeLocally(spy);
    expect(reads).toEqual(['name', 'count']);
  });
});
