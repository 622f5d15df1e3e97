import { choice, flag, group, intake, length, list, oneOfShapes, shape, text, upload, whole } from 'jestril';
import { openApiOf, type Route } from 'jestril/describe';
import { intakesOf } from 'jestril/published';
import { routes } from '../../examples/marina/routes.ts';
import { Maker } from '../../src/made/index.ts';
import { accepts } from '../support/json-schema.ts';
import { wrongIn } from '../support/openapi.ts';

const page = intake('page', {
  at: whole('Page').orElse(1),
  pier: choice('Pier', ['north', 'south']).orAbsent(),
  size: group('Size', { length: whole('Length') }).orAbsent(),
});
const code = intake('code', { code: text('Code', length({ max: 3 })) });
const trace = intake('trace', { 'X-Trace': text('Trace') });
const paid = intake('paid', {
  payment: oneOfShapes('Payment', 'method', { card: shape({ number: text('Number') }), cash: shape({}) }),
  secret: text('Secret').secret(),
  terms: flag('Terms').leftOut(),
});
const sent = intake('sent', { crew: list('Crew', group('Member', { name: text('Name') })), file: upload('File').orAbsent() });

const ROUTES: readonly Route[] = [
  ...routes,
  {
    method: 'GET',
    path: '/berths/:code',
    intake: { params: code, query: page, headers: trace, cookies: trace },
    answers: { 200: paid, 304: undefined },
  },
  { method: 'put', path: '/berths/{code}', intake: { params: code, body: paid }, amends: true, operationId: 'replace' },
  { method: 'post', path: '/papers', intake: { body: paid, uploads: sent } },
  { method: 'delete', path: '/berths/{code}', intake: code, summary: 'Gone.', operationId: 'remove' },
];
const { document, unsaid } = openApiOf({ title: 'Desk', version: '1', routes: ROUTES, locale: 'de', fullFindings: true });

test('a document keeps to the standard', () => {
  expect(wrongIn(document)).toEqual([]);
  // And what does not is found.
  expect(wrongIn({ ...document, openapi: '3.0.0', extra: 1 })).toHaveLength(2);
  expect(unsaid.map(({ operation }) => operation)).toContain('patch-desk-booking');
});

test('its schemas take what its intakes accept', async () => {
  const { schemas } = (document as { components: { schemas: { [name: string]: object } } }).components;
  for (const made of [paid, ...routes.flatMap(({ intake: each }) => ('name' in each ? [each] : []))] as { readonly name: string }[]) {
    const { situation } = (await new Maker(made, { now: new Date('2031-04-20T08:00:00Z') }).accepted()) ?? {};
    const { certificate: _file, ...submission } = situation?.submission ?? {};
    expect(accepts(schemas[made.name] as never, submission)).toBe(true);
    expect(
      accepts(schemas[made.name] as never, { ...submission, ...Object.fromEntries(Object.keys(submission).map((key) => [key, []])) }),
    ).toBe(false);
  }
});

test('what it says of parameters, media types and answers', () => {
  const { paths } = document as {
    paths: {
      [path: string]: {
        [method: string]: { parameters: { in: string; name: string }[]; requestBody?: { content: object }; responses: object };
      };
    };
  };
  const of = (path: string, method: string) => paths[path]?.[method];
  expect(of('/berths/{code}', 'get')?.parameters.map((each) => `${each.in} ${each.name}`)).toEqual([
    'path code',
    'query at',
    'query pier',
    'query size',
    'header x-trace',
    'cookie X-Trace',
    'header Accept-Language',
  ]);
  expect(Object.keys(of('/bookings/{id}', 'patch')?.requestBody?.content ?? {})).toEqual([
    'application/merge-patch+json',
    'application/x-www-form-urlencoded',
  ]);
  expect(Object.keys(of('/vessels', 'post')?.requestBody?.content ?? {})).toEqual(['multipart/form-data']);
  expect(Object.keys(of('/bookings', 'post')?.responses ?? {})).toEqual(['201', '400', '401', '403', '413', '415', '422', '503']);
  expect(Object.keys(of('/berths/{code}', 'get')?.responses ?? {})).toEqual(['200', '304', '400', '422', '503']);
});

test('it is read again', async () => {
  const service = intakesOf(document);
  expect(service.refused).toEqual([]);
  const made = await new Maker(paid, {}).accepted();
  const judged = await service.operation('replace').judgeRequest({ url: '/berths/A1', body: made?.situation.submission });
  expect(judged.findings).toEqual([]);
  expect(judged.outcome).toBe('accepted');
});
