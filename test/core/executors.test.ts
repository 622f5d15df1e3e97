import { createHash } from 'node:crypto';
import fc from 'fast-check';
import {
  among,
  between,
  choice,
  cleaning,
  condition,
  day,
  decimal,
  distinct,
  entries,
  equals,
  exact,
  type Fields,
  flag,
  group,
  type Intake,
  intake,
  length,
  list,
  maybe,
  moment,
  needed,
  notAfter,
  notBefore,
  now,
  oneOfShapes,
  ownKind,
  pattern,
  places,
  rule,
  same,
  shape,
  table,
  text,
  timeOfDay,
  today,
  trim,
  upload,
  when,
  whole,
} from 'jestril';
import { withCode } from 'jestril/code';
import { writtenOf } from '../../src/core/generated/ahead.ts';
import { FORM } from '../../src/core/generated/form.ts';
import { generate } from '../../src/core/generated/generate.ts';
import { HELPERS } from '../../src/core/generated/helpers.ts';
import { write } from '../../src/core/generated/writer.ts';
import { planOf } from '../../src/core/intake.ts';
import { Random } from '../support/random.ts';
import { submissionFor } from '../support/random-data.ts';
import { buildIntake, describeIntake } from '../support/random-intake.ts';

// Which executor ran cannot be told from a verdict, nor by what user functions saw, nor by what was read of a submission.
// By hand: JESTRIL_RANDOM=200000 npm test -- test/core/executors.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 700);

const log: unknown[] = [];
const odd = rule(
  'test/odd',
  { field: whole },
  {
    holds({ field }) {
      log.push(['odd', field]);
      if (field === 13) throw new Error('thirteen');
      return (field === 15 ? undefined : field % 2 === 1) as boolean;
    },
    message: '{field_value}',
    blames: 'field',
  },
);
const wider = rule(
  'test/wider',
  { beam: decimal, length: maybe(decimal) },
  {
    holds({ beam, length }) {
      log.push(['wider', beam, length]);
      if (beam === 7) throw new Error('seven');
      return (beam === 1.5 ? 'yes' : length === undefined || beam < length) as boolean;
    },
    message: '{beam} {length_value}',
    blames: ['beam', 'length'],
  },
);
const short = rule(
  'test/short',
  { tags: entries({ tag: text }) },
  {
    failing({ tags }) {
      log.push(['short', tags.length]);
      return tags.flatMap(({ tag }, index) => (tag.length > 4 ? [index] : []));
    },
    message: '{tags}',
    blames: 'tags',
  },
);
const even = ownKind('test/even', whole, {
  reads(value) {
    if (value === 21) throw new Error('twenty-one');
    return value % 2 === 0 ? value : undefined;
  },
  says: 'even',
});
const loud = cleaning('test/loud', text, (value) => {
  if (value === 'boom') throw new Error('boom');
  return (value === 'gone' ? undefined : value.toUpperCase()) as string;
});
const isBig = condition(
  'test/big',
  { n: whole },
  {
    holds({ n }) {
      log.push(['big', n]);
      if (n === 17) throw new Error('seventeen');
      return n > 100;
    },
  },
);

