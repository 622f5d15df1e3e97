import { spawn } from 'node:child_process';
import { appendFileSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { sql } from 'kysely';
import { commandIn, linesOf } from '../support/command.ts';
import { connect } from '../support/connect.ts';

// What check judges with, and what it tells of it.

const { file, folder, library, jestril } = commandIn();
const module = file(
  'stay.mjs',
  `import { collection, intake, known, length, needed, pattern, text, trim, unique, whole } from '${library}';
   const guests = collection('guests', { id: whole, mail: text }, { key: 'id' });
   const berths = collection('berths', { code: text }, { key: 'code' });
   export const stay = intake('stay', {
     mail: text('Mail', trim()),
     berth: text('Berth'),
     nights: whole('Nights'),
     code: text('Code', pattern(/^\\d{4}$/, 'four digits')).secret(),
     note: text('Note').orAbsent(),
   }, { storedIn: guests, rules: [unique(guests, { mail: 'mail' }), known(berths, { code: 'berth' }), needed('note', { as: 'noted', trial: true })] });`,
);
const GOOD = { mail: 'ida@fjordmail.example', berth: 'A1', nights: 2, code: '4071' };
const records = file('records.json', JSON.stringify({ guests: [{ id: 1, mail: 'bo@keelpost.example' }], berths: [{ code: 'A1' }] }));
const data = file(
  'stays.ndjson',
  [GOOD, { ...GOOD, mail: 'bo@keelpost.example', berth: 'Z9' }, { ...GOOD, mail: 'liv@fjordmail.example', code: 'hush-hush' }]
    .map((row) => JSON.stringify(row))
    .join('\n'),
);

/** The uses that reject or are open, a line each. */
function told(args: readonly string[]) {
  const { stdout } = jestril(['check', module, ...args, '--format', 'json']);
  return linesOf(stdout)
    .slice(0, -1)
    .map(({ outcome, findings = [], unsettled = [] }) =>
      [outcome, ...[...findings, ...unsettled].map(({ use }: { use: string }) => use)].join(' '),
    );
}
const EXPECTED = ['accepted', 'rejected unique@mail known@berth', 'rejected pattern@code'];

test('records from a file, a module and a database', async () => {
  expect(told([data, '--records', records])).toEqual(EXPECTED);
  const recordsModule = file(
    'records.mjs',
    `import { memoryRecords } from '${library.replace('index.js', 'records/memory.js')}';\nexport const records = memoryRecords({ guests: [{ id: 1, mail: 'bo@keelpost.example' }], berths: [{ code: 'A1' }] });`,
  );
  expect(told([data, '--records', recordsModule])).toEqual(EXPECTED);
  const db = connect('SQLite', `${folder}/harbour.sqlite`);
  await sql.raw('create table guests (id integer primary key, mail text)').execute(db);
  await sql.raw('create table berths (code text primary key)').execute(db);
  await sql.raw("insert into guests (mail) values ('bo@keelpost.example')").execute(db);
  await sql.raw("insert into berths values ('A1')").execute(db);
  await db.destroy();
  expect(told([data, '--records', `${folder}/harbour.sqlite`])).toEqual(EXPECTED);
});

test('a collection that is not there leaves its own rules open, and no others', () => {
  const some = file('some.json', JSON.stringify({ guests: [{ id: 1, mail: 'bo@keelpost.example' }] }));
  expect(told([data, '--records', some])).toEqual([
    'undecided known@berth',
    'rejected unique@mail known@berth',
    'rejected pattern@code known@berth',
  ]);
});

test.each<[what: string, text: string, sentence: RegExp]>([
  ['a column that is no column', '{"guests":[{"id":1,"mial":"x"}],"berths":[]}', /records.*guests.*"mial".*did you mean "mail"/s],
  ['a value of another kind', '{"guests":[{"id":"one","mail":"x"}],"berths":[]}', /guests.*id/s],
  ['no JSON', '{"guests":[', /is not JSON: column 12/],
  ['no object', '[]', /a list of rows for each collection/],
])('records with %s blame the file, and not who sends', (_what, text, sentence) => {
  const { status, stderr, stdout } = jestril(['check', module, data, '--records', file('odd-records.json', text)]);
  expect(stderr).toMatch(sentence);
  expect(stdout).toBe('');
  expect(status).toBe(3);
});

test('an explanation tells what was read and asked, and no secret', () => {
  const { stdout } = jestril(['check', module, data, '--records', records, '--explain']);
  expect(stdout).toContain('unique@mail');
  expect(stdout).toMatch(/bo@keelpost\.example/);
  expect(stdout).toMatch(/noted/);
  expect(stdout).not.toMatch(/hush-hush|4071/);
  const json = jestril(['check', module, data, '--records', records, '--explain', '--format', 'json']).stdout;
  expect(json).not.toMatch(/hush-hush|4071/);
  expect(linesOf(json).at(-1)).toMatchObject({ summary: { accepted: 1, rejected: 2, trials: [{ use: 'noted', failed: 3 }] } });
});

test('changes to what is stored', () => {
  const changes = file(
    'changes.ndjson',
    [
      { stored: { ...GOOD, mail: 'bo@keelpost.example' }, change: { nights: 3 }, itself: { id: 1 } },
      { stored: GOOD, change: { mail: 'bo@keelpost.example' }, itself: { id: 2 } },
      { stored: GOOD, change: { nights: 'x' }, itself: { id: 2 } },
      { stored: GOOD },
    ]
      .map((row) => JSON.stringify(row))
      .join('\n'),
  );
  const { stdout } = jestril(['check', module, changes, '--records', records, '--amends', '--format', 'json']);
  expect(
    linesOf(stdout)
      .slice(0, -1)
      .map(({ outcome, problem, findings = [] }) => problem ?? [outcome, ...findings.map(({ use }: { use: string }) => use)].join(' ')),
  ).toEqual(['accepted', 'rejected unique@mail', 'rejected readable@nights', expect.stringContaining('change')]);
});

test('rejected rows are mended in their file, and sent again', () => {
  const csv = file(
    'in.csv',
    'mail;berth;nights;code\nida@fjordmail.example;A1;2;4071\n=1+1;"Z;9";2;4071\nliv@fjordmail.example;A1;two;4071\n',
  );
  const rejected = `${folder}/to-mend.csv`;
  expect(jestril(['check', module, csv, '--records', records, '--rejected', rejected]).status).toBe(1);
  expect(statSync(rejected).mode & 0o777).toBe(0o600);
  const lines = readFileSync(rejected, 'utf8').trim().split(/\r?\n/);
  expect(lines).toHaveLength(3);
  expect(lines[0]).toMatch(/#row.*#findings|#findings/);
  const again = jestril(['check', module, rejected, '--records', records, '--format', 'json']);
  expect(linesOf(again.stdout).at(-1)).toMatchObject({ summary: { accepted: 0, rejected: 2 } });
  writeFileSync(rejected, readFileSync(rejected, 'utf8').replace('"Z;9"', 'A1').replace('two', '2'));
  expect(jestril(['check', module, rejected, '--records', records]).status).toBe(0);
});

test('watching judges again when the data change, and ends when it is told to', async () => {
  const watched = file('watched.ndjson', `${JSON.stringify(GOOD)}\n`);
  const child = spawn('node', ['bin/jestril.js', 'check', module, watched, '--records', records, '--watch', '--quiet']);
  let output = '';
  child.stdout.on('data', (text) => {
    output += text;
  });
  const seen = async (text: string) => {
    for (let tries = 0; !output.includes(text) && tries < 200; tries++) await new Promise((resolve) => setTimeout(resolve, 100));
    expect(output).toContain(text);
  };
  const ended = new Promise<number | null>((resolve) => child.on('exit', (code) => resolve(code)));
  await seen('1 submission: 1 accepted');
  appendFileSync(watched, `${JSON.stringify({ ...GOOD, nights: 'x' })}\n`);
  await seen('2 submissions: 1 accepted, 1 rejected');
  child.kill('SIGINT');
  await ended;
});
