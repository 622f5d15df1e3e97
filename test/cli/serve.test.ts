import { writeFileSync } from 'node:fs';
import { commandIn } from '../support/command.ts';
import { asked, GOOD as good, MODULE, type Served, served, SETTINGS as settings } from '../support/workbench.ts';

// The server of the workbench, as its page asks it.

const { file, jestril } = commandIn();
const module = file('quay.ts', MODULE);
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
    const endless = bench.call('judge', asked({ ...good, crew: [{ name: 'forever', born: '1990-01-01' }] }));
    await new Promise((resolve) => setTimeout(resolve, 300));
    // Another page asks meanwhile.
    const innocent = bench.call('judge', asked({ ...good, length: 13 }));
    expect((await endless).problem).toMatch(/^No answer within 8 seconds/);
    expect(usesIn(await innocent)).toEqual(['quay/fits@length']);
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
    const [, door] = /'http:\/\/[^/]+\/(door\/[^']+)'/.exec(german.curl) as unknown as [string, string];
    const again = await bench.send('POST', door, { ...good, departs: '2031-05-01' }, { 'accept-language': 'de', cookie: '' });
    expect([again.status, again.text]).toEqual([422, german.body]);
    expect((await bench.send('POST', door, good)).status).toBe(204);
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

describe('a module', () => {
  test('is loaded again when it is saved; one that does not load says where, and the page goes on', async () => {
    const path = file('saved/quay.ts', MODULE);
    const own = await served(path);
    const loads = async () => (await own.send('GET', 'api/module')).json();
    const until = async (is: (state: { problem?: string; loads: number }) => boolean) => {
      for (;;) {
        const state = await loads();
        if (is(state)) return state;
        await new Promise((resolve) => setTimeout(resolve, 100));
      }
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
      const beside = file('saved/beside.ts', MODULE);
      expect(await own.call('judge', { ...asked(good), version: beside })).toMatchObject({ outcome: 'accepted' });
      expect((await own.call('judge', { ...asked(good), version: 'no-such-revision' })).problem).toContain('no revision of git');
    } finally {
      expect(await own.close()).toBe(0);
    }
  });

  test('saved again while it loads: who waits for it is answered by the new one, at once, and what is said is so', async () => {
    const path = file('loading/quay.ts', MODULE);
    const own = await served(path);
    const state = async () => (await own.send('GET', 'api/module')).json();
    const until = async (loads: number, isLoading: boolean) => {
      for (let now = await state(); now.loads < loads || now.isLoading !== isLoading; now = await state())
        await new Promise((resolve) => setTimeout(resolve, 50));
    };
    try {
      // It never ends loading, and nobody waits for that.
      writeFileSync(path, `await new Promise(() => setInterval(() => {}, 1000));\n${MODULE}`);
      await until(2, true);
      expect(await state()).toMatchObject({ intakes: ['booking'], isLoading: true });
      const waiting = Promise.all([own.call('judge', asked(good)), own.call('describe', { intake: 'booking', locale: 'en' })]);
      writeFileSync(path, MODULE.replace('between(2, 40)', 'between(2, 11)'));
      const [told, shown] = await waiting;
      expect([usesIn(told), shown.name]).toEqual([['between@length'], 'booking']);
      await until(3, false);
      // So is who waits for a rule that does not end; it is not told that it was at fault.
      const endless = own.call('judge', asked({ ...good, crew: [{ name: 'forever', born: '1990-01-01' }] }));
      await new Promise((resolve) => setTimeout(resolve, 300));
      const innocent = own.call('judge', asked({ ...good, length: 13 }));
      writeFileSync(path, MODULE.replace('holds: ({ name }) => { while', 'holds: ({ name }) => { return true; while'));
      expect([(await endless).outcome, usesIn(await innocent)]).toEqual(['accepted', ['quay/fits@length']]);
    } finally {
      await own.close();
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
