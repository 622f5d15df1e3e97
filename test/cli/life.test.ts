import { spawnSync } from 'node:child_process';
import { readFileSync, statSync } from 'node:fs';
import { sql } from 'kysely';
import { commandIn, linesOf } from '../support/command.ts';
import { describeStores } from '../support/stores.ts';

// The commands besides check and new, each run as a person would.

const { file, folder, library, jestril } = commandIn();
const MARINA = 'examples/marina/index.ts';
const AT = ['--now', '2031-04-20T08:00:00Z'];

const version = (body: string, more = '') =>
  `import { between, choice, day, equals, intake, length, needed, not, text, trim, unique, collection, whole } from '${library}';
   const guests = collection('guests', { id: whole, mail: text }, { key: 'id' });
   export const stay = intake('stay', { ${body} }, { zone: 'Europe/Oslo', ${more} });`;
const BODY =
  "name: text('Name', length({ max: 80 })), nights: whole('Nights', between(1, 28)), pier: choice('Pier', ['north', 'south']), plug: text('Plug').orAbsent()";
const old = file('old.mjs', version(BODY, "rules: [needed('plug', { when: equals({ pier: 'north' }) })]"));

test.each<[what: string, changed: [string, string][], rules: string, told: readonly string[], exit: number]>([
  ['nothing', [], "needed('plug', { when: equals({ pier: 'north' }) })", [], 0],
  ['a label', [["'Name'", "'Full name'"]], "needed('plug', { when: equals({ pier: 'north' }) })", ['reworded field name'], 0],
  ['a limit', [['max: 80', 'max: 60']], "needed('plug', { when: equals({ pier: 'north' }) })", ['tightened rule length@name breaks'], 1],
  ['a wider limit', [['28', '30']], "needed('plug', { when: equals({ pier: 'north' }) })", ['loosened rule between@nights allows'], 0],
  [
    'a moved limit',
    [['1, 28', '2, 30']],
    "needed('plug', { when: equals({ pier: 'north' }) })",
    ['moved rule between@nights breaks allows'],
    1,
  ],
  [
    'a field more',
    [["plug: text('Plug').orAbsent()", "plug: text('Plug').orAbsent(), mail: text('Mail')"]],
    "needed('plug', { when: equals({ pier: 'north' }) })",
    ['new field mail breaks'],
    1,
  ],
  [
    'a field less',
    [["nights: whole('Nights', between(1, 28)), ", '']],
    "needed('plug', { when: equals({ pier: 'north' }) })",
    ['gone field nights allows', 'gone rule between@nights allows'],
    0,
  ],
  ['a rule less', [], '', ['gone rule needed@plug allows'], 0],
  ['a condition turned round', [], "needed('plug', { when: not(equals({ pier: 'north' })) })", ['moved rule needed@plug breaks allows'], 1],
  [
    'a step of cleaning',
    [["text('Name', ", "text('Name', trim(), "]],
    "needed('plug', { when: equals({ pier: 'north' }) })",
    ['loosened field name allows'],
    0,
  ],
])('compare tells %s', (_what, changed, rules, told, exit) => {
  const body = changed.reduce((text, [from, to]) => text.replace(from, to), BODY);
  const next = file('next.mjs', version(body, `rules: [${rules}]`));
  const { status, stdout } = jestril(['compare', old, next, '--format', 'json', ...AT]);
  const { intakes } = JSON.parse(stdout);
  type Told = {
    change: string;
    sort: string;
    name: string;
    breaks?: { before: { outcome: string }; after: { outcome: string } };
    allows?: object;
  };
  const differences = (intakes as { differences: Told[] }[]).flatMap((each) => each.differences);
  expect(
    differences
      .map((each) => [each.change, each.sort, each.name, each.breaks && 'breaks', each.allows && 'allows'].filter(Boolean).join(' '))
      .sort(),
  ).toEqual([...told].sort());
  for (const { breaks } of differences) if (breaks) expect([breaks.before.outcome, breaks.after.outcome]).toEqual(['accepted', 'rejected']);
  expect(status).toBe(exit);
});

