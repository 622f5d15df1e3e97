import { jest } from '@jest/globals';
import { collection, day, equals, flag, inOrder, intake, known, length, needed, text, whole } from 'jestril';
import { de, pl } from 'jestril/catalogues';
import { type LogEntry, receive } from 'jestril/fetch';
import { memoryRecords } from 'jestril/memory';
import { receive as receivePlain } from 'jestril/request';

const berths = collection('berths', { code: text }, { key: 'code' });
const stay = intake(
  'stay',
  { berth: text('Berth', length({ max: 3 })), from: day('From'), to: day('To'), note: text('Note').orAbsent() },
  { catalogues: [de, pl], rules: [inOrder({ earlier: 'from', later: 'to' }), known(berths, { code: 'berth' })] },
);
const records = memoryRecords({ berths: [{ code: 'A1' }] });
const good = { berth: 'A1', from: '2031-05-01', to: '2031-05-02' };

const request = (body: unknown, headers: object = {}, method = 'POST') =>
  new Request('http://localhost/', { method, body: JSON.stringify(body), headers: { 'content-type': 'application/json', ...headers } });
async function problem(response: Promise<Response>) {
  const answer = await response;
  return { status: answer.status, headers: answer.headers, body: await answer.json() };
}

test('types, statuses and the time to wait by kind', async () => {
  const types = { rejected: 'https://pellwick.example/problems/rejected' };
  const wanting = receive(
    stay,
    { records: { ask: () => Promise.reject(new Error('down')) }, types, statuses: { rejected: 400, undecided: 500 }, retryAfter: 30 },
    () => undefined,
  );
  expect(await problem(wanting(request({ ...good, to: '2031-04-01' })))).toMatchObject({
    status: 400,
    body: { type: types.rejected, status: 400 },
  });
  const { status, headers } = await problem(wanting(request(good)));
  expect([status, headers.get('retry-after')]).toEqual([500, '30']);
});

test('the language: of the header among those that are spoken, of the call, or the first', async () => {
  const said = async (options: object, header?: string) => {
    const { body, headers } = await problem(
      receive(
        stay,
        { records, ...options },
        () => undefined,
      )(request({ ...good, to: '2031-04-01' }, header ? { 'accept-language': header } : {})),
    );
    return [headers.get('content-language'), body.title, body.findings[0].message];
  };
  expect(await said({})).toEqual(['en', 'Some of this cannot be accepted as it is.', 'To must be after From.']);
  expect(await said({}, 'fr, pl;q=0.5, de;q=0.2')).toEqual([
    'pl',
    'Części danych nie można przyjąć w tej postaci.',
    expect.stringContaining('To'),
  ]);
  expect((await said({ languages: ['de', 'en'] }, 'pl'))[0]).toBe('de');
  expect((await said({ locale: () => 'de' }, 'pl'))[0]).toBe('de');
  expect((await said({}, `${'x'.repeat(2000)}, de`))[0]).toBe('en');
});

test('report, limits and records for each request', async () => {
  const asked: string[] = [];
  const options = {
    report: 'everything',
    limits: { bytes: 90 },
    records: ({ params }: { readonly params: { readonly [name: string]: string } }) => {
      asked.push(params.marina as string);
      return records;
    },
  } as const;
  const all = receive(stay, options, () => undefined);
  const { body } = await problem(all(request({ ...good, berth: 'Z9', to: '2031-04-01' }), { marina: 'pellwick' }));
  expect(body.findings.map(({ rule }: { rule: string }) => rule)).toEqual(['known', 'in-order']);
  expect(asked).toEqual(['pellwick']);
  expect((await all(request({ ...good, note: 'x'.repeat(90) }))).status).toBe(413);
});

test('PUT takes the whole, PATCH a merge patch; what was changed is told', async () => {
  const owners = collection('owners', { id: whole }, { key: 'id' });
  const owner = intake('owner', { name: text('Name'), note: text('Note').orAbsent() }, { storedIn: owners });
  const amends = () => ({ stored: { name: 'Ida', note: 'kept' }, itself: { id: 1 } });
  const change = receive(owner, { amends }, (value, { changed }) => ({ body: { value, changed } }));
  expect((await problem(change(request({ name: 'Bo' }, {}, 'PATCH')))).body).toEqual({
    value: { name: 'Bo', note: 'kept' },
    changed: ['name'],
  });
  expect((await problem(change(request({ name: 'Ida' }, {}, 'PUT')))).body).toEqual({ value: { name: 'Ida' }, changed: ['note'] });
});