const fields = {
  sum: exact('Sum').orAbsent(),
  at: moment('At', notAfter(now)).orAbsent(),
  opens: timeOfDay('Opens').orAbsent(),
  prices: table('Prices', decimal('Price')).orAbsent(),
  how: oneOfShapes('How', 'tag', { card: shape({ name: text('Name') }), cash: shape({}) }).orAbsent(),
  file: upload('File').orAbsent(),
  name: text('Name', trim(), loud, length({ max: 5 }), pattern(/^\w*$/, 'letters')),
  count: whole('Count', odd(), between(0, 50)).orAbsent(),
  other: even('Own').orElse(4),
  price: decimal('Price', places(2), between(0, 5, { severity: 'warning' })).orNull(),
  beam: decimal('Beam', between(0, 99, { trial: true })).orAbsent(),
  agreed: flag('Agreed'),
  power: choice('Power', ['16A', '32A']).orElse('16A'),
  on: day('On', notBefore(today, { on: 'create' })).orAbsent(),
  constructor: text('C').orAbsent(),
  home: group('Home', { street: text('Street'), no: whole('No').orAbsent() }).orAbsent(),
  needy: group('Needy', { a: text('A'), b: group('B', { c: flag('C'), d: list('D', whole('E')).orEmpty() }) }),
  crew: list(
    'Crew',
    group('Member', { name: text('Name', length({ max: 3 })), tags: list('Tags', text('Tag')).orEmpty(), born: day('Born').orAbsent() }),
    length({ max: 3 }),
  ).orAbsent(),
  plain: list(
    'Plain',
    group('P', { x: whole('X'), y: text('Y').orAbsent(), z: list('Z', whole('W')).orEmpty() }),
    length({ max: 3 }),
  ).orEmpty(),
  marks: list('Marks', text('Mark'), distinct()).orEmpty(),
} satisfies Fields;
type Judge = Pick<Intake<Fields>, 'name' | 'judgeLocally'>;
const zone = 'Europe/Oslo';
const intakes: readonly ((more: object) => Judge)[] = [
  (more) =>
    intake('every/*kind*/', fields, {
      rules: [
        wider({ beam: 'beam', length: 'price' }),
        short({ tags: { tag: 'crew.*.tags.*' } }),
        needed('on', { when: equals({ power: '32A' } as never) }),
        when(isBig({ n: 'count' }), [needed('beam')], [needed('sum')]),
        same({ first: 'name', second: 'constructor' }),
        among({ value: 'name', those: 'marks.*' }),
        wider({ beam: 'beam', length: 'price' }, { as: 'again', severity: 'warning', on: 'amend' }),
        wider({ beam: 'price', length: 'beam' }, { as: 'tried', trial: true }),
      ],
      zone,
      ...more,
    }) as unknown as Judge,
  (more) => intake('one\nrule', fields, { rules: [wider({ beam: 'beam', length: 'price' })], zone, ...more }) as unknown as Judge,
];

const NAMES = [...Object.keys(fields), 'tag', 'street', 'no', 'a', 'b', 'c', 'd', 'x', 'y', 'z', 'tags', 'born', '__proto__', 'toString'];
const LEAVES = [
  null,
  undefined,
  '',
  ' ',
  'card',
  'boom',
  'gone',
  'ab',
  'abcdef',
  '12.50',
  '2031-05-01T09:30:00Z',
  '09:30',
  '16A',
  '32A',
  '2031-05-01',
  'a\0',
  '\ud800',
  12,
  13,
  15,
  17,
  21,
  150,
  7,
  1.5,
  -0,
  1e300,
  Number.NaN,
  true,
  false,
];
const leaf = fc.oneof(fc.constantFrom(...LEAVES), fc.string(), fc.double());
const { json } = fc.letrec<{ json: unknown }>((tie) => ({
  json: fc.oneof(
    { depthSize: 'small' },
    leaf,
    fc.array(tie('json'), { maxLength: 4 }),
    fc.dictionary(fc.constantFrom(...NAMES), tie('json'), { maxKeys: 8 }),
  ),
}));
const sound = {
  name: 'ab',
  count: 3,
  price: 2.25,
  beam: 1,
  agreed: true,
  on: '2031-05-01',
  home: { street: 'S', no: 2 },
  needy: { a: 'x', b: { c: false, d: [1, 2] } },
  crew: [{ name: 'A', tags: ['x', 'y'], born: '1999-01-01' }, { name: 'B' }],
  plain: [{ x: 1, y: 'z', z: [1] }, { x: 2 }],
  marks: ['AB'],
  constructor: 'AB',
  sum: '1',
  prices: { a: 1 },
  how: { tag: 'card', name: 'N' },
};
const pathsIn = (object: object, before: readonly string[] = []): string[][] =>
  Object.entries(object).flatMap(([key, value]) => [
    [...before, key],
    ...(typeof value === 'object' && value ? pathsIn(value, [...before, key]) : []),
  ]);
