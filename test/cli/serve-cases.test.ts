import { chmodSync, existsSync, lstatSync, mkdirSync, readFileSync, rmSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import fc from 'fast-check';
import { commandIn } from '../support/command.ts';
import { asked, GOOD as good, MODULE, type Served, served, SETTINGS as settings } from '../support/workbench.ts';

// Cases, which several pages and hands change at once. By hand: JESTRIL_RANDOM=2000 npm test -- test/cli/serve-cases.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 60);

const { folder, file, jestril } = commandIn();
const module = file('quay.ts', MODULE);
const [CASES, PROOF] = [`${folder}/quay.cases.json`, `${folder}/quay.cases.proof.ts`];
const kept = (name: string, submission: unknown = good, more: object = {}) => ({
  name,
  intake: 'booking',
  submission,
  settings: { ...settings, given: { caller: { staff: false } } },
  came: { outcome: 'accepted', found: [] },
  ...more,
});
/** What no text of a request holds: NUL, and half a character. */
const UNREADABLE = /\0|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;
const anew = (made: { readonly name: string }) => ({ name: made.name, read: null, put: made });

let bench: Served;
beforeAll(async () => {
  bench = await served(module);
});
afterAll(() => bench?.close());
beforeEach(() => {
  for (const path of [CASES, PROOF]) rmSync(path, { force: true });
});

/** The names of cases, and what tells whether one has become another. */
const seen = async () =>
  new Map((await bench.cases()).cases.map((each: { kept: { name: string }; read: string }) => [each.kept.name, each.read]));

test('they are kept in a file beside the module, say what has changed, and become proofs and samples that hold', async () => {
  const sample = await bench.call('sample', asked({ ...good, length: 12.5 }, { use: 'quay/fits@length' }));
  expect(sample).toEqual({ rule: 'quay/fits', holds: false, sample: { berth: 'A1', length: 12.5, found: { maxLength: 12 } } });
  expect((await bench.call('sample', asked(good, { use: 'same@codeAgain' }))).problem).toContain('something secret');
  const rejected = { outcome: 'rejected', found: ['quay/fits@length /length /berth'] };
  const cases = [
    kept('as it should be', good, { isProof: true }),
    kept('too long', { ...good, length: 13 }, { came: rejected, isProof: true, samples: [sample] }),
    kept('was accepted once', { ...good, mark: 'PW-0001' }),
  ];
  expect(await bench.change(cases.map(anew))).toEqual({ conflicts: [] });
  expect((await bench.cases()).states).toEqual([
    { name: 'as it should be', now: { outcome: 'accepted', found: [] }, isChanged: false },
    { name: 'too long', now: rejected, isChanged: false },
    { name: 'was accepted once', now: { outcome: 'rejected', found: ['unique@mark /mark'] }, isChanged: true },
  ]);
  const { proofs } = JSON.parse(jestril(['prove', PROOF, '--format', 'json']).stdout);
  expect(proofs.map(({ subject, isProven }: { subject: string; isProven: boolean }) => [subject, isProven])).toEqual([
    ['booking', true],
    ['quay/fits', true],
  ]);
  // A case that was right once is noticed by whoever runs the proof.
  const name = 'was accepted once';
  await bench.change([{ name, read: (await seen()).get(name), put: { isProof: true } }]);
  expect(jestril(['prove', PROOF]).status).toBe(1);
});

test('any text becomes a program that says the same', async () => {
  const odd = fc.oneof(
    fc.string({ unit: 'binary' }),
    fc.constantFrom("'", '`$' + '{x}`', '*/', '</script>', '\u2028', '\\', '"\n\r', '__proto__', '\ud83d\ude00'),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(odd, fc.jsonValue({ maxDepth: 2 })), { minLength: 1, maxLength: 6 }), async (members) => {
      rmSync(CASES, { force: true });
      const cases = await Promise.all(
        members.map(async ([text, value], at) => {
          const submission = { ...good, mark: text, [text === '__proto__' ? 'x' : text]: value, crew: value };
          const told = await bench.call('judge', asked(submission));
          const found = told.findings.map(
            ({ use, places }: { use: string; places: { pointer: string }[] }) =>
              `${use} ${places.map(({ pointer }) => pointer || '/').join(' ')}`,
          );
          return kept(`${at} ${text.replaceAll(UNREADABLE, '?')}`, submission, {
            came: { outcome: told.outcome, found: found.sort() },
            isProof: true,
          });
        }),
      );
      expect(await bench.change(cases.map(anew))).toEqual({ conflicts: [] });
      expect((await bench.cases()).states.filter(({ isChanged }: { isChanged: boolean }) => isChanged)).toEqual([]);
      const { status, stdout, stderr } = jestril(['prove', PROOF]);
      expect([status, status === 0 ? '' : stdout + stderr]).toEqual([0, '']);
    }),
    // Each takes a process: the first that fails is told as it is.
    { numRuns: Math.max(3, Math.ceil(RUNS / 20)), endOnFailure: true },
  );
});

