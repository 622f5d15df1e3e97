import { readFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { jest } from '@jest/globals';
import { bookingDesk } from '../../examples/booking-desk/server/app.ts';
import { openStore, type Store } from '../../examples/booking-desk/server/store.ts';

let store: Store;
let server: Server;
let address: string;
beforeEach(async () => {
  store = await openStore(':memory:', JSON.parse(readFileSync('examples/marina/data/records.json', 'utf8')));
  server = bookingDesk(store).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api/bookings`;
});
afterEach(async () => {
  server.closeAllConnections();
  server.close();
  await store.destroy().catch(() => undefined);
});

const data = (file: string) => readFileSync(`examples/marina/data/${file}`, 'utf8');
const booking = JSON.parse(data('bookings.ndjson').split('\n')[0] as string);
const form = { ...JSON.parse(data('form.json')), terms: 'on', power: '' };

async function send(body: BodyInit | undefined, type?: string) {
  const response = await fetch(address, {
    method: 'POST',
    ...(body !== undefined && { body }),
    ...(type && { headers: { 'content-type': type } }),
  });
  return {
    status: response.status,
    type: response.headers.get('content-type'),
    headers: response.headers,
    body: (await response.json()) as Record<string, unknown>,
  };
}
const sendJson = (value: unknown) => send(JSON.stringify(value), 'application/json');
const list = async () => (await (await fetch(address)).json()) as Record<string, unknown>[];

test('an accepted booking is kept and listed, its secret is not told', async () => {
  const { status, headers, body } = await sendJson(booking);
  expect([status, headers.get('location')]).toEqual([201, '/api/bookings/503']);
  expect(body).toEqual({
    id: 503,
    mark: 'PW-2040',
    lengthOverall: 11.2,
    beam: 3.6,
    berth: 'A1',
    arrives: '2031-05-14',
    departs: '2031-05-18',
    crew: booking.crew,
  });
  expect(await list()).toContainEqual({
    id: 503,
    berth: 'A1',
    mark: 'PW-2040',
    arrives: '2031-05-14',
    departs: '2031-05-18',
    power: null,
    guests: 1,
  });
});

test('a form says the same', async () => {
  expect(await send(new URLSearchParams(form))).toMatchObject({
    status: 201,
    body: { id: 503, lengthOverall: 11.2, beam: 3.6, crew: booking.crew },
  });
});

test('a rejected booking comes back as problem details that a program can use', async () => {
  const { status, type, body } = await sendJson({ ...booking, lengthOverall: 14.5, gateCodeAgain: '4072' });
  expect([status, type]).toEqual([422, 'application/problem+json; charset=utf-8']);
  expect(body).toEqual({
    type: 'about:blank',
    title: 'The booking cannot be made as it is.',
    status: 422,
    more: false,
    findings: [
      {
        rule: 'marina/fits-berth',
        pointers: ['/lengthOverall', '/berth'],
        facts: { berth_value: 'A1', length_value: 14.5, found_maxLength: 12 },
        message: 'A vessel of 14.5 m does not fit berth A1, which takes up to 12 m.',
      },
      { rule: 'same', pointers: ['/gateCodeAgain'], facts: {}, message: 'Gate code again must be the same as Gate code.' },
    ],
  });
});

test('the caller comes from the desk, whatever is sent', async () => {
  const { body } = await sendJson({ ...booking, departs: '2031-07-30', caller: { id: 1, staff: true } });
  expect(body.findings).toMatchObject([{ rule: 'marina/stay-of' }]);
});

test('of many that want one berth at once, one gets it', async () => {
  const answers = await Promise.all(Array.from({ length: 25 }, () => sendJson(booking)));
  expect(answers.filter(({ status }) => status === 201)).toHaveLength(1);
  expect(answers.filter(({ status }) => status === 422)).toHaveLength(24);
  expect((await list()).filter(({ berth, arrives }) => berth === 'A1' && arrives === '2031-05-14')).toHaveLength(1);
});

test.each([
  ['no JSON', '{"mark":', 'application/json', 400],
  ['null', 'null', 'application/json', 422],
  ['a list', '[]', 'application/json', 422],
  ['nothing', undefined, undefined, 415],
  ['another type', 'a,b', 'text/csv', 415],
  ['too much', `"${'x'.repeat(200_000)}"`, 'application/json', 413],
  ['another charset', '{}', 'application/json; charset=iso-8859-1', 415],
])('%s is answered with a problem', async (_what, body, type, status) => {
  expect(await send(body, type)).toMatchObject({ status, type: 'application/problem+json; charset=utf-8', body: { status } });
});

test('a store that is down is 503, and nobody is blamed', async () => {
  const errors = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  await store.schema.dropTable('berthNights').execute();
  await store.schema.dropTable('bookings').execute();
  const { status, headers, body } = await sendJson(booking);
  expect([status, headers.get('retry-after'), body.findings]).toEqual([503, '5', undefined]);
  expect(errors.mock.calls.flat()).toContain('Not decided: marina/berth-free@berth, unavailable');
  expect(errors.mock.calls.flat().join()).not.toMatch(/no such table|4071/);
  errors.mockRestore();
});