/** A sound submission, of which some members are replaced. */
const nearMiss = fc.array(fc.tuple(fc.constantFrom(...pathsIn(sound)), json), { maxLength: 3 }).map((changes) => {
  const changed = structuredClone(sound) as never;
  for (const [path, value] of changes) {
    const holder = path.slice(0, -1).reduce<Record<string, unknown> | undefined>((object, key) => object?.[key] as never, changed);
    if (typeof holder === 'object' && holder) holder[path.at(-1) as string] = value;
  }
  return changed as unknown;
});

/** Tells which keys are read, and in which order; some throw. */
function watched(raw: unknown, seen: string[], path = ''): unknown {
  if (typeof raw !== 'object' || raw === null) return raw;
  return new Proxy(raw, {
    get(object, key) {
      if (typeof key === 'string') seen.push(`${path}/${key}`);
      if (key === 'y' && Reflect.get(object, 'x') === 7) throw new Error('a getter');
      return watched(Reflect.get(object, key), seen, `${path}/${String(key)}`);
    },
    ownKeys(object) {
      seen.push(`keys ${path}`);
      return Reflect.ownKeys(object);
    },
  });
}

/** The same, judged by generated code from now on. */
function written(by: Judge): Judge {
  const plan = planOf(by);
  plan.busy.code = generate(plan);
  expect(plan.busy.code).toBeDefined();
  return by;
}

/** The same, judged by code that was written ahead of time. */
function ahead(by: Judge): Judge {
  return withCode(by, new Function(`return ${writtenOf(planOf(by))}`)());
}

const clock = new Date('2031-04-20T08:00:00Z');
function judged(by: Judge, raw: unknown, options: object) {
  log.length = 0;
  const seen: string[] = [];
  const verdict = by.judgeLocally(watched(raw, seen), { now: clock, ...options } as never);
  return { verdict, text: JSON.stringify(verdict), log: [...log], seen };
}

test.each(intakes)('the loop and generated code agree on every submission (%#)', (make) => {
  let accepted = 0;
  for (const strangers of ['drop', 'refuse']) {
    const [loop, code, early] = [make({ strangers, code: 'never' }), written(make({ strangers })), ahead(make({ strangers }))];
    fc.assert(
      fc.property(
        fc.oneof(json, fc.dictionary(fc.constantFrom(...NAMES), json, { maxKeys: 12 }), nearMiss, nearMiss, nearMiss),
        fc.constantFrom('everything', 'firstOfEach', 'firstOfAll'),
        fc.constantFrom('create', 'amend'),
        (raw, report, occasion) => {
          const expected = judged(loop, raw, { report, occasion });
          if (expected.verdict.outcome === 'accepted') accepted++;
          expect(judged(code, raw, { report, occasion })).toEqual(expected);
          expect(judged(early, raw, { report, occasion })).toEqual(expected);
        },
      ),
      { numRuns: RUNS },
    );
  }
  expect(accepted).toBeGreaterThan(RUNS / 10);
});

test.each(Object.keys(fields))('so they do on a step alone (%s)', (name) => {
  const one = { [name]: (fields as Fields)[name] } as Fields;
  const make = (more: object) => intake('one', one, { zone, ...more }) as unknown as Judge;
  const [loop, code] = [make({ code: 'never' }), written(make({}))];
  const raw = fc.oneof(
    json,
    nearMiss.map((whole) => (whole as { readonly [name: string]: unknown })[name]),
  );
  fc.assert(
    fc.property(raw, (value) => expect(judged(code, { [name]: value }, {})).toEqual(judged(loop, { [name]: value }, {}))),
    { numRuns: RUNS / 7 },
  );
});