test('boxes that a form showed, records given as a whole, and uses on trial in the log and nowhere else', async () => {
  const form = intake(
    'form',
    { terms: flag('Terms').orElse(true), note: text('Note').orAbsent(), n: whole('N').orElse(1) },
    { rules: [needed('note', { trial: true, as: 'noted' }), needed('note', { when: equals({ n: 9 }) })] },
  );
  const log: LogEntry[] = [];
  const options = { shown: ['terms'], log: (entry: LogEntry) => void log.push(entry) };
  const sent = new Request('http://localhost/', { method: 'POST', body: new URLSearchParams({ n: '2' }) });
  expect(await (await receive(form, options, (value) => ({ body: value }))(sent)).json()).toEqual({ terms: false, n: 2 });
  expect(log[0]).toMatchObject({ outcome: 'accepted', trials: [{ use: 'noted', outcome: 'failed' }] });
  const change = (complete: boolean) =>
    receive(form, { ...options, amends: () => ({ stored: { terms: true, n: 1 }, itself: {}, complete }) }, () => ({ body: {} }))(
      request({ n: 9 }, {}, 'PATCH'),
    );
  expect([(await change(false)).status, (await problem(change(true))).body.findings]).toEqual([
    503,
    [expect.objectContaining({ rule: 'needed', at: ['/note'] })],
  ]);
  expect(JSON.stringify(await (await change(true)).json())).not.toContain('noted');
});

test('an answer that does not match its intake: refused with a reason, dropped without one, or only logged', async () => {
  const sends = intake('sent', { id: whole('Number') });
  const log: LogEntry[] = [];
  const unfit = async (how: 'refuse' | 'drop' | 'log') => {
    const { status, body } = await problem(
      receive(stay, { records, sends, unfit: how, log: (entry) => log.push(entry) }, () => ({ body: { id: 'x', secret: 1 } }))(
        request(good),
      ),
    );
    return [status, body.detail ?? body];
  };
  expect(await unfit('refuse')).toEqual([500, 'The answer does not match "sent". readable@id: Number must be a whole number, such as 12.']);
  expect(await unfit('drop')).toEqual([500, { type: 'about:blank', title: 'The answer could not be given.', status: 500 }]);
  expect(await unfit('log')).toEqual([200, { id: 'x', secret: 1 }]);
  expect(log.filter(({ outcome }) => outcome === 'unfit-answer').map(({ intake: name, status }) => [name, status])).toEqual([
    ['sent', 500],
    ['sent', 500],
    ['sent', 200],
  ]);
});

test('a body that was read by somebody else before is the application’s fault', async () => {
  const read = request(good);
  await read.text();
  await expect(receive(stay, { records }, () => undefined)(read)).rejects.toThrow('hand `receive` the request as it came');
});

test('a body that is too large or too slow is not read on: the connection ends with the answer', async () => {
  const doorOf = (limits: object) => receive(stay, { records, limits }, () => undefined);
  const answered = async (limits: object, body: ReadableStream | string) => {
    const sent = { method: 'POST', body, duplex: 'half', headers: { 'content-type': 'application/json' } };
    const { status, headers } = await doorOf(limits)(new Request('http://localhost/', sent as RequestInit));
    return [status, headers.get('connection')];
  };
  expect(await answered({ bytes: 10 }, JSON.stringify(good))).toEqual([413, 'close']);
  expect(await answered({ seconds: 0.02 }, new ReadableStream({ pull: () => new Promise(() => undefined) }))).toEqual([408, 'close']);
  expect(await answered({}, '{')).toEqual([400, null]);
  expect(() => doorOf({ milliseconds: 20 })).toThrow(
    'limits has no option "milliseconds"; there are: bytes, depth, keys, name, parts, fileBytes, seconds.',
  );
  for (const bytes of ['90', 90n, Number.NaN, 0, null])
    expect(() => doorOf({ bytes })).toThrow('limits: bytes is a number above 0, and not');
});