test('compare judges the submissions that were sent, and says in words when a rule applies', () => {
  const next = file(
    'next.mjs',
    version(BODY.replace('28', '20'), "rules: [needed('plug', { when: equals({ pier: 'south' }), trial: true })]"),
  );
  const data = file('sent.ndjson', '{"name":"Ida","nights":25,"pier":"south"}\n{"name":"Ida","nights":2,"pier":"north","plug":"A"}\n');
  const { status, stdout } = jestril(['compare', old, next, '--data', data, ...AT]);
  expect(stdout).toContain('when: Pier is north → Pier is south');
  expect(stdout).toContain(
    '2 submissions judged by both: 1 verdict changes\n    /sent.ndjson, line 1: accepted → rejected  between@nights\n',
  );
  expect(stdout).toContain('needed@plug  would have failed 1 time');
  expect(status).toBe(1);
});

test('compare goes through a history', () => {
  const git = (...args: string[]) =>
    spawnSync('git', ['-c', 'user.name=Ida', '-c', 'user.email=ida@fjordmail.example', ...args], { cwd: folder, encoding: 'utf8' });
  git('init', '-q');
  const history = [
    BODY,
    BODY.replace('28', '30'),
    BODY.replace('28', '30').replace("'south'", "'south', 'east'"),
    BODY.replace('28', '20').replace("'south'", "'south', 'east'"),
  ];
  for (const [at, body] of history.entries()) {
    file('src/limits.mjs', `export const most = ${at};`);
    file('src/history.mjs', `import './limits.mjs';\n${version(body)}`);
    git('add', 'src');
    git('commit', '-q', '-m', `Rules ${at}`);
  }
  const between = (from: string, to: string) => {
    const { status, stdout, stderr } = jestril(['compare', `${from}:src/history.mjs`, to, '--format', 'json', ...AT], '', folder);
    expect(stderr).toBe('');
    const [{ differences } = { differences: [] }] = JSON.parse(stdout).intakes as { differences: { change: string; name: string }[] }[];
    return [status, ...differences.map(({ change, name }) => `${change} ${name}`)];
  };
  expect(between('HEAD~3', 'HEAD~2')).toEqual([0, 'loosened between@nights']);
  expect(between('HEAD~2', 'HEAD~1')).toEqual([0, 'loosened pier']);
  expect(between('HEAD~1', 'src/history.mjs')).toEqual([1, 'tightened between@nights']);
  expect(between('HEAD~3', 'HEAD')).toEqual([1, 'tightened between@nights', 'loosened pier']);
  const gone = jestril(['compare', 'HEAD~9:src/history.mjs', 'src/history.mjs'], '', folder);
  expect(gone.stderr).toMatch(/HEAD~9/);
  expect(gone.status).toBe(3);
});

test.each<[args: readonly string[], told: readonly (string | RegExp)[]]>([
  [
    ['describe', MARINA, '--intake', 'berth-booking', ...AT],
    [
      'Length overall must be from 2 to 40.\n        between@lengthOverall\n        Refused: Length overall:',
      'Gate code  gateCode',
      /stay-length\n/,
    ],
  ],
  [
    ['describe', MARINA, '--intake', 'berth-booking', '--format', 'markdown', '--locale', 'de', ...AT],
    ['# berth-booking', 'Länge über alles: Bitte 2 bis 40 angeben.', '```mermaid'],
  ],
  [
    ['describe', MARINA, '--intake', 'owner-sign-up', '--format', 'html', '--locale', 'pl', ...AT],
    ['<!doctype html>', 'lang="pl"', '<svg', 'prefers-color-scheme: dark'],
  ],
  [['describe', MARINA, '--intake', 'power-order', '--format', 'json', ...AT], ['"name": "power-order"']],
  [
    ['graph', MARINA, '--intake', 'power-order'],
    ['flowchart LR', 'within-limit'],
  ],
  [
    ['graph', MARINA, '--intake', 'power-order', '--format', 'dot'],
    ['digraph', '->'],
  ],
  [['graph', MARINA, '--intake', 'power-order', '--format', 'svg'], [/^<svg [^>]*xmlns="http:\/\/www\.w3\.org\/2000\/svg"/]],
  [['export', 'json-schema', MARINA, '--intake', 'power-order'], ['"$schema": "https://json-schema.org/draft/2020-12/schema"']],
  [
    ['export', 'openapi', 'examples/marina/routes.ts', '--title', 'Desk'],
    ['"openapi": "3.1.0"', '"/bookings/{id}"', 'application/merge-patch+json'],
  ],
  [
    ['export', 'typescript', MARINA, '--intake', 'power-order'],
    ['export interface PowerOrder {', "'16A'"],
  ],
  [['export', 'sql', MARINA, '--intake', 'vessel-registration', '--dialect', 'mysql'], ['create table `vessels`']],
  [
    ['export', 'html-form', MARINA, '--intake', 'owner-sign-up'],
    ['<label', 'type="password"'],
  ],
  [['completion', 'bash'], ['complete -o filenames -F _jestril jestril']],
  [['completion', 'zsh'], ['#compdef jestril']],
  [['completion', 'fish'], ['complete -c jestril']],
])('jestril %j', (args, told) => {
  const { status, stdout } = jestril(args);
  for (const text of told)
    expect(stdout).toEqual(
      typeof text === 'string'
        ? expect.stringContaining(text.replaceAll("'", args[1] === 'typescript' ? '"' : "'"))
        : expect.stringMatching(text),
    );
  expect(status).toBe(0);
  // No secret of an example is shown.
  expect(stdout).not.toMatch(/4071/);
});