test('eight pages and a hand change them: what was changed since it was read is never written over, and nothing of the hand is lost', async () => {
  const name = fc.constantFrom('a', 'b', 'c', 'd');
  const deed = fc.oneof(
    fc.record({
      by: fc.constant('page' as const),
      page: fc.nat(7),
      name,
      put: fc.constantFrom('whole', 'proof', 'forget', 'unnamed', 'broken'),
    }),
    fc.record({ by: fc.constant('look' as const), page: fc.nat(7) }),
    fc.record({ by: fc.constant('hand' as const), name, isGone: fc.boolean(), indent: fc.constantFrom(0, 2, 4, '\t') }),
  );
  type Written = { readonly [name: string]: unknown };
  await fc.assert(
    fc.asyncProperty(fc.array(deed, { minLength: 4, maxLength: 16 }), async (deeds) => {
      rmSync(CASES, { force: true });
      let [count, now]: [number, ReadonlyMap<string, Written>] = [0, new Map()];
      // What each page has read; and what stands in the file, by name, as it ought to be.
      const pages = await Promise.all(Array.from({ length: 8 }, seen));
      const read = Array.from({ length: 8 }, (): ReadonlyMap<string, Written> => new Map());
      for (const each of deeds) {
        count += 1;
        if (each.by === 'look') {
          pages[each.page] = await seen();
          read[each.page] = now;
        } else if (each.by === 'hand') {
          const next = new Map(now);
          // Digits that no program keeps, and members that nobody knows.
          if (each.isGone) next.delete(each.name);
          else next.set(each.name, { ...kept(each.name, { mark: `hand ${count}` }), note: `by hand ${count}`, isProof: false });
          const text = JSON.stringify(
            { about: 'ours', cases: [...next.values()].map(({ long: _long, ...made }) => made) },
            null,
            each.indent,
          );
          writeFileSync(CASES, text.replaceAll(/"note": ?"by hand \d+"/g, '$&, "long": 12345678901234567890.5'));
          now = new Map((JSON.parse(readFileSync(CASES, 'utf8')).cases as { name: string }[]).map((made) => [made.name, made]));
        } else {
          const [known, before] = [pages[each.page]?.get(each.name) ?? null, read[each.page]?.get(each.name)];
          const whole = kept(each.name, { mark: `page ${count}` });
          const put = {
            forget: null,
            proof: { isProof: true },
            whole,
            unnamed: { ...whole, name: 'another' },
            broken: { ...whole, came: 1 },
          }[each.put];
          const without = each.put === 'unnamed' ? ['name', 'samples', 'no such member'] : [];
          const is = now.get(each.name);
          const isSame = JSON.stringify(is) === JSON.stringify(before);
          const told = await bench.change([{ name: each.name, read: known, put, without }]);
          // Nothing that is asked for leaves a file that is no list of cases, and no case gets the name of another.
          const isBroken = isSame && (each.put === 'broken' || (each.put === 'proof' && !is));
          if (isBroken) expect(told.problem).toContain(`"${each.name}" cannot be kept: a case has "name"`);
          else expect([each, told]).toEqual([each, { conflicts: isSame ? [] : [each.name] }]);
          if (!isSame || isBroken) continue;
          const next = new Map(now);
          if (put) next.set(each.name, { ...is, ...put, name: each.name });
          else next.delete(each.name);
          now = next;
        }
        const text = existsSync(CASES) ? readFileSync(CASES, 'utf8') : '{"cases":[]}';
        const { cases, about } = JSON.parse(text);
        expect(new Map(cases.map((made: { name: string }) => [made.name, made]))).toEqual(now);
        if (about !== undefined || deeds.slice(0, count).some(({ by }) => by === 'hand')) expect(about).toBe('ours');
        const longs = [...now.values()].filter(({ long }) => long !== undefined).length;
        expect(text.split('12345678901234567890.5').length - 1).toBe(longs);
      }
    }),
    { numRuns: Math.ceil(RUNS / 2) },
  );
});