describe('the log', () => {
  const seen: { entry: LogEntry; about: { caller: unknown; error?: unknown } }[] = [];
  const lines = () => seen.splice(0).map(({ entry: { outcome, status, detail } }) => [outcome, status, detail]);
  const log = (entry: LogEntry, about: { caller: unknown }) => void seen.push({ entry, about });
  const caller = (asked: Request) => {
    const who = asked.headers.get('who');
    if (who === 'broken') throw new Error('The directory is away.');
    return who ?? undefined;
  };
  const ask = async (method: string, body: unknown, headers: object = { who: 'ida' }, handler: () => object | undefined = () => ({})) => {
    const sent = {
      method,
      headers: { 'content-type': 'application/json', ...headers },
      body: typeof body === 'string' ? body : JSON.stringify(body),
    };
    const handle = receive(stay, { records, caller, allows: ({ caller }) => caller !== 'bo', log }, handler as never);
    return handle(new Request('http://localhost/stays/7?secret=1', sent)).catch((error?: Error) => error?.message);
  };

  test('one entry for each request, whatever becomes of it, once its answer is known', async () => {
    await ask('POST', good);
    await ask('POST', good, undefined, () => ({ status: 409 }));
    await ask('POST', {});
    await ask('OPTIONS', good);
    await ask('DELETE', good);
    await ask('POST', good, {});
    await ask('POST', good, { who: 'bo' });
    await ask('POST', '{"a":1,"a":2}');
    await ask('POST', '', { who: 'ida', 'content-type': 'text/\u0001csv\u00ad' }).catch(() => undefined);
    await ask('POST', good, { who: 'broken' });
    await ask('POST', good, undefined, () => {
      throw new Error('broken');
    });
    await ask('POST', good, undefined, () => Promise.reject(undefined)).catch(() => undefined);
    const told = seen.map(({ about }) => [about.caller, (about.error as Error | undefined)?.message]);
    expect(lines()).toEqual([
      ['accepted', 204, undefined],
      ['accepted', 409, undefined],
      ['rejected', 422, undefined],
      ['options', 204, undefined],
      ['wrong-method', 405, undefined],
      ['unknown-caller', 401, undefined],
      ['not-allowed', 403, undefined],
      ['unreadable', 400, 'The body names a member of an object twice.'],
      ['unreadable', 415, expect.stringMatching(/^[\x20-\x7e]*$/)],
      ['error', undefined, undefined],
      ['error', undefined, undefined],
      ['error', undefined, undefined],
    ]);
    expect([told[0], told.at(-3), told.at(-2)]).toEqual([
      ['ida', undefined],
      [undefined, 'The directory is away.'],
      ['ida', 'broken'],
    ]);
  });

  test('what a sender has written is on one line, short, or not in it', async () => {
    await ask('POST', good, { who: 'ida', 'x-request-id': 'desk-7:4' });
    await ask('POST', good, { who: 'ida', 'x-request-id': 'a b\u00e9' });
    const [own, odd] = seen.splice(0).map(({ entry }) => entry);
    expect([own?.id, own?.route, own?.method, own?.size]).toEqual(['desk-7:4', '/stays/7', 'POST', JSON.stringify(good).length]);
    expect(odd?.id).toMatch(/^[\da-f-]{36}$/);
    const plain = receivePlain(intake('open', {}), { log: (entry) => log(entry, { caller: '' }) }, () => ({}));
    await plain({ method: 'POST', url: `/\u001b]0;x\u0007\n\u202e${'a'.repeat(900)}?x`, headers: {} });
    await plain({ method: 'POST', url: '/x', headers: {}, route: '/:any' });
    expect(seen.splice(0).map(({ entry }) => entry.route)).toEqual([`/?]0;x???${'a'.repeat(191)}`, '/:any']);
  });

  test('a log that throws, or rejects, changes nothing, and is told of once', async () => {
    const warned = jest.spyOn(process, 'emitWarning').mockImplementation(() => undefined);
    for (const broken of [() => Promise.reject(new Error('full')), () => fault(), () => Object.fromEntries([['then', fault]])]) {
      const answer = await receive(stay, { records, log: broken }, () => ({ status: 200 }))(request(good));
      expect(answer.status).toBe(200);
    }
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(warned.mock.calls.map(([said]) => said)).toEqual(['The option "log" of receive has failed, and its entries are lost: full']);
    warned.mockRestore();
  });
});

function fault(): never {
  throw new Error('full');
}
