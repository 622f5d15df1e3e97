import { jest } from '@jest/globals';
import {
  absent,
  atLeastOneOf,
  choice,
  cleaning,
  condition,
  exact,
  exactlyOneOf,
  group,
  inlineUpload,
  intake,
  jsonValue,
  list,
  needed,
  ownKind,
  rule,
  satisfiesAny,
  table,
  text,
  timeZone,
  together,
  trim,
  whole,
} from 'jestril';
import { blamesOf, judgeValue, told } from '../support/judging.ts';

// What functions of the application give back, and what they are handed.

// biome-ignore lint/suspicious/noExplicitAny: what the compiler refuses, and plain JavaScript does not
const any = (value: unknown): any => value;
const broken = any(() => Promise.reject(new Error('later')));

const rejected: unknown[] = [];
const note = (reason: unknown) => rejected.push(reason);
beforeAll(() => void process.on('unhandledRejection', note));
afterAll(() => void process.off('unhandledRejection', note));

describe('a promise that is rejected ends nothing, and is kept as the cause', () => {
  const a = { a: text };
  const base = { message: 'x', blames: 'a' } as const;
  const gives = { gives: broken, asks: undefined };
  const isSo = condition('t/is-so', a, { holds: broken });
  test.each<[where: string, field: () => never, rules: readonly unknown[]]>([
    ['holds', () => text('A') as never, [rule('t/holds', a, { ...base, holds: broken })({ a: any('a') })]],
    ['holds on trial', () => text('A') as never, [rule('t/holds', a, { ...base, holds: broken })({ a: any('a') }, { trial: true })]],
    ['facts', () => text('A') as never, [rule('t/facts', a, { ...base, holds: () => false, facts: broken })({ a: any('a') })]],
    [
      'one fact',
      () => text('A') as never,
      [rule('t/fact', a, { ...base, holds: () => false, facts: () => ({ f: gives.gives() }) })({ a: any('a') })],
    ],
    ['a condition', () => text('A') as never, [needed(any('a'), { when: isSo({ a: any('a') }) as never })]],
    ['a value rule', () => text('A', rule('t/value', { field: text }, { ...base, blames: 'field', holds: broken })()) as never, []],
    [
      'a part of a combination',
      () =>
        text(
          'A',
          satisfiesAny([rule('t/part', { field: text }, { ...base, blames: 'field', holds: broken })()], { message: 'x' }),
        ) as never,
      [],
    ],
    ['a cleaning step', () => text('A', cleaning('t/clean', text, broken)) as never, []],
    ['a kind of one’s own', () => ownKind('t/kind', text, { reads: broken, says: 'x' })('A') as never, []],
    ['a default', () => text('A').orElse(broken) as never, []],
  ])('%s', async (where, field, rules) => {
    const form = intake('i', { a: field() }, { rules: any(rules) });
    const verdict = form.judgeLocally(where === 'a default' ? {} : { a: 'x' });
    const trial = where === 'holds on trial';
    expect(verdict.outcome).toBe(trial ? 'accepted' : 'undecided');
    const open = trial ? any(verdict).trials[0].unsettled : verdict.unsettled[0];
    expect([open.why, open.cause.message]).toEqual(['fault', expect.stringContaining('gave a Promise (what waits is said by `asks`)')]);
    await new Promise((done) => setTimeout(done, 5));
    expect(open.cause.cause).toEqual(new Error('later'));
    expect(rejected).toEqual([]);
  });
});

