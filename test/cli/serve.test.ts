import { writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import fc from 'fast-check';
import { commandIn } from '../support/command.ts';
import { GOOD as good, MODULE, type Served, served } from '../support/workbench.ts';

// The server of the workbench, as its page asks it. By hand: JESTRIL_RANDOM=2000 npm test -- test/cli/serve.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 60);

const { folder, file, jestril } = commandIn();
const module = file('quay.ts', MODULE);
const settings = {
  locale: 'en',
  as: 'json',
  report: 'everything',
  records: 'module',
  now: '2031-05-01T10:00:00Z',
  given: '{ "caller": { "staff": false } }',
};
const asked = (submission: unknown, more: object = {}) => ({
  intake: 'booking',
  submission: typeof submission === 'string' ? submission : JSON.stringify(submission),
  settings,
  ...more,
});
const usesIn = ({ findings }: { findings: { use: string }[] }) => findings.map(({ use }) => use).sort();

let bench: Served;
beforeAll(async () => {
  bench = await served(module);
});
afterAll(() => bench?.close());

describe('a verdict', () => {
  test('with why: what was read and asked, in which round, the parts of a condition, and no secret', async () => {
    const told = await bench.call('judge', asked({ ...good, length: 12.5, mark: 'PW-0001' }));
    expect(told).toMatchObject({ outcome: 'rejected', rounds: 1, open: [] });
    expect(usesIn(told)).toEqual(['quay/fits@length', 'unique@mark']);
    const reason = (use: string) => told.reasons.find((each: { use: string }) => each.use === use);
    expect(reason('quay/fits@length')).toMatchObject({
      outcome: 'failed',
      read: [
        { role: 'berth', field: 'berth', value: '"A1"' },
        { role: 'length', field: 'length', value: '12.5' },
      ],
      asked: [{ round: 1, collection: 'berths', where: 'code = "A1"', found: '{"maxLength":12,"open":true}' }],
    });
    expect(reason('berth-there').conditions).toMatchObject([
      { outcome: 'held', parts: [{ outcome: 'held' }, { outcome: 'held', parts: [{ words: 'Staff is true', outcome: 'failed' }] }] },
    ]);
    expect(reason('quay/ends@crew.*.name')).toMatchObject({ entry: '/crew/0' });
    expect(JSON.stringify(told)).not.toContain('4711');
    const accepted = await bench.call('judge', asked(good));
    expect(accepted.value).toContain('"mark": "PW-2040"');
    expect(JSON.stringify(accepted)).not.toContain('4711');
  });

  test('of a change, with what changes', async () => {
    const { codeAgain: _again, ...stored } = good;
    const change = { stored: JSON.stringify(stored), itself: '{ "id": 1 }' };
    expect(await bench.call('judge', asked({ length: 12 }, change))).toMatchObject({ outcome: 'accepted', changed: ['length'] });
    expect(usesIn(await bench.call('judge', asked({ length: 13 }, change)))).toEqual(['quay/fits@length']);
  });

  test.each([
    ['no JSON', asked('{ "mark": }'), 'The submission is not JSON: column 11: value expected.'],
    [
      'given that is missing',
      asked(good, { settings: { ...settings, given: '' } }),
      '"booking" needs given values for caller; write them under Given, as JSON.',
    ],
    ['an unknown intake', asked(good, { intake: 'boking' }), 'The module exports no intake named "boking".'],
    ['records that are not there', asked(good, { settings: { ...settings, records: 'none.json' } }), 'There is no file none.json.'],
    [
      'no moment',
      asked(good, { settings: { ...settings, now: 'noon' } }),
      '--now noon is not a moment; write it as 2031-05-01T09:00:00Z (RFC 3339), on a day that exists.',
    ],
  ])('%s is told in a sentence', async (_what, argument, problem) => {
    expect(await bench.call('judge', argument)).toEqual({ problem });
  });

  test('of 1 MB, with thousands of entries', async () => {
    const crew = Array.from({ length: 900 }, (_, at) => ({ name: at % 100 === 7 ? 'x'.repeat(21) : `Mate ${at}`, born: '1990-01-01' }));
    const told = await bench.call('judge', asked({ ...good, crew, padding: 'x'.repeat(1e6) }));
    expect(told).toMatchObject({ outcome: 'rejected' });
    expect(told.leftOut).toBeGreaterThan(1000);
    expect(told.reasons.filter(({ outcome }: { outcome: string }) => outcome === 'failed').length).toBeGreaterThan(8);
  });

  test('where a rule never ends, and the next one is there', async () => {
    const told = await bench.call('judge', asked({ ...good, crew: [{ name: 'forever', born: '1990-01-01' }] }));
    expect(told.problem).toMatch(/^No answer within 8 seconds/);
    expect(await bench.call('judge', asked(good))).toMatchObject({ outcome: 'accepted' });
  });
});

describe('besides', () => {
  test('the answer of a door in each language, and the command for it works', async () => {
    const answers = await bench.call('answers', asked({ ...good, departs: '2031-05-01' }));
    expect(answers.map(({ locale, status }: { locale: string; status: number }) => [locale, status])).toEqual([
      ['en', 422],
      ['de', 422],
    ]);
    const [, german] = answers;
    expect(german.body).toContain('Departure: Muss nach Arrival liegen.');
    await bench.call('judge', asked(good));
    const again = await bench.send('POST', 'door/booking', { ...good, departs: '2031-05-01' }, { 'accept-language': 'de' });
    expect([again.status, again.text]).toEqual([422, german.body]);
    expect((await bench.send('POST', 'door/booking', good)).status).toBe(204);
  });

  test('a number moved along shows where the verdict turns, exactly; a day too', async () => {
    const { bands } = await bench.call('turn', asked(good, { pointer: '/length' }));
    expect(bands.map(({ from, to, outcome, by }: { [name: string]: unknown }) => [from, to, outcome, by])).toEqual([
      [expect.any(Number), 1.99, 'rejected', ['between@length']],
      [2, 12, 'accepted', []],
      [12.01, 40, 'rejected', ['quay/fits@length']],
      [40.01, expect.any(Number), 'rejected', ['between@length']],
    ]);
    const days = await bench.call('turn', asked(good, { pointer: '/departs' }));
    expect(days.bands.map(({ to, outcome }: { [name: string]: unknown }) => [to, outcome])).toEqual([
      ['2031-05-03', 'rejected'],
      [expect.any(String), 'accepted'],
    ]);
    expect(await bench.call('turn', asked(good, { pointer: '/mark' }))).toEqual({ problem: '/mark is neither a number nor a day.' });
  });

  test.each([
    ['^[A-Z]{2}$', '', 'linear', [true, false]],
    ['(a+)+$', '', 'refused', [false, false]],
    ['a', 'g', 'refused', [false, false]],
    ['(', '', 'broken', []],
  ])('the pattern %s with flags "%s" is %s', async (source, flags, state, matches) => {
    const told = await bench.call('pattern', { source, flags, texts: ['AB', 'b'] });
    expect([told.state, told.matches.map(({ isMatch }: { isMatch: boolean }) => isMatch)]).toEqual([state, matches]);
  });

  test('a hostile text for an expression that is refused does not hold anybody up', async () => {
    const [match] = (await bench.call('pattern', { source: '(a+)+$', flags: '', texts: [`${'a'.repeat(60)}!`] })).matches;
    expect(match).toMatchObject({ problem: 'no answer within 250 ms' });
  });
});

describe('cases', () => {
  const kept = (name: string, submission: unknown, came: object, more: object = {}) => ({
    name,
    intake: 'booking',
    submission,
    settings: { ...settings, given: { caller: { staff: false } } },
    came,
    ...more,
  });

  test('are kept in a file beside the module, say what has changed, and become proofs and samples that hold', async () => {
    const sample = await bench.call('sample', asked({ ...good, length: 12.5 }, { use: 'quay/fits@length' }));
    expect(sample).toEqual({ rule: 'quay/fits', holds: false, sample: { berth: 'A1', length: 12.5, found: { maxLength: 12 } } });
    expect((await bench.call('sample', asked(good, { use: 'same@codeAgain' }))).problem).toContain('something secret');
    const cases = [
      kept('as it should be', good, { outcome: 'accepted', found: [] }, { isProof: true }),
      kept(
        'too long',
        { ...good, length: 13 },
        { outcome: 'rejected', found: ['quay/fits@length /length /berth'] },
        { isProof: true, samples: [sample] },
      ),
      kept('was accepted once', { ...good, mark: 'PW-0001' }, { outcome: 'accepted', found: [] }),
    ];
    expect((await bench.send('PUT', 'api/cases', cases)).json()).toEqual({ proof: expect.stringContaining('quay.cases.proof.ts') });
    const { states } = (await bench.send('GET', 'api/cases')).json();
    expect(states).toEqual([
      { name: 'as it should be', now: { outcome: 'accepted', found: [] }, isChanged: false },
      { name: 'too long', now: { outcome: 'rejected', found: ['quay/fits@length /length /berth'] }, isChanged: false },
      { name: 'was accepted once', now: { outcome: 'rejected', found: ['unique@mark /mark'] }, isChanged: true },
    ]);
    const proven = jestril(['prove', `${folder}/quay.cases.proof.ts`, '--format', 'json']);
    const { proofs } = JSON.parse(proven.stdout);
    expect(proofs.map(({ subject, isProven }: { subject: string; isProven: boolean }) => [subject, isProven])).toEqual([
      ['booking', true],
      ['quay/fits', true],
    ]);
    // A case that was right once is noticed by whoever runs the proof.
    await bench.send('PUT', 'api/cases', [{ ...cases[2], isProof: true }]);
    expect(jestril(['prove', `${folder}/quay.cases.proof.ts`]).status).toBe(1);
  });

  test('of any text become a program that says the same', async () => {
    const odd = fc.oneof(
      fc.string({ unit: 'binary' }),
      fc.constantFrom("'", '`$' + '{x}`', '*/', '</script>', '\u2028', '\\', '"\n\r', '__proto__', '\ud83d\ude00'),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(odd, fc.jsonValue({ maxDepth: 2 })), { minLength: 1, maxLength: 6 }), async (members) => {
        const cases = await Promise.all(
          members.map(async ([text, value], at) => {
            const submission = { ...good, mark: text, [text === '__proto__' ? 'x' : text]: value, crew: value };
            const told = await bench.call('judge', asked(submission));
            const found = told.findings.map(
              ({ use, places }: { use: string; places: { pointer: string }[] }) =>
                `${use} ${places.map(({ pointer }) => pointer || '/').join(' ')}`,
            );
            return kept(`${at} ${text}`, submission, { outcome: told.outcome, found: found.sort() }, { isProof: true });
          }),
        );
        await bench.send('PUT', 'api/cases', cases);
        expect((await bench.send('GET', 'api/cases')).json().states.filter(({ isChanged }: { isChanged: boolean }) => isChanged)).toEqual(
          [],
        );
        const { status, stdout, stderr } = jestril(['prove', `${folder}/quay.cases.proof.ts`]);
        expect([status, status === 0 ? '' : stdout + stderr]).toEqual([0, '']);
      }),
      // Each takes a process: the first that fails is told as it is.
      { numRuns: Math.max(3, Math.ceil(RUNS / 20)), endOnFailure: true },
    );
  });

  test.each(['{', '[]', '{"cases":[{"name":1}]}', 'null'])('of a file that is %s are a sentence, and the file stays', async (text) => {
    writeFileSync(`${folder}/quay.cases.json`, text);
    expect((await bench.send('GET', 'api/cases')).json().problem).toContain('quay.cases.json is no file of cases');
    writeFileSync(`${folder}/quay.cases.json`, '{ "cases": [] }');
  });
});