test('so they do on random intakes', () => {
  for (let seed = 1; seed <= RUNS; seed++) {
    const random = new Random(seed);
    const description = describeIntake(random);
    const loop = buildIntake(description, { code: 'never' });
    const code = written(buildIntake(description) as never);
    for (let each = 0; each < 4; each++) {
      const raw = submissionFor(random, description.fields, random.pick([0, 0.1, 0.4]));
      expect({ seed, ...judged(code, raw, {}) }).toEqual({ seed, ...judged(loop as never, raw, {}) });
    }
  }
});

test('names of any characters become no code', () => {
  fc.assert(
    fc.property(
      fc.array(
        // biome-ignore lint/suspicious/noTemplateCurlyInString: what must not become code
        fc.oneof(fc.string(), fc.constantFrom('`${x}', '*/ x /*', "');x('", '\u2028', '\n', '__proto__', 'constructor', '"]', '\\')),
        { minLength: 1, maxLength: 5 },
      ),
      fc.string({ minLength: 1 }),
      (names, name) => {
        const kept = [...new Set(names)].filter((each) => /^[^.*[\]]+$/.test(each) && each !== '__proto__');
        const make = () =>
          intake(name, Object.fromEntries(kept.map((each) => [each, whole('N', between(0, 5))])), {
            occasions: ['a`', name],
          } as never);
        const raw = Object.fromEntries(kept.map((each, index) => [each, index]));
        expect(judged(written(make() as never), raw, {})).toEqual(judged(make() as never, raw, {}));
      },
    ),
    { numRuns: RUNS / 5 },
  );
});

test('an intake that is busy gets its code, as soon as that is loaded; one that wants it, at once; one that does not, never', async () => {
  const made = (['when-busy', 'at-once', 'never'] as const).map((code) => intake('busy', { a: whole('A') }, { code }));
  for (const each of made) for (let count = 0; count < (each === made[1] ? 1 : 200); count++) each.judgeLocally({ a: count });
  await new Promise((done) => setTimeout(done, 50));
  expect(made.map((each) => [planOf(each).busy.code !== undefined, each.judgeLocally({ a: 1 }).outcome])).toEqual([
    [true, 'accepted'],
    [true, 'accepted'],
    [false, 'accepted'],
  ]);
});

/** Every sort of step in every other. */
function nested(depth: number): Fields {
  const inner = depth === 0 ? { x: text('X'), n: whole('N').orAbsent() } : nested(depth - 1);
  return {
    ...(depth === 0 ? inner : {}),
    group: group('G', inner).orAbsent(),
    list: list('L', group('E', inner)).orEmpty(),
    table: table('T', group('E', inner)),
    shapes: oneOfShapes('S', 'is', { one: shape(inner), none: shape({}) }),
  };
}

test('code that is written otherwise, or calls other helpers, has another form', () => {
  const calls = Object.entries(HELPERS).map(([name, helper]) => `${name} ${typeof helper === 'function' ? helper.length : ''}`);
  const form = createHash('sha256');
  const plans = [...intakes.map((make) => make({})), intake('nested', nested(1))].map((each) => planOf(each));
  for (const each of [...calls, ...plans.map((plan) => write(plan))]) form.update(each);
  const told = form.digest('hex').slice(0, 12);
  // Not as it is: write what is told here into src/core/generated/form.ts.
  expect(FORM).toBe(told);
});

test('code of another intake, or of one that has changed since, is refused', () => {
  const make = (most: number, name = 'stay') => intake(name, { nights: whole('Nights', between(1, most)) });
  const of = (made: Judge) => new Function(`return ${writtenOf(planOf(made))}`)();
  expect(withCode(make(28), of(make(28))).judgeLocally({ nights: 29 }).outcome).toBe('rejected');
  expect(() => withCode(make(28), of(make(14)))).toThrow(
    'withCode: "stay" has changed since its code was written; run jestril compile again.',
  );
  expect(() => withCode(make(28), of(make(28, 'other')))).toThrow('withCode: this is the code of "other", and not of "stay".');
  expect(() => withCode(make(28), { ...of(make(28)), form: 'other' })).toThrow('another version of Jestril wrote the code of "stay"');
});