test.each<[what: string, field: () => never, raw: unknown, cause: string]>([
  [
    'half a character',
    () =>
      text(
        'A',
        cleaning('t/cut', text, (value) => value.slice(0, 1)),
      ) as never,
    '\u{1F6A2}',
    'a value of kind text',
  ],
  ['a NUL', () => ownKind('t/nul', text, { reads: () => 'a\0', says: 'x' })('A') as never, 'a', 'a value of kind text'],
  ['NaN', () => ownKind('t/nan', whole, { reads: () => Number.NaN, says: 'x' })('A') as never, 1, 'a value of kind whole'],
  [
    'another kind',
    () =>
      text(
        'A',
        cleaning(
          't/other',
          text,
          any(() => 7),
        ),
      ) as never,
    'a',
    'a value of kind text',
  ],
  [
    'another kind, upon a kind of one’s own',
    () =>
      text(
        'A',
        cleaning('t/clean', text, (value) => value),
        cleaning(
          't/no',
          text,
          any(() => undefined),
        ),
      ) as never,
    'a',
    'gave undefined',
  ],
])('%s is not accepted', (_what, field, raw, cause) => {
  const verdict = intake('i', { a: field() }).judgeLocally({ a: raw });
  expect(verdict.outcome).toBe('undecided');
  expect(any(verdict.unsettled[0]).cause.message).toContain(cause);
});

test('facts are what a finding can tell', () => {
  for (const fact of ['a\0', '\ud800', Number.NaN, {}, new Date(0), () => 1, Symbol('x')]) {
    const fails = rule('t/fails', { a: text }, { holds: () => false, facts: any(() => ({ fact })), message: '{fact}', blames: 'a' });
    expect(intake('i', { a: text('A') }, { rules: [fails({ a: any('a') })] }).judgeLocally({ a: 'x' }).outcome).toBe('undecided');
  }
});

test('what a rule is handed it cannot change for others', () => {
  const seen: unknown[] = [];
  const changes = (name: string, change: (value: unknown) => void) =>
    rule(
      name,
      { value: jsonValue },
      {
        holds({ value }, _found, _takes, at) {
          at.now.setFullYear(1999);
          seen.push(JSON.stringify(value), at.now.getFullYear());
          change(value);
          return true;
        },
        message: 'x',
        blames: 'value',
      },
    );
  const sorts = changes('t/sorts', (value) => any(value).list.sort());
  const looks = changes('t/looks', () => undefined);
  const form = intake('i', { value: jsonValue('V') }, { rules: [sorts({ value: 'value' }), looks({ value: 'value' })] });
  const verdict = form.judgeLocally({ value: { list: [2, 1] } }, { now: new Date('2031-05-01') });
  expect(verdict.outcome).toBe('undecided');
  expect(seen).toEqual(['{"list":[2,1]}', 2031, '{"list":[2,1]}', 2031]);
  // The accepted value is its own.
  const plain = intake('i', { value: jsonValue('V'), of: list('L', jsonValue('E')).orEmpty() });
  const accepted = any(plain.judgeLocally({ value: { list: [2, 1] }, of: [{ a: [] }] })).value;
  accepted.value.list.sort();
  accepted.of[0].a.push(1);
  expect(accepted).toEqual({ value: { list: [1, 2] }, of: [{ a: [1] }] });
});

describe('a list that is empty when it is left out', () => {
  const fields = {
    crew: list('Crew', text('Name')).orEmpty(),
    sizes: table('Sizes', whole('Size')).orEmpty(),
    other: text('Other').orAbsent(),
  };
  test.each<[rules: unknown, raw: object, findings: readonly string[]]>([
    [absent('crew' as never), {}, []],
    [absent('crew' as never), { crew: [] }, []],
    [absent('crew' as never), { crew: ['Ida'] }, ['absent /crew']],
    [needed('crew' as never), { crew: [] }, ['needed /crew']],
    [needed('sizes' as never), { sizes: {} }, ['needed /sizes']],
    [needed('sizes' as never), { sizes: { a: 1 } }, []],
    [together('crew' as never, 'other' as never), { crew: [] }, []],
    [together('crew' as never, 'other' as never), { crew: [], other: 'x' }, ['together /crew /other']],
    [exactlyOneOf('crew' as never, 'other' as never), { crew: [], other: 'x' }, []],
    [atLeastOneOf('crew' as never, 'sizes' as never), { crew: [], sizes: {} }, ['at-least-one-of /crew /sizes']],
  ])('%# sent or filled, it counts as absent', (rules, raw, findings) => {
    const form = intake('i', fields, { rules: [rules as never] });
    expect(blamesOf(form.judgeLocally(raw))).toEqual(findings);
  });
});