describe('nobody else', () => {
  test.each([
    ['another origin', { origin: 'http://evil.example' }],
    ['no origin to name', { origin: 'null' }],
    ['another site', { 'sec-fetch-site': 'cross-site' }],
    ['another page of this machine', { origin: 'http://127.0.0.1:1' }],
  ])('%s is refused everywhere', async (_what, headers) => {
    for (const [method, path] of [
      ['GET', ''],
      ['GET', 'api/module'],
      ['POST', 'api/call/judge'],
      ['PUT', 'api/cases'],
      ['POST', 'door/booking'],
    ] as const)
      expect((await bench.send(method, path, method === 'GET' ? undefined : {}, headers)).status).toBe(403);
  });

  test('a name that was turned to this machine is refused', async () => {
    const { port } = new URL(bench.url);
    const answer = await new Promise<string>((resolve) => {
      const socket = connect(Number(port), '127.0.0.1', () =>
        socket.write(`GET /api/module HTTP/1.1\r\nHost: pellwick.example:${port}\r\nConnection: close\r\n\r\n`),
      );
      let text = '';
      socket.on('data', (bytes) => {
        text += bytes;
      });
      socket.on('close', () => resolve(text));
    });
    expect(answer).toMatch(/^HTTP\/1.1 403/);
  });

  test('a form cannot send anything, and the page loads nothing from elsewhere', async () => {
    const form = await bench.send('PUT', 'api/cases', '[]', { 'content-type': 'text/plain' });
    expect(form.status).toBe(415);
    const page = await bench.send('GET', '');
    expect(page.headers.get('content-security-policy')).toMatch(/default-src 'none'; script-src 'self'; style-src 'self' 'nonce-/);
    expect(page.text).not.toMatch(/(?:src|href)="(?:https?:)?\/\//);
    for (const path of ['assets/..%2findex.html', 'assets/%2e%2e/index.html', 'assets/x.js', 'api/call/door', 'api/call/constructor'])
      expect((await bench.send(path.startsWith('api') ? 'POST' : 'GET', path, path.startsWith('api') ? {} : undefined)).status).toBe(404);
  });

  test('whatever is asked, there is an answer that is no failure', async () => {
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
    const names = ['describe', 'judge', 'answers', 'turn', 'pattern', 'sample'];
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...names), argument, async (name, value) => {
        const { status, text: body } = await bench.send('POST', `api/call/${name}`, JSON.stringify(value ?? null));
        expect([status, body.length > 0 && JSON.parse(body) !== undefined]).toEqual([200, true]);
      }),
      { numRuns: RUNS * 3 },
    );
    expect(await bench.call('judge', asked(good))).toMatchObject({ outcome: 'accepted' });
  });
});

