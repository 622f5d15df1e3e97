import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { commandIn } from '../support/command.ts';
import { asked, GOOD as good, MODULE, type Served, served, SETTINGS as settings } from '../support/workbench.ts';

// Requests that are pasted into a workbench and copied out of it. By hand: JESTRIL_RANDOM=3000 npm test -- test/cli/serve-pasted.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 60);

const { folder, file } = commandIn();
let bench: Served;
beforeAll(async () => {
  bench = await served(file('quay.ts', MODULE));
});
afterAll(() => bench?.close());

const paste = async (text: string) => (await bench.send('POST', 'api/pasted', { text })).json();
const AT = { method: 'POST', url: 'https://marina.example/bookings', files: [] };
const har = (request: object) => JSON.stringify({ startedDateTime: '2031-05-01T10:00:00Z', request: { ...AT, ...request } });
const PARTS =
  '--x\r\nContent-Disposition: form-data; name="mark"\r\n\r\nPW-1\r\n--x\r\nContent-Disposition: form-data; name="papers"; filename="a.pdf"\r\n\r\n%PDF\r\n--x--\r\n';

test.each([
  ['a body in single quotes', `curl '${AT.url}' -H 'Content-Type: application/json' -d '{"mark":"it'\\''s"}'`, 'json', { mark: "it's" }],
  [
    'a body as bash escapes it',
    `curl ${AT.url} --data-raw $'{"mark":"\\u00e9\\n\\'"}'`.replace('\\n', '\\\\n'),
    'json',
    { mark: "é\n'" },
    { isCalledForm: true },
  ],
  ['lines that go on', `curl \\\n  "${AT.url}" \\\n  --compressed --json "{\\"beam\\":3}"`, 'json', { beam: 3 }],
  ['a text below it', `curl -sX POST ${AT.url} --data-binary @- <<'END'\n{"a":\n 1}\nEND\n`, 'json', { a: 1 }, { isCalledForm: true }],
  ['fields', `curl ${AT.url} -d a=1 -d 'b=x y' --data-urlencode 'c.d=&='`, 'form', { a: '1', b: 'x y', c: { d: '&=' } }],
  ['fields in the address', `curl -G '${AT.url}?z=1' -d a=2`, 'form', { z: '1', a: '2' }, { method: 'GET' }],
  ['parts', `curl ${AT.url} -F mark=PW-1 -F papers=@a.pdf`, 'form', { mark: 'PW-1' }, { files: ['papers'] }],
  [
    'parts that say what they are',
    `curl ${AT.url} -F 'mark=PW-1;type=text/plain' --form-string 'note=a;type=b'`,
    'form',
    { mark: 'PW-1', note: 'a;type=b' },
  ],
  ['options that say nothing of it', `curl -sSLu me:x -b a=b -o out --max-time 3 ${AT.url} -d a=1`, 'form', { a: '1' }],
  ['JSON that is called a form', `curl ${AT.url} -d '{"a":1}'`, 'json', { a: 1 }, { isCalledForm: true }],
  ['another method', `curl -XPATCH ${AT.url} -H'content-type: application/merge-patch+json' -d '{}'`, 'json', {}, { method: 'PATCH' }],
  ['an entry of an archive', har({ postData: { mimeType: 'application/json', text: '{"mark":1}' } }), 'json', { mark: 1 }],
  ['its request alone', JSON.stringify({ ...AT, postData: { mimeType: 'application/json', text: '[1]' } }), 'json', [1]],
  [
    'a whole archive',
    `{"log":{"entries":[null,${har({ postData: { mimeType: 'application/json', text: '{"a":1}' } })},${har({ method: 'GET', url: 'https://x.example/?q' })}]}}`,
    'json',
    { a: 1 },
  ],
  [
    'listed fields',
    har({ postData: { mimeType: 'application/x-www-form-urlencoded', params: [{ name: 'a.b', value: 'é' }] } }),
    'form',
    { a: { b: 'é' } },
  ],
  [
    'a form with parts',
    har({ postData: { mimeType: 'multipart/form-data; boundary=x', text: PARTS } }),
    'form',
    { mark: 'PW-1' },
    { files: ['papers'] },
  ],
] as const)('%s is the submission that is sent', async (_what, text, as, submission, more: object = {}) => {
  const told = await paste(text);
  expect({ ...told, submission: told.submission && JSON.parse(told.submission) }).toEqual({ ...AT, as, submission, ...more });
});

test('every digit stays', async () => {
  expect((await paste(`curl x --json '{"a":12345678901234567890.10}'`)).submission).toBe('{\n  "a": 12345678901234567890.10\n}');
});

test.each([
  ['', 'That is no request: paste a command of curl, or an entry of a HAR file.'],
  ['wget https://marina.example', 'That is no request: paste a command of curl, or an entry of a HAR file.'],
  ['{ "mark": "PW-1" }', 'That is no request: paste a command of curl, or an entry of a HAR file.'],
  ['{', 'That is not JSON: column 2: close brace expected.'],
  ["curl x -d '{", "A quote (') in the command does not end; copy all of it."],
  ['curl x -d @- <<END\n{}', 'The text below the command does not end with a line END; copy all of it.'],
  ['curl x -d @body.json', 'The command takes its body from the file body.json, which is not read; write it into the command.'],
  ['curl x -d @-', 'The command takes its body from standard input, which is not read; write it into the command.'],
  ['curl https://marina.example', 'The request has no body, and no query either; paste one that sends something.'],
  ["curl x -H 'content-type: application/json' -d '{'", 'Its body is not JSON: column 2: close brace expected.'],
  ['curl --wherever x -d a=1', 'The option --wherever of the command is not known here; take it away if it says nothing of what is sent.'],
  ['curl -Z x -d a=1', 'The option -Z of the command is not known here; take it away if it says nothing of what is sent.'],
  ['curl x y -d a=1', 'The command asks several addresses; leave one of them in it.'],
  ['curl x -T body.json', 'The command takes its body from the file body.json, which is not read; write it into the command.'],
  ['curl ^"https://x^" -d ^"{^"', 'That is a command for cmd.exe; copy it for bash instead.'],
])('%s is told in a sentence', async (text, problem) => {
  expect(await paste(text)).toEqual({ problem });
});

