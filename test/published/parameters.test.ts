import fc from 'fast-check';
import { intakesOf } from 'jestril/published';

// What a client writes as OpenAPI 3.1 (4.8.12) says is read as what it meant, whatever signs are in it. By hand:
// JESTRIL_RANDOM=20000 npm test -- test/published/parameters.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 60);

type Boat = { readonly name: string; readonly pier: string };
type Meant = string | readonly string[] | Boat;
type Writer = (meant: Meant) => string;

/** Every sign but the unreserved ones of RFC 3986, so that what delimits is never part of a value. */
const escaped = (text: string) =>
  encodeURIComponent(text).replace(/[!'()*.~-]/g, (sign) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`);
/** As forms write it: a blank is a plus (WHATWG URL, 5.2). */
const asForms = (text: string) => escaped(text).replaceAll('%20', '+');
/** In a path a plus may stand for itself. */
const asPaths = (text: string) => escaped(text).replaceAll('%2B', '+');

const partsOf = (meant: Meant) => (typeof meant === 'string' ? [meant] : Array.isArray(meant) ? meant : Object.entries(meant).flat());
const pairsOf = (meant: Meant) =>
  Array.isArray(meant) ? meant.map((each) => ['p', each] as const) : Object.entries(meant as Boat).map((pair) => pair);

const joined =
  (delimiter: string, write = escaped, before = ''): Writer =>
  (meant) =>
    before + partsOf(meant).map(write).join(delimiter);
const paired =
  (delimiter: string, write = escaped, before = ''): Writer =>
  (meant) =>
    before +
    pairsOf(meant)
      .map(([key, value]) => `${key}=${write(value)}`)
      .join(delimiter);

type Place = 'path' | 'query' | 'header' | 'cookie';
const TEXT = ['string'];
const LIST = ['array'];
const BOAT = ['object'];
const ALL = [...TEXT, ...LIST, ...BOAT];

const STYLES: readonly (readonly [place: Place, style: string, explode: boolean, types: readonly string[], write: Writer])[] = [
  ['path', 'simple', false, ALL, joined(',', asPaths)],
  ['path', 'simple', true, BOAT, paired(',', asPaths)],
  ['path', 'label', false, TEXT, joined('', asPaths, '.')],
  ['path', 'label', true, LIST, joined('.', asPaths, '.')],
  ['path', 'label', true, BOAT, paired('.', asPaths, '.')],
  ['path', 'matrix', false, ALL, joined(',', asPaths, ';p=')],
  ['path', 'matrix', true, [...LIST, ...BOAT], paired(';', asPaths, ';')],
  ['query', 'form', false, ALL, joined(',', asForms, 'p=')],
  ['query', 'form', true, [...LIST, ...BOAT], paired('&', asForms)],
  ['query', 'form', true, TEXT, joined('', escaped, 'p=')],
  ['query', 'spaceDelimited', false, [...LIST, ...BOAT], joined('%20', escaped, 'p=')],
  ['query', 'pipeDelimited', false, [...LIST, ...BOAT], joined('|', escaped, 'p=')],
  ['cookie', 'form', false, ALL, joined(',', asPaths)],
];

const TYPES: { readonly [type: string]: object } = {
  string: { type: 'string' },
  array: { type: 'array', items: { type: 'string' } },
  object: { type: 'object', properties: { name: { type: 'string' }, pier: { type: 'string' } } },
};

// Blanks around a text are trimmed by its field, and an empty text is absent: both are other promises.
const inner = fc.string({ minLength: 1, maxLength: 8, unit: fc.constantFrom(...'ab1 +,.;=&|%/?#[]ąß"') }).map((text) => `x${text}y`);
const MEANT: { readonly [type: string]: fc.Arbitrary<Meant> } = {
  string: inner,
  array: fc.array(inner, { minLength: 1, maxLength: 4 }),
  object: fc.record({ name: inner, pier: inner }),
};

const cases = STYLES.flatMap(([place, style, explode, types, write]) => types.map((type) => [place, style, explode, type, write] as const));

test.each(cases)('%s %s, exploded %s: %s', async (place, style, explode, type, write) => {
  const isPath = place === 'path';
  const service = intakesOf({
    openapi: '3.1.0',
    info: { title: 'Harbour', version: '1' },
    paths: {
      [isPath ? '/berths/{p}' : '/berths']: {
        get: {
          operationId: 'see',
          parameters: [{ name: 'p', in: place, required: isPath, style, explode, schema: TYPES[type] }],
          responses: {},
        },
      },
    },
  });
  // Neither of these styles can say a value that has its delimiter, even escaped.
  const unsaid = { spaceDelimited: / /g, pipeDelimited: /\|/g }[style] ?? /(?!)/;
  await fc.assert(
    fc.asyncProperty(MEANT[type] as fc.Arbitrary<Meant>, async (any) => {
      const meant = JSON.parse(JSON.stringify(any), (_, each) => (typeof each === 'string' ? each.replace(unsaid, '-') : each)) as Meant;
      const text = write(meant);
      const url = isPath ? `/berths/${text}` : place === 'query' ? `/berths?${text}` : '/berths';
      const headers = place === 'cookie' ? { cookie: `p=${text}` } : {};
      const { outcome, verdicts } = await service.operation('see').judgeRequest({ url, headers });
      const [read] = Object.values(verdicts).map((verdict) => (verdict as { value?: { p: unknown } }).value?.p);
      expect([outcome, read]).toEqual(['accepted', meant]);
    }),
    { numRuns: RUNS },
  );
});