describe('a module', () => {
  test('is loaded again when it is saved; one that does not load says where, and the page goes on', async () => {
    const path = file('saved/quay.ts', MODULE);
    const own = await served(path);
    const loads = async () => (await own.send('GET', 'api/module')).json();
    const until = async (is: (state: { problem?: string; loads: number }) => boolean) => {
      for (let tries = 0; tries < 100; tries++) {
        const state = await loads();
        if (is(state)) return state;
        await new Promise((resolve) => setTimeout(resolve, 100));
      }
      throw new Error('It was not loaded again.');
    };
    try {
      writeFileSync(path, MODULE.replace('between(2, 40)', 'between(2 40)'));
      expect((await until(({ problem }) => problem !== undefined)).problem).toMatch(/quay\.ts does not load: .*\(.*quay\.ts:\d+:\d+\)/);
      writeFileSync(path, MODULE.replace('between(2, 40)', 'between(2, 11)'));
      await until(({ problem, loads: count }) => problem === undefined && count > 2);
      expect(usesIn(await own.call('judge', asked(good)))).toEqual(['between@length']);
      writeFileSync(path, 'process.exit(7);');
      expect((await until(({ problem }) => problem !== undefined)).problem).toContain('has ended the process that loaded it (code 7)');
      // Another version stands beside it.
      expect(await own.call('judge', { ...asked(good), version: module })).toMatchObject({ outcome: 'accepted' });
      expect((await own.call('judge', { ...asked(good), version: 'no-such-revision' })).problem).toContain('no revision of git');
    } finally {
      expect(await own.close()).toBe(0);
    }
  });

  test.each([
    [['none.ts'], 'There is no module none.ts.'],
    [[module, '--port', 'x'], 'It has to be a port, 0 to 65535.'],
    [[module, '--given', 'none.json'], 'There is no file none.json.'],
    [[module, '--locale', '??'], 'is no language that is known here'],
  ])('%s is misuse', (args, problem) => {
    const { status, stderr } = jestril(['serve', ...args]);
    expect([status, stderr]).toEqual([3, expect.stringContaining(problem)]);
  });
});
