import { openApiOf } from 'jestril/describe';
import { intakesOf, type JudgedExchange } from 'jestril/published';
import * as marina from '../../examples/marina/index.ts';
import { harbourApi } from '../support/harbour-api.ts';

const service = intakesOf(harbourApi);
const TRACE = '123e4567-e89b-42d3-a456-426614174000';
const CARD = { method: 'card', number: '12345678' };
const BOOKING = { berth: 'A1', arrives: '2031-05-01', payment: CARD };

/** What became of it in one line: what is not as described, or the values. */
function told({ outcome, findings, unread, verdicts }: JudgedExchange): unknown {
  if (unread !== undefined) return `${outcome}: ${unread}`;
  if (outcome === 'rejected')
    return findings.map(({ part, rule, places }) => `${rule} ${part}${places.map(({ pointer }) => pointer).join()}`);
  return Object.fromEntries(Object.entries(verdicts).map(([part, verdict]) => [part, (verdict as { value?: unknown }).value]));
}

type Sent = { readonly headers?: { readonly [name: string]: string }; readonly body?: unknown };

test.each<[what: string, method: string, url: string, sent: Sent, expected: unknown]>([
  [
    'parameters in all four places',
    'GET',
    '/berths/A1?fields=length,price',
    { headers: { 'X-Trace': TRACE, Cookie: 'session=abcd; other=1' } },
    { params: { code: 'A1' }, query: { fields: ['length', 'price'] }, headers: { 'x-trace': TRACE }, cookies: { session: 'abcd' } },
  ],
  [
    'what is wrong in each',
    'GET',
    '/berths/zz?fields=length,beam',
    { headers: { 'x-trace': 'zz' } },
    ['pattern params/code', 'readable query/fields/1', 'uuid headers/x-trace', 'needed cookies/session'],
  ],
  [
    'styles of a query',
    'GET',
    '/berths/free?pier=n%2C1&pier=s&size[length]=3&near=1|2.5&tags=a%20b&north=3&south=4',
    {},
    { query: { pier: ['n,1', 's'], size: { length: 3 }, near: [1, 2.5], tags: ['a', 'b'], box: { north: 3, south: 4 } } },
  ],
  ['styles of a path', 'GET', '/tides/.1,2;range=a;range=b', {}, { params: { at: [1, 2], range: ['a', 'b'] } }],
  ['the nearest path', 'GET', '/berths/free', {}, { query: {} }],
  [
    'an alternative by its mapped name',
    'POST',
    '/bookings',
    { body: { ...BOOKING, payment: { method: 'bill', to: 'ida@' } } },
    ['email body/payment/to'],
  ],
  ['a condition', 'POST', '/bookings', { body: { ...BOOKING, electric: true } }, ['needed body/plug']],
  ['its opposite', 'POST', '/bookings', { body: { ...BOOKING, electric: false, plug: '16A' } }, ['absent body/plug']],
  ['what is read only is not received', 'POST', '/bookings', { body: { ...BOOKING, id: 'x' } }, { body: BOOKING }],
  [
    'another media type',
    'POST',
    '/bookings',
    { headers: { 'content-type': 'application/x-www-form-urlencoded; charset=utf-8' }, body: 'name=Ida&nights=40&x=1' },
    ['stranger body/x', 'at-most body/nights'],
  ],
  [
    'one that is described and not read',
    'POST',
    '/bookings',
    { headers: { 'content-type': 'text/csv' }, body: 'a' },
    'undecided: Bodies of text/csv are not judged.',
  ],
  [
    'one that is not described',
    'POST',
    '/bookings',
    { headers: { 'content-type': 'text/xml' }, body: '<a/>' },
    'rejected: The body is text/xml, and application/json or application/x-www-form-urlencoded or text/csv is described.',
  ],
  ['no body', 'POST', '/bookings', {}, 'rejected: The body is missing.'],
  [
    'a file',
    'POST',
    '/certificates',
    {
      headers: { 'content-type': 'multipart/form-data; boundary=x' },
      body: formOf({ mark: 'PW-1', certificate: new File(['%PDF-'], 'a.pdf') }),
    },
    ['pattern body/mark'],
  ],
])('a request with %s', async (_what, method, url, sent, expected) => {
  const operation = service.operationFor(method, url);
  expect(told(await (operation as NonNullable<typeof operation>).judgeRequest({ url, ...sent }))).toEqual(expected);
});

function formOf(members: { readonly [name: string]: string | File }): FormData {
  const form = new FormData();
  for (const [name, value] of Object.entries(members)) form.append(name, value);
  return form;
}