test.each(['new', 'check', 'prove', 'describe', 'graph', 'export', 'compare', 'audit', 'compile', 'completion'])(
  '%s --help has an example and exit codes',
  (command) => {
    const { status, stdout } = jestril([command, '--help']);
    expect(stdout).toMatch(/\nExample:\n {2}\S/);
    expect(stdout).toMatch(/\nExit codes:\n {2}0 {2}/);
    expect(status).toBe(0);
  },
);

test.each<[args: readonly string[], told: RegExp]>([
  [['chek', 'a', 'b'], /check/],
  [['describe', MARINA, '--intake', 'berth-bokking'], /did you mean "berth-booking"\?/],
  [['describe', MARINA, '--intake', 'berth-booking', '--locale', 'not a tag'], /not a tag/],
  [['export', 'jsonschema', MARINA], /There is no language "jsonschema"; did you mean "json-schema"\?/],
  [['compare', 'nowhere:a.ts', old], /nowhere/],
  [['compare', 'gone.ts', old], /There is no module gone\.ts, and no revision/],
  [['audit', MARINA, 'gone.json', '--intake', 'vessel-registration'], /There is no file gone\.json\./],
  [['audit', MARINA, 'examples/marina/data/form.json', '--intake', 'power-order', '--state', 'x'], /--state is for a database/],
  [['prove', old, '--intake', 'staay'], /exports no intake named "staay"/],
  [['completion', 'tcsh'], /tcsh/],
  [['audit', old, file('odd.ndjson', '{"colour":"red"}')], /None of the columns colour is a field of "stay"/],
])('%j is told in one sentence', (args, told) => {
  const { status, stdout, stderr } = jestril(args);
  expect(stderr).toMatch(told);
  expect(stderr).not.toMatch(/\n {4}at /);
  expect(stdout).toBe('');
  expect(status).toBe(3);
});

