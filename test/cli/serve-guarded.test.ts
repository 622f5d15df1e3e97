import { existsSync, mkdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import fc from 'fast-check';
import { commandIn } from '../support/command.ts';
import { asked, GOOD as good, MODULE, type Served, served, SETTINGS as settings } from '../support/workbench.ts';

// Whoever is not meant to use a workbench, and whatever nobody should ask it. By hand: JESTRIL_RANDOM=2000 npm test -- test/cli/serve-guarded.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 60);

const { folder, file } = commandIn();
const module = file('own/quay.ts', MODULE);
const PATHS = [
  ['GET', ''],
  ['GET', '?key=guessed'],
  ['GET', 'api/module'],
  ['GET', 'assets/index.js'],
  ['POST', 'api/call/judge'],
  ['GET', 'api/cases'],
  ['POST', 'api/cases'],
  ['POST', 'door/guessed/booking'],
] as const;

let bench: Served;
beforeAll(async () => {
  bench = await served(module);
});
afterAll(() => bench?.close());

/** A request as it is written, which no client does for one. */
const raw = (lines: readonly string[]) =>
  new Promise<string>((resolve) => {
    const socket = connect(Number(new URL(bench.url).port), '127.0.0.1', () =>
      socket.write(`${lines.join('\r\n')}\r\nConnection: close\r\n\r\n`),
    );
    let text = '';
    socket.on('data', (bytes) => {
      text += bytes;
    });
    socket.on('close', () => resolve(text));
  });

describe('nobody else', () => {
  test.each([
    ['another origin', { origin: 'http://evil.example' }],
    ['no origin to name', { origin: 'null' }],
    ['another site', { 'sec-fetch-site': 'cross-site' }],
    ['another page of this machine', { origin: 'http://127.0.0.1:1' }],
  ])('%s is refused everywhere, with the cookie too', async (_what, headers) => {
    for (const [method, path] of PATHS)
      expect((await bench.send(method, path, method === 'GET' ? undefined : {}, headers)).status).toBe(403);
  });

  test.each([
    ['no cookie', ''],
    ['a cookie of another workbench', `jestril-1=${'A'.repeat(32)}`],
    ['a guessed cookie', `jestril-PORT=${'A'.repeat(32)}`],
    ['a short one', 'jestril-PORT=A'],
  ])('another user of the machine, with %s, is refused everywhere', async (_what, cookie) => {
    for (const [method, path] of PATHS) {
      const own = cookie.replace('PORT', new URL(bench.url).port);
      const { status, text } = await bench.send(method, path, method === 'GET' ? undefined : asked(good), { cookie: own });
      expect([path, status]).toEqual([path, 401]);
      expect(text).toMatch(/for who has started/);
    }
  });

  test('the printed address opens it, and leaves its key in a cookie that no script and no other site has', async () => {
    const told = await fetch(bench.opening, { redirect: 'manual' });
    const [cookie = ''] = told.headers.getSetCookie();
    expect([told.status, told.headers.get('location')]).toEqual([303, '/']);
    expect(cookie).toMatch(/^jestril-\d+=[\w-]{32}; Path=\/; HttpOnly; SameSite=Strict$/);
    // What opens the page is in no command that is copied, and the other way round.
    const [{ curl }] = await bench.call('answers', asked(good));
    const [, door] = /\/door\/([\w-]+)\//.exec(curl) as unknown as [string, string];
    expect(bench.opening).not.toContain(door);
    expect((await fetch(`${bench.url}?key=${door}`, { redirect: 'manual' })).status).toBe(401);
    const [page = ''] = /[\w-]{32}$/.exec(bench.opening) ?? [];
    expect((await bench.send('POST', `door/${page}/booking`, good, { cookie: '' })).status).toBe(401);
  });

  test('a name that was turned to this machine is refused', async () => {
    const { port } = new URL(bench.url);
    expect(await raw(['GET /api/module HTTP/1.1', `Host: pellwick.example:${port}`, `Cookie: ${bench.cookie}`])).toMatch(/^HTTP\/1.1 403/);
  });

  test('no page loads anything from elsewhere', async () => {
    const page = await bench.send('GET', '');
    expect(page.headers.get('content-security-policy')).toMatch(/default-src 'none'; script-src 'self'; style-src 'self' 'nonce-/);
    expect(page.text).not.toMatch(/(?:src|href)="(?:https?:)?\/\//);
  });
});

describe("nobody else's code", () => {
  const WHO = "import { writeFileSync } from 'node:fs'; writeFileSync(new URL('./was-run', import.meta.url), '');\n";
  const elsewhere = file('elsewhere/quay.ts', `${WHO}${MODULE}`);
  const link = `${folder}/own/linked.ts`;
  symlinkSync(elsewhere, link);
  mkdirSync(`${folder}/own/deeper`);
  symlinkSync(`${folder}/elsewhere`, `${folder}/own/deeper/linked`);

  test.each([
    ['a path', elsewhere],
    ['a way up', `${folder}/own/../elsewhere/quay.ts`],
    ['a link', link],
    ['a link to its folder', `${folder}/own/deeper/linked/quay.ts`],
    ['an option of git', '--output=was-run:own/quay.ts'],
    ['a revision of what is no repository', 'HEAD:../elsewhere/quay.ts'],
  ])('by %s is loaded: neither as a version, nor as records, nor for a case', async (_what, path) => {
    const version = await bench.call('judge', { ...asked(good), version: path });
    const records = await bench.call('judge', asked(good, { settings: { ...settings, records: path } }));
    const judged = { ...settings, given: JSON.parse(settings.given), records: path };
    const kept = { name: 'x', intake: 'booking', submission: good, settings: judged, came: { outcome: 'accepted', found: [] } };
    writeFileSync(`${folder}/own/quay.cases.json`, JSON.stringify({ cases: [kept] }));
    const { states } = await bench.cases();
    for (const { problem } of [version, records, ...states])
      expect(problem).toMatch(/loads modules from there alone|no revision of git|There is no (?:file|module)|cannot be taken out/);
    rmSync(`${folder}/own/quay.cases.json`);
    expect([existsSync(`${folder}/elsewhere/was-run`), existsSync('was-run:own')]).toEqual([false, false]);
  });

  test('another module of its own folder is a version', async () => {
    const path = file('own/stricter.ts', MODULE.replace('between(2, 40)', 'between(2, 10)'));
    expect(await bench.call('judge', { ...asked(good), version: path })).toMatchObject({ outcome: 'rejected' });
  });
});

describe('odd calls', () => {
  test.each([
    ['GET', 'nothing', undefined, 404, 'There is no GET /nothing here; the page is at /.\n'],
    ['POST', 'api/call/door', {}, 404, 'There is no POST /api/call/door here; the page is at /.'],
    ['POST', 'api/call/constructor', {}, 404, 'There is no POST /api/call/constructor here; the page is at /.'],
    ['GET', 'api/call/judge', undefined, 404, 'There is no GET /api/call/judge here; the page is at /.'],
    ['PUT', 'api/cases', {}, 404, 'There is no PUT /api/cases here; the page is at /.'],
    ['POST', 'api/call/judge', '{', 400, 'What is sent is not JSON: column 2: close brace expected.'],
    ['POST', 'api/call/judge', '{"intake":"a","intake":"b"}', 400, 'What is sent is not JSON: an object names a member twice.'],
    ['POST', 'api/call/judge', [], 400, 'The submission must be an object with named fields.'],
    ['POST', 'api/call/judge', { intake: 1 }, 400, 'intake must be text, without unreadable characters.'],
    ['POST', 'api/call/judge', { intake: 'booking', submission: '{}' }, 400, 'settings is needed.'],
    ['POST', 'api/call/judge', asked(good, { settings: { ...settings, as: 'x' } }), 400, 'as must be json or form.'],
    ['POST', 'api/call/pattern', { source: 'a', flags: '', texts: [1] }, 400, 'text must be text, without unreadable characters.'],
    ['POST', 'api/cases', { changes: [{ name: 'x', read: 1 }] }, 400, 'read must be text, without unreadable characters.'],
  ])('%s %s %j is %d, in plain words', async (method, path, body, status, told) => {
    const answer = await bench.send(method, path, body);
    expect([answer.status, path.startsWith('api') ? answer.json().problem : answer.text]).toEqual([status, told]);
  });

  test('a form cannot send anything', async () => {
    const { status, text } = await bench.send('POST', 'api/cases', '[]', { 'content-type': 'text/plain' });
    expect([status, JSON.parse(text)]).toEqual([400, { problem: 'Send JSON, as application/json.' }]);
  });

  test.each(['assets/..%2findex.html', 'assets/%2e%2e/index.html', 'assets/x.js', 'assets/%'])('%s is not there', async (path) => {
    const { port } = new URL(bench.url);
    const told = await raw([`GET /${path} HTTP/1.1`, `Host: 127.0.0.1:${port}`, `Cookie: ${bench.cookie}`]);
    expect(told).toMatch(/^HTTP\/1.1 404/);
  });

  test('whatever is asked, there is an answer in words, and the workbench goes on', async () => {
    const text = fc.oneof(fc.json(), fc.string(), fc.constant(JSON.stringify(good)));
    const argument = fc.oneof(
      fc.anything().map((value) => JSON.parse(JSON.stringify(value) ?? 'null')),
      fc.record(
        {
          intake: fc.constantFrom('booking', 'x'),
          submission: text,
          stored: text,
          itself: text,
          pointer: fc.oneof(fc.constantFrom('/length', '/departs', '', '/crew/0/born', '/0'), fc.string()),
          use: fc.string(),
          source: fc.string(),
          flags: fc.string(),
          texts: fc.array(fc.string()),
          changes: fc.array(
            fc.record({ name: fc.string(), read: fc.option(fc.string()), put: fc.option(fc.dictionary(fc.string(), fc.jsonValue())) }),
          ),
          settings: fc.record({
            locale: fc.constantFrom('en', 'de', '??'),
            as: fc.constantFrom('json', 'form', 'x'),
            report: fc.constantFrom('everything', 'firstOfAll'),
            records: fc.constantFrom('', 'module', '/'),
            given: fc.oneof(fc.constant(settings.given), text),
          }),
        },
        { requiredKeys: [] },
      ),
    );
    const names = ['call/describe', 'call/judge', 'call/answers', 'call/turn', 'call/pattern', 'call/sample', 'cases'];
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...names), argument, async (name, value) => {
        const { status, text: body } = await bench.send('POST', `api/${name}`, JSON.stringify(value ?? null));
        expect([200, 400]).toContain(status);
        const answer = JSON.parse(body);
        if (answer.problem !== undefined) expect(answer.problem).not.toMatch(/TypeError|undefined|\bis not a function\b|\n {4}at /);
        expect(status === 400 ? typeof answer.problem : 'string').toBe('string');
      }),
      { numRuns: RUNS * 3 },
    );
    expect(await bench.call('judge', asked(good))).toMatchObject({ outcome: 'accepted' });
  });
});