test.each<[what: string, operation: string, answer: { status: number; body?: unknown }, expected: unknown]>([
  ['as described', 'readBerth', { status: 200, body: { code: 'A1', price: 3, id: 7 } }, { body: { code: 'A1', price: 3, id: 7 } }],
  [
    'of a circle',
    'readBerth',
    { status: 200, body: { code: 'A1', price: 3, beside: [{ code: 'A2', price: 0 }] } },
    ['above body/beside/0/price'],
  ],
  ['by the range of its status', 'readBerth', { status: 404, body: { title: 'Gone' } }, ['needed body/type']],
  ['that is a list', 'freeBerths', { status: 200, body: [{ code: 'A1' }] }, ['needed body/body/0/price']],
  ['of a status that is not described', 'freeBerths', { status: 500, body: {} }, 'rejected: The status 500 is none of 200.'],
  ['without what is only written', 'book', { status: 201, body: { ...BOOKING, gateCode: '4071' } }, { body: BOOKING }],
])('an answer %s', async (_what, operation, answer, expected) => {
  const headers = { 'content-type': answer.status < 400 ? 'application/json' : 'application/problem+json' };
  expect(told(await service.operation(operation).judgeAnswer({ headers, ...answer }))).toEqual(expected);
});

test('what is not supported is refused by name and place, and asked for says why', () => {
  expect(service.refused.map(({ of, at, keyword }) => `${of} ${keyword} ${at}`)).toEqual([
    'odd content #/paths/~1odd/get/parameters/0/content',
    'odd patternProperties #/paths/~1odd/get/responses/200/content/application~1json/schema/patternProperties',
  ]);
  expect(() => service.operation('odd')).toThrow(/^Operation "odd" cannot be read: #\/paths/);
  expect(() => service.operation('bok')).toThrow('The document has no operation "bok"; did you mean "book"?');
  expect(service.operationFor('DELETE', '/bookings')).toBeUndefined();
});

test.each<[schema: object, refused: string]>([
  [{ properties: { a: { minimum: 3, type: ['number', 'boolean'] } } }, 'type #/properties/a/minimum'],
  [{ properties: { a: { prefixItems: [] } } }, 'prefixItems #/properties/a/prefixItems'],
  [{ properties: { a: { $ref: '#/$defs/b' } } }, '$ref #/properties/a/$ref'],
  [{ properties: { a: { $ref: 'https://pellwick.example/b.json' } } }, '$ref #/properties/a/$ref'],
  [{ properties: { a: { type: 'string', pattern: '(a+)+$' } } }, 'pattern #/properties/a/pattern'],
  [{ properties: { a: { type: 'string', pattern: '(' } } }, 'pattern #/properties/a/pattern'],
  [{ properties: { a: { type: 'string', nullable: true } } }, 'nullable #/properties/a/nullable'],
  [
    {
      properties: {
        a: {
          oneOf: [
            { type: 'object', properties: {} },
            { type: 'object', properties: { b: { type: 'string' } } },
          ],
        },
      },
    },
    'oneOf #/properties/a/oneOf',
  ],
  [{ properties: { 'a.b': { type: 'string' } } }, 'schema #'],
  [{ properties: { a: { type: 'string' } }, patternProperties: {} }, 'patternProperties #/patternProperties'],
  [{ properties: { a: { allOf: [{ type: 'string' }, { type: 'number' }] } } }, 'type #/properties/a/allOf/1/type'],
  [{ required: ['b'], properties: { a: { type: 'string' } } }, 'required #'],
  [{ properties: { a: { $ref: '#/properties/a' } } }, '$ref #/properties/a'],
  [
    { $defs: { n: { type: 'object', required: ['n'], properties: { n: { $ref: '#/$defs/n' } } } }, $ref: '#/$defs/n' },
    '$ref #/$defs/n/properties/n',
  ],
])('%j is refused', (schema, refused) => {
  const { refused: all } = intakesOf({ type: 'object', ...schema });
  expect(all.filter(({ of }) => of === 'submission').map(({ at, keyword }) => `${keyword} ${at}`)).toEqual([refused]);
});

test('what an intake is described as is read as the same', async () => {
  const { document } = openApiOf({
    title: 'Marina',
    version: '1',
    routes: [{ method: 'post', path: '/orders', intake: marina.powerOrder }],
  });
  const read = intakesOf(document);
  expect(read.refused).toEqual([]);
  const operation = read.operation('post-power-order');
  for (const body of [{}, { berth: 'A1' }, { berth: 7, nights: 'x' }]) {
    const own = marina.powerOrder.judgeLocally(body, { report: 'everything' } as never);
    const { outcome } = await operation.judgeRequest({ url: '/orders', body });
    expect(outcome === 'rejected').toBe(own.outcome === 'rejected');
  }
});