describe('never slow, never thrown, never grown', () => {
  test('an inline upload is looked at by its shape first, and named by a base name', () => {
    const upload = inlineUpload('File');
    for (const raw of ['x'.repeat(4_000_000), new Array(1_000_000).fill(0), { name: 'a', base64: '', extra: 1 }])
      expect(told(judgeValue(upload, raw))).toEqual(['readable']);
    const named = (name: string) => told(judgeValue(upload, { name, mediaType: 'text/plain', base64: 'YQ==' }));
    for (const name of ['../a', 'a/b', 'a\\b', '..', '.', 'C:a', 'a\r\nb', 'a\u0007', '']) expect(named(name)).toEqual(['readable']);
    for (const name of ['a..b', '.env', 'ü"x.pdf', 'a b']) expect(named(name)).toMatchObject({ value: { name } });
  });

  test('a form that breaks off or is deep in an optional group is something', () => {
    const form = intake('i', { g: group('G', { a: text('A') }).orAbsent() });
    const breaks = Object.defineProperty({}, 'a', {
      enumerable: true,
      get() {
        throw new Error('no');
      },
    });
    expect(blamesOf(form.judgeLocally({ g: breaks }, { as: 'form' }))).toEqual(['readable /g/a']);
    let deep: unknown = '';
    for (let level = 0; level < 100_000; level++) deep = { a: deep };
    expect(form.judgeLocally({ g: deep }, { as: 'form' }).outcome).toBe('rejected');
  });

  test('a stored list with holes has nothing there', async () => {
    const form = intake('i', { l: list('L', text('T')), n: whole('N') });
    // biome-ignore lint/suspicious/noSparseArray: what is to be tried
    const verdict = await form.amend({ l: ['a', , 'b'] as never, n: 1 }, { n: 2 });
    expect(blamesOf(verdict)).toEqual([]);
  });

  test('a language may be anything', () => {
    for (const locale of [['de'], 7, {}, null]) {
      const verdict = intake('i', { a: text('A') }).judgeLocally({}, { locale: any(locale) });
      expect(verdict).toMatchObject({ findings: [{ message: 'A is needed.' }] });
    }
  });

  test('a zone is one, however it is spelled', () => {
    const zone = text('Zone', timeZone());
    expect(['Europe/Oslo', 'eUrOpE/oSlO', 'utc', 'US/Pacific'].map((name) => told(judgeValue(zone, name)))).toMatchObject([
      { value: 'Europe/Oslo' },
      { value: 'eUrOpE/oSlO' },
      { value: 'utc' },
      { value: 'US/Pacific' },
    ]);
    // What is no name is never asked for: the run time keeps some room for each, for good.
    const asked = jest.spyOn(Intl, 'DateTimeFormat');
    for (let number = 0; number < 100; number++) judgeValue(zone, `Europe/Oslo${number}`);
    expect(() => intake('i', { a: text('A') }, { zone: 'Europe/Nowhere' })).toThrow('no time zone');
    expect(asked).not.toHaveBeenCalled();
    asked.mockRestore();
    for (const name of ['Europe/Nowhere', '+02:00', 'Europe', 'constructor']) expect(told(judgeValue(zone, name))).toEqual(['time-zone']);
  });
});

test('what is accepted is accepted and the same when it is judged again', () => {
  const form = intake('i', {
    price: exact('Price', { places: 2 }),
    name: text(
      'Name',
      trim(),
      cleaning('t/marked', text, (value) => value.replace(/^#*/, '#')),
    ),
    of: choice('Of', [1, '1']),
    kind: ownKind('t/upper', text, { reads: (value) => value.toUpperCase(), says: 'x' })('Kind'),
  });
  const first = any(form.judgeLocally({ price: '12.5', name: ' a ', of: '1', kind: 'b' }));
  expect(first.value).toEqual({ price: '12.50', name: '#a', of: '1', kind: 'B' });
  expect(any(form.judgeLocally(first.value)).value).toEqual(first.value);
});
