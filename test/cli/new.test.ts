import { spawnSync } from 'node:child_process';
import { readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { sql } from 'kysely';
import { commandIn } from '../support/command.ts';
import { harbourApi } from '../support/harbour-api.ts';
import { describeStores } from '../support/stores.ts';

const { file, folder, jestril } = commandIn();
symlinkSync(join(process.cwd(), 'node_modules'), join(folder, 'node_modules'));
const written = (name: string) => readFileSync(join(folder, `${name}.ts`), 'utf8');
const make = (name: string, ...args: string[]) => jestril(['new', name, ...args, '--to', folder]);

/** What the compiler says of everything written so far. */
function compiled(...names: string[]): string {
  writeFileSync(
    join(folder, 'tsconfig.json'),
    JSON.stringify({
      compilerOptions: {
        strict: true,
        target: 'es2022',
        module: 'nodenext',
        noEmit: true,
        skipLibCheck: true,
        allowImportingTsExtensions: true,
        exactOptionalPropertyTypes: true,
        types: [],
      },
      files: names.map((name) => `${name}.proof.ts`),
    }),
  );
  return spawnSync('node', ['node_modules/typescript/bin/tsc', '-p', folder], { encoding: 'utf8' }).stdout;
}

const ROWS = Array.from({ length: 60 }, (_, at) => ({
  Mark: `PW-${1000 + at}`,
  'Length overall': (5 + at / 4).toFixed(2),
  berth: ['A1', 'B2', 'C3'][at % 3],
  guests: at % 6,
  'E-mail': at % 5 ? `ida${at}@fjordmail.example` : '',
  electric: at % 2 ? 'yes' : 'no',
  postcode: `0${100 + at}`,
}));
const csv = [Object.keys(ROWS[0] as object), ...ROWS.map((row) => Object.values(row))].map((cells) => cells.join(';')).join('\r\n');

test('fields that are named become an intake with its proof and data', () => {
  const { status, stdout } = make(
    'guest',
    'name',
    'mail:email',
    'nights:whole',
    'notes?:text',
    'pier:north|south',
    'marks:text[]',
    'code:secret',
  );
  expect(stdout.split('\n').slice(0, 3)).toEqual([
    expect.stringMatching(/guest\.ts: 7 fields$/),
    expect.stringMatching(/guest\.proof\.ts: 1 accepted, 3 refused; as expected$/),
    expect.stringMatching(/guest\.ndjson: 4 submissions to try$/),
  ]);
  expect(status).toBe(0);
  expect(written('guest')).toContain(
    "    pier: choice('Pier', ['north', 'south']),\n    marks: list('Marks', text('Marks'), length({ max: 100 })),\n    code: text('Code', length({ min: 8 })).secret(),",
  );
  expect(jestril(['check', join(folder, 'guest.ts'), join(folder, 'guest.ndjson')]).stdout).toContain(
    '4 submissions: 1 accepted, 3 rejected, 0 undecided.',
  );
  expect(make('guest', 'name').stderr).toBe('/guest.ts is there already, and is not overwritten; choose another name.\n');
});

test('rows of a CSV suggest kinds, limits and options, each with what it rests on', () => {
  const { status, stdout } = make('stay', '--from', file('stays.csv', csv));
  expect(stdout).toContain('All 60 rows of stays.csv are accepted.');
  expect(status).toBe(0);
  const lines = written('stay')
    .split('\n')
    .map((line) => line.trim());
  expect(lines.slice(lines.indexOf("'stay',") + 2, -4)).toEqual([
    '// Guess: there in all 60 rows; 7 characters; all of one form; no two alike: perhaps it has to be unique.',
    "mark: text('Mark', pattern(/^[A-Z]{2}-\\d{4}$/, 'text of the same form as PW-1000')),",
    '// Guess: there in all 60 rows; 5 to 19.75; 2 decimal places at most.',
    "lengthOverall: decimal('Length overall', atLeast(0), places(2)),",
    '// Guess: there in all 60 rows; 3 distinct values.',
    "berth: choice('Berth', ['A1', 'B2', 'C3']),",
    '// Guess: there in all 60 rows; 0 to 5.',
    "guests: whole('Guests', atLeast(0)),",
    '// Guess: missing in 12 of 60 rows; 22 to 23 characters; each is an e-mail address; no two alike: perhaps it has to be unique.',
    "eMail: text('E-mail', email()).orAbsent(),",
    '// Guess: there in all 60 rows; true or false.',
    "electric: flag('Electric'),",
    '// Guess: there in all 60 rows; 4 characters; all of one form; no two alike: perhaps it has to be unique.',
    "postcode: text('Postcode', pattern(/^\\d{4}$/, 'text of the same form as 0100')),",
  ]);
});

test('nested rows, and what is of no one kind', () => {
  const rows = ROWS.map((_row, at) => ({
    size: { length: at, beam: at % 3 ? null : 3 },
    crew: [{ born: '1988-02-29' }].slice(0, at % 2),
    odd: at % 2 ? 1 : 'x',
    none: null,
  }));
  const { stdout } = make('visit', '--from', file('visits.ndjson', rows.map((row) => JSON.stringify(row)).join('\n')));
  expect(stdout).toContain(
    '"odd" is left out: it is a text 30 times and a number 30 times.\n  "none" is left out: nothing is there in any of 60 rows.',
  );
  expect(stdout).toContain('All 60 rows of visits.ndjson are accepted.');
});

test('a published description', () => {
  const api = file('api.json', JSON.stringify(harbourApi));
  expect(make('booking', '--from', api).stderr).toBe(
    'api.json describes several; choose one with --schema: Problem, Size, Berth, Place, Guest, Booking, Payment, Card, Invoice.\n',
  );
  expect(make('booking', '--from', api, '--schema', 'Booking').status).toBe(0);
  expect(written('booking')).toContain("needed('plug', { when: allOf(present('electric'), equals({ electric: true })) }),");
  const odd = file('odd.json', JSON.stringify({ $schema: 'x', title: 'odd', type: 'object', properties: { a: { prefixItems: [] } } }));
  expect(make('odd', '--from', odd).stderr).toBe(
    'odd.json: "odd" cannot be an intake: #/properties/a/prefixItems: a list has entries that are all alike.\n',
  );
});

test('what is written compiles', () => {
  expect(compiled('guest', 'stay', 'visit', 'booking')).toBe('');
});

test.each<[args: readonly string[], told: string]>([
  [['a b'], '"a b" cannot name an intake; use letters, digits and dashes, such as berth-booking.'],
  [['x'], 'Name the fields, such as: jestril new guest name nights:whole notes?:text; or take them --from a file or a table.'],
  [['x', 'a:hole'], '"hole" is no type of a field; did you mean "whole"?'],
  [['x', 'a b:text'], '"a b:text" is no field; write its name and its type, such as nights:whole, notes?:text or pier:north|south.'],
  [['x', 'a', 'a'], '"a" is named twice.'],
  [['x', 'a', '--from', 'b.csv'], 'Name fields, or take them --from somewhere; not both.'],
  [['x', '--from', 'no.csv'], 'There is no file no.csv.'],
  [['x', '--from', '/dev/null'], '/dev/null is empty; it holds no submission.'],
  [['x', '--table', 'vessels'], '--table and --schema say which part of --from is meant; name that, too.'],
])('new %j says what to do', (args, told) => {
  const { status, stderr } = make(args[0] as string, ...args.slice(1));
  expect(stderr).toBe(`${told}\n`);
  expect(status).toBe(3);
});

// By hand: JESTRIL_RANDOM=200 npm test -- test/cli/new.test.ts
test('rows of any sort are accepted by what they suggest', () => {
  const cell = fc.oneof(
    fc.string(),
    fc.integer(),
    fc.double({ noNaN: true, noDefaultInfinity: true }),
    fc.boolean(),
    fc.constant(null),
    fc.constantFrom('A1', '0471', '2031-05-01', '', ' ', 'ünï', '12.50'),
  );
  const row = fc.dictionary(
    fc.constantFrom('a', 'b', 'c', 'a.b', '__proto__', 'constructor', 'Ä ö'),
    fc.oneof(cell, fc.array(cell, { maxLength: 3 }), fc.record({ x: cell })),
  );
  let count = 0;
  fc.assert(
    fc.property(fc.array(row, { minLength: 1, maxLength: 30 }), (rows) => {
      const name = `random${count++}`;
      const { status, stdout, stderr } = make(
        name,
        '--from',
        file(`${name}.in.ndjson`, rows.map((each) => JSON.stringify(each)).join('\n')),
      );
      if (/suggests no field/.test(stderr)) return;
      if (status !== 0) throw new Error(`${stdout}${stderr}`);
    }),
    {
      numRuns: Number(process.env.JESTRIL_RANDOM ?? 4),
      // Found by others: the shortest text of a number may have an exponent.
      examples: [[[{ a: 5e-324 }, { a: 1e21, b: 1.5e-7 }]]],
    },
  );
});

describeStores((open, name) => {
  test('a table becomes an intake that accepts its rows', async () => {
    const { db, address, close } = await open();
    try {
      const id = { SQLite: 'integer primary key', PostgreSQL: 'serial primary key', MariaDB: 'int auto_increment primary key' }[name];
      await sql.raw(`create table owners (id ${id}, email varchar(120) not null unique)`).execute(db);
      await sql
        .raw(
          `create table vessels (id ${id}, mark varchar(7) not null unique, owner_id int not null, length_overall decimal(5,2) not null, insured_until date, foreign key (owner_id) references owners(id))`,
        )
        .execute(db);
      await sql.raw("insert into owners (email) values ('ida@fjordmail.example')").execute(db);
      await sql
        .raw(
          "insert into vessels (mark, owner_id, length_overall, insured_until) values ('PW-1', 1, 5.5, '2031-05-01'), ('PW-2', 1, 6, null)",
        )
        .execute(db);
      const called = `vessel-${name}`;
      const { status, stdout, stderr } = make(called, '--from', name === 'SQLite' ? `sqlite://${address}` : address, '--table', 'vessels');
      expect(stderr).toBe('');
      expect(stdout).toContain('as expected');
      expect(stdout).toContain('All 2 rows of vessels are accepted.');
      expect(status).toBe(0);
      const module = written(called);
      expect(module).toContain("export const vessels = collection('vessels', { id: whole, mark: text }, { key: 'id' });");
      expect(module).toContain("mark: text('Mark', length({ max: 7 })),");
      expect(module).toMatch(/rules: \[\s*unique\(vessels, \{ mark: 'mark' \}.*known\(owners, \{ id: 'owner_id' \}\),?\s*\]/s);
      expect(compiled(called)).toBe('');
      const odd = { SQLite: 'blob', PostgreSQL: 'integer[]', MariaDB: "set('text')" }[name];
      const unread = { SQLite: 'geometry', PostgreSQL: 'int4range', MariaDB: 'bit(3)' }[name];
      await sql.raw(`create table charts (id ${id}, title varchar(9) not null, odd ${odd}, unread ${unread})`).execute(db);
      const charts = make(`chart-${name}`, '--from', name === 'SQLite' ? `sqlite://${address}` : address, '--table', 'charts');
      expect([charts.status, charts.stderr]).toEqual([0, '']);
      for (const [column, type] of Object.entries({ odd, unread }))
        expect(charts.stdout + written(`chart-${name}`)).toContain(`"${column}" is left out: nothing is known of ${type}`);
      const missing = make('other', '--from', name === 'SQLite' ? `sqlite://${address}` : address, '--table', 'vesels');
      expect(missing.stderr).toBe('There is no table vesels; did you mean "vessels"?\n');
    } finally {
      await close();
    }
  });
});