describe('a file that is not ours to replace', () => {
  const change = () => bench.change([anew(kept('mine', good, { isProof: true }))]);

  test.each([
    ['{', 'it is not JSON (column 2: close brace expected)'],
    ['[]', 'it holds { "cases": [ … ] }'],
    ['{"cases":[{"name":1}]}', 'it holds { "cases": [ … ] }'],
    ['null', 'it holds { "cases": [ … ] }'],
    ['{ "cases": [] } // mine', 'it is not JSON'],
    [JSON.stringify({ cases: [kept('twice'), kept('twice')] }), 'two of its cases are called "twice"; give one of them another name.'],
  ])('%s stays, and a sentence says why', async (text, why) => {
    writeFileSync(CASES, text);
    for (const { problem } of [await bench.cases(), await change()])
      expect(problem).toMatch(/quay\.cases\.json is no file of cases, and is left as it is: .*/);
    expect((await change()).problem).toContain(why);
    expect(readFileSync(CASES, 'utf8')).toBe(text);
  });

  test('cases and a proof that nobody is to write', async () => {
    const text = '{ "cases": [] }';
    writeFileSync(CASES, text);
    chmodSync(CASES, 0o444);
    expect((await change()).problem).toContain('quay.cases.json is read-only, and was left as it is; make it writable first.');
    expect(readFileSync(CASES, 'utf8')).toBe(text);
    chmodSync(CASES, 0o640);
    expect(await change()).toEqual({ conflicts: [] });
    expect(statSync(CASES).mode & 0o777).toBe(0o640);
  });

  test('links are followed; one that leads nowhere is told', async () => {
    mkdirSync(`${folder}/kept`, { recursive: true });
    symlinkSync('kept/nowhere.json', CASES);
    expect((await change()).problem).toContain('quay.cases.json is a link that leads nowhere');
    writeFileSync(`${folder}/kept/nowhere.json`, '{ "cases": [] }');
    expect(await change()).toEqual({ conflicts: [] });
    expect(lstatSync(CASES).isSymbolicLink()).toBe(true);
    expect(JSON.parse(readFileSync(`${folder}/kept/nowhere.json`, 'utf8')).cases).toHaveLength(1);
  });

  test('a proof without our first line is left alone, and the page is told', async () => {
    const own = `// Proofs of our own.\nexport const proofs = [];\n`;
    writeFileSync(PROOF, own);
    expect((await change()).proofProblem).toContain(
      'quay.cases.proof.ts was not made here, since its first line is another: it was left as it is',
    );
    expect([readFileSync(PROOF, 'utf8'), (await bench.cases()).cases.length]).toEqual([own, 1]);
    rmSync(PROOF);
    expect(await bench.change([{ name: 'mine', read: (await seen()).get('mine'), put: { isProof: true } }])).toEqual({ conflicts: [] });
    expect(readFileSync(PROOF, 'utf8')).toMatch(/^\/\/ Made by `jestril serve` of cases in quay\.cases\.json/);
  });
});