const odd = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.string(),
  fc.constantFrom("'", '"', '\\', '$x', '`id`', '$(id)', '!', '\n', '\r\n', 'END', '@a', '%27', '&=', ' ', '<<END', '\u2028'),
);

test('what is copied out, as a command or as an entry, comes back as it was', async () => {
  const key = odd.filter((text) => text !== '__proto__');
  const value = fc.letrec((tie) => ({
    any: fc.oneof(
      { maxDepth: 3 },
      odd,
      fc.integer(),
      fc.boolean(),
      fc.array(tie('any'), { maxLength: 3 }),
      fc.dictionary(key, tie('any'), { maxKeys: 3 }),
    ),
  })).any;
  const fields = fc.dictionary(fc.stringMatching(/^[a-z]{1,6}$/), odd, { minKeys: 1, maxKeys: 4 });
  const sent = fc.oneof(
    fc.record({ as: fc.constant('json' as const), submission: fc.dictionary(key, value, { maxKeys: 4 }) }),
    fc.record({ as: fc.constant('form' as const), submission: fields }),
  );
  await fc.assert(
    fc.asyncProperty(sent, fc.constantFrom(0, 2), async ({ as, submission }, indent) => {
      const text = JSON.stringify(submission, null, indent);
      const [answer] = await bench.call('answers', asked(text, { settings: { ...settings, as }, address: AT.url }));
      for (const copied of [answer.curl, answer.har]) {
        const told = await paste(copied);
        const isForm = as === 'form';
        // What a form sends are Unicode texts, in which half a character is none.
        const wanted = isForm
          ? Object.fromEntries(
              Object.entries(submission).map(([name, each]) => [name, new URLSearchParams({ a: each as string }).get('a')]),
            )
          : submission;
        expect({ ...told, submission: JSON.parse(told.submission) }).toEqual({ ...AT, as, submission: JSON.parse(JSON.stringify(wanted)) });
      }
    }),
    { numRuns: RUNS },
  );
});

test('words are those that a shell makes of them', async () => {
  const quoted = fc.oneof(
    fc.string({ unit: fc.constantFrom(...'ab \t{}:,=&é\'"$x\\!#~*?[]%') }).map((text) => `'${text.replaceAll("'", "'\\''")}'`),
    fc
      .string({ unit: fc.constantFrom(..."ab {}:,=\\'é!#~*") })
      .map((text) => `"${text.replaceAll(/\\(?=$)/g, '')}"`)
      .filter((text) => !/[^\\](\\\\)*\\"$/.test(text)),
    fc
      .array(fc.constantFrom('a', "\\'", '\\n', '\\t', '\\\\', '\\x41', '\\u00e9', 'é', '"', '$x'), { maxLength: 6 })
      .map((parts) => `$'${parts.join('')}'`),
    fc
      .array(fc.constantFrom('a', '\\ ', '\\"', "\\'", '\\$', '%', ':', '/', '\\\n'), { minLength: 1, maxLength: 5 })
      .map((parts) => parts.join('')),
  );
  const word = fc
    .array(quoted, { minLength: 1, maxLength: 3 })
    .map((parts) => parts.join(''))
    // A line that goes on is no word by itself.
    .filter((text) => text.replaceAll('\\\n', '') !== '');
  // The shell writes down what it would hand on; one shell for all of them.
  const words = fc.sample(word, { numRuns: RUNS * 5, seed: Number(process.env.JESTRIL_SEED ?? 1) });
  const env = { LC_ALL: 'C.UTF-8', PATH: process.env.PATH ?? '' };
  const known = execFileSync('bash', ['-s'], { input: `printf '%s\\0' ${words.join(' ')}`, env })
    .toString()
    .split('\0')
    .slice(0, -1);
  const { submission } = await paste(`curl ${AT.url} ${words.map((each) => `--data-urlencode a=${each}`).join(' ')}`);
  const { a } = JSON.parse(submission);
  expect(a.map((each: string, at: number) => [words[at], each])).toEqual(known.map((each, at) => [words[at], each]));
});

test('whatever is pasted, there is an answer in words', async () => {
  const piece = fc.oneof(
    odd,
    fc.constantFrom(
      'curl',
      '-d',
      '-H',
      '--json',
      '-F',
      'a=b',
      '{"log":',
      '{"request":{"method":"POST","url":"x","postData":',
      '}',
      '[',
      ']',
      '{}',
      'null',
      "$'",
    ),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(piece, { maxLength: 8 }), async (pieces) => {
      const { status, text } = await bench.send('POST', 'api/pasted', { text: pieces.join(' ') });
      // NUL, and half a character, are in no text of a request.
      expect([200, 400]).toContain(status);
      expect(text).not.toMatch(/TypeError|undefined/);
    }),
    { numRuns: RUNS * 3 },
  );
  expect(readFileSync(`${folder}/quay.ts`, 'utf8')).toBe(MODULE);
  expect(await bench.call('judge', asked(good))).toMatchObject({ outcome: 'accepted' });
});