test.each<[what: string, text: string, told: RegExp]>([
  ['a mistake of grammar', 'export const a = ;\n', /does not load: .*\(\/broken\.ts:1:18\)\n$/],
  ['a module that is missing', "import './gone.ts';\n", /does not load: .*gone\.ts.*broken\.ts/],
  ['an error while it loads', "\nthrow new Error('No tide today');\n", /does not load: No tide today \(\/broken\.ts:2:7\)\n$/],
  [
    'rules that contradict themselves',
    `import { intake, whole, between } from '${library}';\nexport const a = intake('a', { n: whole('N', between(3, 1)) });\n`,
    /does not describe an intake: .*\(\/broken\.ts:2:/,
  ],
  ['no intake', 'export const a = 1;\n', /exports no intake/],
])('%s is told with its place', (_what, text, told) => {
  const { status, stderr } = jestril(['describe', file('broken.ts', text)]);
  expect(stderr).toMatch(told);
  expect(status).toBe(3);
});

test('prove tells which changes of the rules nothing notices', () => {
  const module = file(
    'proof.mjs',
    `${version(BODY)}
     const good = { name: 'Ida', nights: 2, pier: 'north' };
     export const proofs = [{ intake: stay, accepts: [good, { ...good, nights: 28 }], rejects: [{ submission: { ...good, nights: 0 }, by: ['between@nights'] }, { submission: { ...good, name: 'x'.repeat(81) }, by: ['length@name'] }] }];`,
  );
  const { status, stdout } = jestril(['prove', module, '--changes', '--format', 'json']);
  const [proof] = JSON.parse(stdout).proofs as { isProven: boolean; changes: { what: string; isNoticed: boolean }[] }[];
  expect(proof?.isProven).toBe(true);
  const unnoticed = proof?.changes.filter(({ isNoticed }) => !isNoticed).map(({ what }) => what);
  // 28 is accepted and 29 tried by nothing; 80 characters neither.
  expect(unnoticed).toEqual(expect.arrayContaining(['length@name: max 80 becomes 79', 'between@nights: max 28 becomes 29']));
  expect(proof?.changes.length).toBeGreaterThan((unnoticed ?? []).length);
  expect(status).toBe(2);
});

describeStores((open, name) => {
  test('an audit judges what is stored, goes on where it stopped, and writes what to mend', async () => {
    const { db, address, close } = await open();
    try {
      const id = { SQLite: 'integer primary key', PostgreSQL: 'serial primary key', MariaDB: 'int auto_increment primary key' }[name];
      await sql
        .raw(`create table guests (id ${id}, mail varchar(80), name varchar(120), nights int, pier varchar(10), came date)`)
        .execute(db);
      const values = Array.from(
        { length: 25 },
        (_, at) =>
          `('g${at === 20 ? 19 : at}@fjordmail.example', 'Ida ${at}', ${at % 10 === 0 ? 0 : 3}, 'north', '2031-05-0${1 + (at % 9)}')`,
      );
      await sql.raw(`insert into guests (mail, name, nights, pier, came) values ${values.join(', ')}`).execute(db);
      const module = file(
        'audited.mjs',
        version(
          "mail: text('Mail'), name: text('Name'), nights: whole('Nights', between(1, 28)), pier: choice('Pier', ['north', 'south'], ), came: day('Came'), plug: text('Plug')",
          "storedIn: guests, rules: [unique(guests, { mail: 'mail' }), needed('plug', { as: 'plugged' })]",
        ).replace("plug: text('Plug')", "plug: text('Plug').orAbsent()"),
      );
      const from = name === 'SQLite' ? `sqlite://${address}` : address;
      const fixes = `${folder}/fixes-${name}.csv`;
      const args = ['audit', module, from, '--rows', '10', '--fixes', fixes, '--state', `${folder}/state-${name}.json`];
      const first = jestril(args);
      expect(first.stderr).toBe('');
      expect(first.stdout).toContain('Not in the table, and left aside with the rules that read them: plug.');
      expect(first.stdout).toContain('25 records: 21 would be accepted, 4 refused, 0 undecided.');
      expect(first.status).toBe(1);
      const told = readFileSync(fixes, 'utf8').trim().split('\n');
      expect(told[0]).toBe('id,mail,name,nights,pier,came,#findings');
      expect(told[1]).toBe('1,g0@fjordmail.example,Ida 0,0,north,2031-05-01,Nights must be from 1 to 28.');
      expect(told).toHaveLength(5);
      expect(statSync(fixes).mode & 0o777).toBe(0o600);
      // What came since.
      await sql
        .raw("insert into guests (mail, name, nights, pier, came) values ('new@fjordmail.example', 'Bo', 99, 'north', '2031-05-01')")
        .execute(db);
      const second = jestril(args);
      expect(second.stdout).toContain('26 records: 21 would be accepted, 5 refused, 0 undecided.');
      expect(readFileSync(fixes, 'utf8').trim().split('\n')).toHaveLength(6);
      const json = jestril(['audit', module, from, '--format', 'json']);
      expect(linesOf(json.stdout)[0]).toMatchObject({
        version: 1,
        records: 26,
        refused: 5,
        by: { 'between@nights': { count: 4, field: 'nights' } },
      });
    } finally {
      await close();
    }
  });
});
