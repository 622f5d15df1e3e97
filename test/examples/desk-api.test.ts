import { readFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { jest } from '@jest/globals';
import type { LogEntry } from 'jestril/express';
import { bookingDesk } from '../../examples/booking-desk/server/app.ts';
import { openStore, type Store } from '../../examples/booking-desk/server/store.ts';
import { larger, processorTime } from '../support/larger.ts';

let store: Store;
let server: Server;
let address: string;
const log: LogEntry[] = [];
beforeEach(async () => {
  log.length = 0;
  store = await openStore(':memory:', JSON.parse(readFileSync('examples/marina/data/records.json', 'utf8')));
  server = bookingDesk(store, { log: (entry) => log.push(entry) }).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterEach(async () => {
  server.closeAllConnections();
  server.close();
  await store.destroy().catch(() => undefined);
});

const data = (file: string) => readFileSync(`examples/marina/data/${file}`, 'utf8');
const booking = JSON.parse(data('bookings.ndjson').split('\n')[0] as string);
const form = { ...JSON.parse(data('form.json')), terms: 'on', power: '' } as Record<string, string>;
const PAGE = 'text/html,application/xhtml+xml,application/xml;q=0.9,*/*;q=0.8';
const guest = { authorization: 'Bearer 1' };

async function send(method: string, where: string, headers: Record<string, string>, body?: BodyInit) {
  const response = await fetch(address + where, { method, headers, redirect: 'manual', ...(body !== undefined && { body }) });
  const text = await response.text();
  const isJson = (response.headers.get('content-type') ?? '').includes('json');
  return { status: response.status, headers: response.headers, text, body: isJson ? JSON.parse(text) : undefined };
}
const sendJson = (method: string, where: string, value: unknown, headers: Record<string, string> = guest) =>
  send(method, where, { 'content-type': 'application/json', accept: 'application/json', ...headers }, JSON.stringify(value));
const book = (value: unknown, headers?: Record<string, string>) => sendJson('POST', '/bookings', value, headers);
const list = async () => (await (await fetch(`${address}/bookings`)).json()) as Record<string, unknown>[];

test('an accepted booking is kept and listed, its secret is not told', async () => {
  const { status, headers, body } = await book(booking);
  expect([status, headers.get('location')]).toEqual([201, '/?done=booked&id=503']);
  expect(body).toMatchObject({ id: 503, mark: 'PW-2040', lengthOverall: 11.2, crew: booking.crew });
  expect(JSON.stringify(body)).not.toContain(booking.gateCode);
  expect(await list()).toContainEqual({ id: 503, ownerId: 1, berth: 'A1', mark: 'PW-2040', arrives: '2031-05-14', departs: '2031-05-18' });
});

test('who sends it: programs are told with 401, browsers are led to the sign-in; bookings of others are not theirs to change', async () => {
  const anonymous = await book(booking, {});
  expect([anonymous.status, anonymous.headers.get('www-authenticate')]).toEqual([401, 'Bearer realm="Pellwick Marina"']);
  const browser = await send(
    'POST',
    '/bookings',
    { accept: PAGE, 'content-type': 'application/x-www-form-urlencoded' },
    'mark=PW-9&gateCode=4071',
  );
  expect([browser.status, browser.text.includes('value="PW-9"'), browser.text.includes('4071')]).toEqual([401, true, false]);
  const other = await book({ ...booking, mark: 'PW-3177', power: '16A' });
  expect(other.body.findings).toContainEqual({
    rule: 'marina/own-vessel',
    at: ['/mark'],
    message: 'Only the owner of PW-3177 can book for it.',
  });
  expect((await sendJson('PATCH', '/bookings/501', { notes: 'mine' }, { authorization: 'Bearer 2' })).status).toBe(403);
  expect((await sendJson('PATCH', '/bookings/999', { notes: 'none' })).status).toBe(404);
  expect((await sendJson('PATCH', '/bookings/501', { notes: 'office' }, { authorization: 'Bearer 90' })).status).toBe(200);
  const forged = await send('POST', '/bookings', { cookie: 'desk=1%3Ax%7Cforged', 'content-type': 'application/json' }, '{}');
  expect(forged.status).toBe(401);
});

test('a form without a script: what was typed comes back with the findings, never secrets; then a redirect', async () => {
  const headers = { ...guest, accept: PAGE, 'content-type': 'application/x-www-form-urlencoded' };
  const rejected = await send('POST', '/bookings', headers, new URLSearchParams({ ...form, lengthOverall: '14.5"><script>' }).toString());
  expect(rejected.status).toBe(422);
  expect(rejected.text).toContain('value="14.5&quot;&gt;&lt;script&gt;"');
  expect(rejected.text).toContain('id="finding-lengthOverall-0" lang="en">Length overall must be a number, such as 12.5.</p>');
  expect(rejected.text).toMatch(/name="lengthOverall"[^>]*aria-invalid="true"/);
  expect(rejected.text).not.toContain('4071');
  expect(rejected.text).toContain('<code>marina/fits-berth@lengthOverall</code> not asked: a value is not right by itself');
  const german = await send(
    'POST',
    '/bookings',
    { ...headers, cookie: 'language=de' },
    new URLSearchParams({ ...form, lengthOverall: '14.5' }).toString(),
  );
  expect(german.text).toContain('Ein Boot von 14,5 m passt nicht');
  const accepted = await send('POST', '/bookings', headers, new URLSearchParams(form).toString());
  expect([accepted.status, accepted.headers.get('location')]).toEqual([303, '/?done=booked&id=503']);
});

test('without a script there are two rows of the crew, a blank one is not there, and a button adds more', async () => {
  const headers = { ...guest, accept: PAGE, 'content-type': 'application/x-www-form-urlencoded' };
  const rowsIn = (text: string) => [...text.matchAll(/name="crew\.(\d+)\.name"/g)].map(([, row]) => Number(row));
  const drawn = await send('GET', '/bookings/new', headers);
  expect([rowsIn(drawn.text), drawn.text.includes('formaction="/bookings/new" formnovalidate')]).toEqual([[0, 1], true]);
  expect(drawn.text).not.toMatch(/name="crew\.1\.name"[^>]*required/);
  const typed = { ...form, 'crew.1.name': '', 'crew.1.born': '', 'crew.7.name': 'Bo <b>' };
  const more = await send('POST', '/bookings/new', headers, new URLSearchParams(typed).toString());
  expect([more.status, rowsIn(more.text), more.text.includes('value="Bo &lt;b&gt;"'), more.text.includes('4071')]).toEqual([
    200,
    [0, 1, 7, 8],
    true,
    false,
  ]);
  const many = Object.fromEntries(Array.from({ length: 30 }, (_, row) => [`crew.${row}.name`, 'x']));
  expect(rowsIn((await send('POST', '/bookings/new', headers, new URLSearchParams(many).toString())).text)).toHaveLength(12);
  const blank = { ...form, 'crew.1.name': ' ', 'crew.1.born': '' };
  expect((await send('POST', '/bookings', headers, new URLSearchParams(blank).toString())).status).toBe(303);
  const own = await send('POST', '/bookings/503/rows', headers, new URLSearchParams(form).toString());
  expect([own.status, rowsIn(own.text), own.text.includes('action="/bookings/503"')]).toEqual([200, [0, 1], true]);
  const others = await send('POST', '/bookings/503/rows', { ...headers, authorization: 'Bearer 2' }, 'mark=x');
  expect([others.status, others.headers.get('location')]).toEqual([302, '/']);
  expect((await send('POST', '/bookings/new', { ...headers, 'sec-fetch-site': 'cross-site' }, 'mark=x')).status).toBe(403);
});

test('a booking is changed: only what changes is judged, the booking itself does not count, nights follow', async () => {
  const id = (await book(booking)).body.id as number;
  const change = (value: object) => sendJson('PATCH', `/bookings/${id}`, value);
  expect((await change({ departs: '2031-05-17' })).body).toEqual({ id, changed: ['departs'] });
  expect((await change({ arrives: '2031-05-13' })).body.findings).toMatchObject([{ rule: 'marina/berth-free' }]);
  expect((await change({ gateCode: '1234' })).body.findings).toMatchObject([{ rule: 'needed', at: ['/gateCodeAgain'] }]);
  const other = { ...booking, arrives: '2031-05-17', departs: '2031-05-18' };
  expect((await book(other)).status).toBe(201);
});

test('ten guests want one berth at once: one has it, nine are told so, nobody gets an error', async () => {
  const answers = await Promise.all(Array.from({ length: 10 }, () => book(booking)));
  expect(answers.map(({ status }) => status).sort()).toEqual([
    201,
    ...new Array(9).fill(answers.some(({ status }) => status === 409) ? 409 : 422),
  ]);
  for (const { status, body } of answers)
    if (status !== 201) expect(body.findings).toMatchObject([{ rule: 'marina/berth-free', at: ['/berth', '/arrives', '/departs'] }]);
  expect((await list()).filter(({ arrives }) => arrives === booking.arrives)).toHaveLength(1);
});

test('an account, a vessel with its certificate, an order from a query string', async () => {
  const account = {
    name: 'Liv Aas',
    contact: { email: 'liv@fjordmail.example' },
    born: '1990-01-01',
    passphrase: 'twelve gulls',
    passphraseAgain: 'twelve gulls',
    terms: true,
  };
  const made = await sendJson('POST', '/sign-up', account, {});
  expect([made.status, made.body]).toEqual([201, { id: 3, name: 'Liv Aas' }]);
  expect(made.headers.get('set-cookie')).toMatch(/(?:^|, )desk=[^,]*HttpOnly; SameSite=Lax$/);
  expect((await sendJson('POST', '/sign-up', { ...account, contact: { email: 'LIV@fjordmail.example' } }, {})).body.findings).toMatchObject(
    [{ rule: 'unique', at: ['/contact/email'] }],
  );
  const { phrase } = await store.selectFrom('owners').select('phrase').where('id', '=', 3).executeTakeFirstOrThrow();
  expect(phrase).toMatch(/^[0-9a-f]{32}:[0-9a-f]{64}$/);

  const vessel = new FormData();
  const fields = {
    mark: 'PW-7000',
    name: 'Tern',
    lengthOverall: '6',
    beam: '2',
    insuredUntil: '2041-04-20',
    'skipper.email': 'liv@fjordmail.example',
  };
  for (const [name, value] of Object.entries(fields)) vessel.append(name, value);
  expect((await send('POST', '/vessels', guest, vessel)).body.findings).toMatchObject([{ rule: 'needed', at: ['/certificate'] }]);
  vessel.append('certificate', new File(['%PDF'], 'proof.pdf', { type: 'application/pdf' }));
  const registered = await send('POST', '/vessels', guest, vessel);
  expect(registered.status).toBe(201);
  const kept = await store.selectFrom('vessels').select(['name', 'certificate']).where('mark', '=', 'PW-7000').executeTakeFirstOrThrow();
  expect([kept.name, Buffer.from(kept.certificate as Buffer).toString()]).toEqual(['Tern', '%PDF']);
  // It goes out as it came in, to be saved, to those whose it is.
  const certificate = await send('GET', `/vessels/${registered.body.id}/certificate`, guest);
  const { headers: told } = certificate;
  expect([certificate.text, told.get('content-type'), told.get('content-disposition'), told.get('x-content-type-options')]).toEqual([
    '%PDF',
    'application/pdf',
    'attachment; filename=PW-7000.pdf',
    'nosniff',
  ]);
  for (const headers of [{}, { authorization: 'Bearer 2' }] as Record<string, string>[])
    expect((await send('GET', `/vessels/${registered.body.id}/certificate`, headers)).headers.get('location')).toBe('/');
  const page = new FormData();
  for (const [name, value] of vessel) if (name !== 'certificate') page.append(name, name === 'mark' ? 'PW-7002' : value);
  page.append('certificate', new File(['\x89PNG\r\n<html><script>alert(1)</script>'], 'proof.png', { type: 'image/png' }));
  expect((await send('POST', '/vessels', { ...guest, 'accept-language': 'de' }, page)).body.findings).toMatchObject([
    {
      rule: 'file-content',
      at: ['/certificate'],
      message: 'Versicherungsnachweis ist nicht, was er sein soll; bitte als PDF, PNG oder JPEG senden.',
    },
  ]);
  // One that comes in many pieces is stored as well.
  const large = new FormData();
  for (const [name, value] of vessel) if (name !== 'certificate') large.append(name, name === 'mark' ? 'PW-7001' : value);
  large.append('certificate', new File([`%PDF${'x'.repeat(400_000)}`], 'proof.pdf', { type: 'application/pdf' }));
  expect((await send('POST', '/vessels', guest, large)).status).toBe(201);
  const whole = await store.selectFrom('vessels').select('certificate').where('mark', '=', 'PW-7001').executeTakeFirstOrThrow();
  expect(Buffer.from(whole.certificate as Buffer).length).toBe(400_004);

  const order = 'mark=PW-7000&plug=16A&amount=3&price=0.01&limit=2&contact.email=liv@fjordmail.example';
  expect((await send('GET', `/power?${order}`, { accept: 'application/json' })).body).toEqual({ total: '1.26' });
  expect((await send('GET', `/power?${order}&mark=PW-2040`, { accept: 'application/json' })).body.findings).toMatchObject([
    { rule: 'readable', at: ['/mark'] },
  ]);
  expect(
    (await send('POST', '/power', { accept: PAGE, 'content-type': 'application/x-www-form-urlencoded' }, order)).headers.get('location'),
  ).toBe('/?done=ordered&id=1');
});

test('a store that is gone: 503 with Retry-After, nothing of the cause in the answer; the log has ids and no values', async () => {
  const quiet = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  await store.destroy();
  const { status, headers, text } = await book(booking);
  expect([status, headers.get('retry-after'), headers.get('content-type')]).toEqual([503, '5', 'application/problem+json']);
  expect(text).not.toMatch(/sqlite|destroyed|driver/i);
  expect(log).toMatchObject([
    {
      intake: 'desk-booking',
      outcome: 'undecided',
      status: 503,
      unsettled: [{ use: 'records', why: 'unavailable' }],
    },
  ]);
  expect(JSON.stringify(log)).not.toMatch(/PW-2040|4071/);
  expect((await send('GET', '/', { accept: PAGE })).text).toContain('The desk is closed for a moment.');
  quiet.mockRestore();
});

test('addresses that lead nowhere, and a language that leads away', async () => {
  expect((await send('GET', '/nowhere', { accept: PAGE })).status).toBe(404);
  expect((await send('GET', '/language/de?to=//elsewhere.example', {})).headers.get('location')).toBe('/');
  expect((await send('GET', '/language/de?to=/power', {})).headers.get('set-cookie')).toContain('language=de');
});

test('every answer is guarded; nobody is sent elsewhere, and no other site signs anybody in', async () => {
  const first = await send('GET', '/', {});
  const policy = first.headers.get('content-security-policy') ?? '';
  for (const part of ["default-src 'self'", "frame-ancestors 'none'", "base-uri 'none'"]) expect(policy).toContain(part);
  expect([first.headers.get('x-content-type-options'), first.headers.get('referrer-policy')]).toEqual(['nosniff', 'same-origin']);
  expect(first.headers.get('set-cookie')).toMatch(/^visit=[\w-]{36}; Path=\/; HttpOnly; SameSite=Lax$/);
  const to = async (where: string) => (await send('GET', `/language/de?to=${encodeURIComponent(where)}`, {})).headers.get('location');
  for (const evil of ['//evil.example', '/\\evil.example', '/\t/evil.example', 'https://evil.example', '/..//evil.example', 'x'])
    expect([evil, await to(evil)]).toEqual([evil, '/']);
  expect(await to('/bookings/1?x=1')).toBe('/bookings/1?x=1');
  const form = { 'content-type': 'application/x-www-form-urlencoded' };
  for (const other of [{ 'sec-fetch-site': 'cross-site' }, { origin: 'https://evil.example' }, { origin: 'null' }])
    for (const path of ['/sign-in', '/sign-up', '/bookings', '/power'])
      expect((await send('POST', path, { ...form, ...other }, 'id=1')).status).toBe(403);
  expect((await send('POST', '/sign-in', { ...form, 'sec-fetch-site': 'same-origin' }, 'id=1')).status).toBe(302);
  for (const cookie of ['desk=%E0%A4%A', 'desk=1|', 'visit=x; desk=%', '=;;%'])
    expect((await send('GET', '/bookings/new', { cookie, accept: 'text/html' })).status).toBeLessThan(500);
});

test('a form that asks by its query is shown again with what was typed', async () => {
  const query = 'mark=PW-2040&plug=16A&amount=40&limit=20&contact.email=ida@fjordmail.example';
  for (const [asked, status] of [
    [query, 200],
    [query.replace('40&', 'x&'), 422],
  ] as const) {
    const shown = await send('GET', `/power?${asked}`, { ...guest, accept: 'text/html' });
    expect([shown.status, shown.text.includes('value="ida@fjordmail.example"')]).toEqual([status, true]);
  }
});

test('the panel shows a visitor their own requests, and nobody else', async () => {
  const page = { 'content-type': 'application/x-www-form-urlencoded', accept: 'text/html', 'user-agent': 'one and the same' };
  const visit = (await send('GET', '/', page)).headers.get('set-cookie')?.split(';')[0] as string;
  await send('POST', '/sign-up', { ...page, cookie: visit }, 'name=Liv+of+the+north');
  expect((await send('GET', '/panel', { ...page, cookie: visit })).text).toContain('Liv of the north');
  expect((await send('GET', '/panel', page)).text).not.toContain('Liv of the north');
});

test('whether an address is taken is told seldom enough', async () => {
  const app = bookingDesk(store, { attempts: 3 }).listen(0, '127.0.0.1');
  await new Promise((resolve) => app.once('listening', resolve));
  const check = () =>
    fetch(`http://127.0.0.1:${(app.address() as AddressInfo).port}/sign-up/check`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{}',
    });
  const statuses: number[] = [];
  for (let times = 0; times < 4; times++) statuses.push((await check()).status);
  const late = await check();
  expect([statuses, Number(late.headers.get('retry-after')) > 50, (await late.json()).status]).toEqual([[422, 422, 422, 429], true, 429]);
  app.closeAllConnections();
  app.close();
});

test.each<[where: string, fields: string[], rows: [string, string][]]>([
  ['/sign-up', ['contact.email'], []],
  ['/vessels', ['mark'], []],
  ['/bookings', ['crew'], [['crew', 'name']]],
  ['/bookings/501', ['arrives'], [['crew', 'name']]],
  ['/power', ['plug'], []],
])('one odd thing, as large as it may be, costs %s no more than its size, and draws no more', async (where, fields, rows) => {
  const slow: unknown[] = [];
  for (const signedIn of [{}, guest])
    for (const { what, headers, body } of larger(fields, rows, 99_000)) {
      let answer = { status: 0, text: '' };
      const took = await processorTime(async () => {
        answer = await send('POST', where, { accept: PAGE, ...signedIn, ...headers }, body);
      });
      if (took > 900 || answer.text.length > 1_500_000 || answer.status >= 500) slow.push([what, took, answer.text.length, answer.status]);
    }
  expect(slow).toEqual([]);
});
