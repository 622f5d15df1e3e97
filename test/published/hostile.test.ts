import { intakesOf } from 'jestril/published';
import { Fault } from '../../src/core/basics/fault.ts';
import { harbourApi } from '../support/harbour-api.ts';
import { Random } from '../support/random.ts';

// A document is somebody else's, and may hold anything anywhere: it is read, or refused with a reason, and nothing else. By hand:
// JESTRIL_RANDOM=20000 npm test -- test/published/hostile.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 200);

const ODD: readonly unknown[] = [
  null,
  true,
  false,
  0,
  -1,
  1e308,
  '',
  'constructor',
  '__proto__',
  '#/components/schemas/Berth',
  '#',
  '#/',
  '#/%zz',
  [],
  {},
  [null],
  { $ref: '#' },
  { $ref: '#/components/schemas/Berth' },
  { type: 'object', properties: { constructor: { type: 'string' }, ['__proto__']: {} } },
  { enum: [] },
  { enum: [{}] },
  { pattern: '(a+)+$', type: 'string' },
  { pattern: '(', type: 'string' },
  { not: {} },
  { allOf: [] },
  { oneOf: [] },
  { if: 7 },
  { minLength: -1, type: 'string' },
  { enum: ['a'], pattern: '(' },
  { enum: ['a'], minLength: 'x' },
  { type: 'string', format: { a: 1 }, contentEncoding: 7 },
  { type: 'array', items: true, maxItems: -3 },
  { dependentRequired: { a: 'b' }, properties: { a: true } },
  { discriminator: { propertyName: 7, mapping: 3 }, oneOf: [{}, { properties: { a: { const: 'x' } }, required: ['a'] }] },
  { multipleOf: 0, type: 'number' },
  { const: undefined },
];

/** The document with something else at some place. */
function mutated(document: unknown, random: Random): unknown {
  const copy = JSON.parse(JSON.stringify(document)) as { [key: string]: unknown };
  for (let times = 1 + random.below(3); times > 0; times--) {
    let at = copy;
    for (let depth = random.below(10); depth > 0; depth--) {
      const inner = Object.values(at).filter((each): each is typeof at => typeof each === 'object' && each !== null);
      const next = random.maybePick(inner);
      if (!next) break;
      at = next;
    }
    const key = random.maybePick(Object.keys(at)) ?? 'type';
    if (random.below(4) === 0) delete at[key];
    else at[key] = structuredClone(random.pick(ODD));
  }
  return copy;
}

test('a document that is odd anywhere is read, or refused with a reason', async () => {
  const random = new Random(RUNS);
  let read = 0;
  for (let run = 0; run < RUNS; run++) {
    const document = mutated(harbourApi, random) as object;
    try {
      const service = intakesOf(document);
      for (const { at, why } of [...service.refused, ...service.notes]) expect([typeof at, typeof why]).toEqual(['string', 'string']);
      read += service.operations.size;
      const operation = service.operationFor('post', '/bookings');
      if (operation) await operation.judgeRequest({ url: '/bookings', body: random.pick(ODD) as never });
    } catch (cause) {
      if (!(cause instanceof Fault)) throw new Error(`${JSON.stringify(document)}\n${(cause as Error).stack}`);
    }
  }
  expect(read).toBeGreaterThan(RUNS);
});

test('what refers to itself over and over is read in the end', () => {
  const properties = Object.fromEntries(Array.from({ length: 12 }, (_, at) => [`a${at}`, { $ref: '#/$defs/node' }]));
  const { refused } = intakesOf({ $defs: { node: { type: 'object', properties } } });
  expect([...new Set(refused.map(({ why }) => why))]).toEqual(['an intake has more than 5000 fields here']);
  const circle = intakesOf({ $defs: { a: { $ref: '#/$defs/b' }, b: { allOf: [{ $ref: '#/$defs/a' }] } } });
  expect(circle.refused.map(({ keyword }) => keyword)).toEqual(['$ref', '$ref']);
});
