import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import { commandIn, linesOf } from '../support/command.ts';
import { Random } from '../support/random.ts';
import { begun } from '../support/screening.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// What a screening writes besides its verdicts: rows to be mended, values that were accepted, and a table that takes them, each row once,
// whoever is killed.

const library = (path: string) => `'${join(process.cwd(), 'dist', path)}'`;
const MODULE = `
import { collection, day, flag, group, intake, length, list, moment, text, unique, whole } from ${library('index.js')};
const vessels = collection('vessels', { id: whole, mark: text }, { key: 'id' });
const fields = { mark: text('Mark', length({ max: 8 })), name: text('Name'), insured: day('Insured until').orAbsent(), sail: flag('Sail').orElse(false),
  seen: moment('Seen').orAbsent(), engine: group('Engine', { power: whole('Power') }).orAbsent(), crew: list('Crew', text('Name')).orEmpty() };
export const vessel = intake('vessel', fields, { storedIn: vessels, rules: [unique(vessels, { mark: 'mark' })] });
export const careless = intake('careless', fields, { storedIn: vessels });
export const lost = intake('lost', { ...fields, colour: text('Colour') }, { storedIn: vessels });
`;

describeStores((open, name) => {
  const { folder, file, jestril } = commandIn();
  const module = file('vessels.mjs', MODULE);
  let store: TestStore;
  const id = { PostgreSQL: 'serial primary key', MariaDB: 'int primary key auto_increment', SQLite: 'integer primary key' }[name];
  beforeAll(async () => {
    store = await open();
    const moment = name === 'MariaDB' ? 'datetime(3)' : name === 'PostgreSQL' ? 'timestamptz' : 'timestamp';
    for (const table of ['vessels', 'others'])
      await sql
        .raw(
          `create table ${table} (id ${id}, mark varchar(40) not null unique, name varchar(40), insured date, sail boolean, seen ${moment}, engine_power int, crew ${name === 'MariaDB' ? 'longtext' : 'json'})`,
        )
        .execute(store.db);
  });
  afterAll(() => store?.close());
  const stored = (table: string) =>
    store.db.selectFrom(table).selectAll().orderBy('id').execute() as Promise<{ [column: string]: unknown }[]>;

  test('rows that are accepted are stored, those that are not come back as they were', async () => {
    await sql`insert into vessels (mark, name) values ('OLD', 'x')`.execute(store.db);
    const rows = [
      {
        mark: 'A1',
        name: 'Ida',
        insured: '2031-05-01',
        sail: true,
        seen: '2031-05-01T10:00:00.250+02:00',
        engine: { power: 20 },
        crew: ['Bo', 'Liv'],
      },
      { mark: 'A1', name: 'Twice' },
      { mark: 'OLD', name: 'There' },
      { mark: 'B2', name: 'Two\nlines; "quoted"', crew: [] },
      { mark: 'MUCH TOO LONG', name: 'x' },
    ];
    const path = file('rows.json', JSON.stringify(rows));
    const [to, mend, accepted] = ['out', 'mend.json', 'ok.ndjson'].map((each) => join(folder, each)) as [string, string, string];
    const args = ['screen', 'start', module, path, '--intake', 'vessel', '--records', store.address, '--to', to];
    const run = jestril([...args, '--rejected', mend, '--accepted', accepted, '--into', store.address]);
    expect(run).toMatchObject({ status: 1, stderr: expect.stringContaining('2 rows are stored in vessels.') });
    const power = (row: { [column: string]: unknown }) => [
      row.mark,
      row.name,
      Boolean(row.sail),
      row.engine_power,
      row.crew === null ? null : JSON.parse(typeof row.crew === 'string' ? row.crew : JSON.stringify(row.crew)),
    ];
    expect((await stored('vessels')).slice(1).map(power)).toEqual([
      ['A1', 'Ida', true, 20, ['Bo', 'Liv']],
      ['B2', 'Two\nlines; "quoted"', false, null, []],
    ]);
    // The moment is the same, as the rules read it again.
    expect(linesOf(readFileSync(accepted, 'utf8'))[0]).toMatchObject({ mark: 'A1', seen: '2031-05-01T08:00:00.250Z', sail: true });
    const audited = jestril(['audit', module, store.address, '--intake', 'careless', '--table', 'vessels', '--format', 'json']);
    expect(audited.status).toBe(0);
    // What came back is judged alike when it is sent again, and so is what was accepted, but that it is there by now.
    const again = (data: string) =>
      linesOf(jestril(['check', module, data, '--intake', 'vessel', '--records', store.address, '--format', 'json']).stdout)
        .slice(0, -1)
        .map(({ findings }) => findings.map(({ use }: { use: string }) => use).join());
    expect([again(mend), again(accepted)]).toEqual([
      ['unique@mark', 'unique@mark', 'length@mark'],
      ['unique@mark', 'unique@mark'],
    ]);
    expect(statSync(mend).mode & 0o077).toBe(0);
    expect(JSON.parse(readFileSync(join(to, 'summary.json'), 'utf8'))).toMatchObject({
      run: expect.any(String),
      stored: { rows: 2, refused: 0 },
    });
  });

  test('killed at any time and gone on with, each row is there once, and what the table refuses is told', async () => {
    const random = new Random(7);
    const rows = Array.from({ length: 1200 }, (_, at) => ({ mark: `M${random.below(1120)}`, name: `Row ${at + 1}` }));
    const path = file('many.ndjson', rows.map((row) => `${JSON.stringify(row)}\n`).join(''));
    const to = join(folder, 'many');
    // It knows of no rule that marks are unique: the table does.
    const args = ['screen', 'start', module, path, '--intake', 'careless', '--to', to, '--range-bytes', '4000'];
    let ended = { code: null as number | null, told: '' };
    for (let times = 0; !existsSync(join(to, 'summary.json')); times++) {
      const run = begun([...args, '--into', store.address, '--into-table', 'others', '--resume'], process.cwd());
      // Mostly when some of it is stored.
      const isStored = async () =>
        Number((await sql<{ n: number }>`select count(*) as n from others`.execute(store.db)).rows[0]?.n) > times * 120;
      let isOver = false;
      void run.ended.then(() => {
        isOver = true;
      });
      if (times < 5) {
        while (!isOver && !(await isStored())) await new Promise((resolve) => setTimeout(resolve, 5));
        run.kill();
      }
      ended = await run.ended;
    }
    const marks = new Set(rows.map(({ mark }) => mark));
    const there = await stored('others');
    expect(there.map(({ mark }) => mark)).toHaveLength(marks.size);
    // The first with each mark.
    const first = new Map(rows.toReversed().map(({ mark, name: own }) => [mark, own]));
    expect(new Map(there.map((row) => [row.mark, row.name]))).toEqual(first);
    const refused = linesOf(readFileSync(join(to, 'not-stored.ndjson'), 'utf8'));
    expect(refused.map(({ row }) => row)).toEqual(rows.flatMap(({ mark, name: own }, at) => (first.get(mark) === own ? [] : [at + 1])));
    expect(refused[0].why[0]).toEqual(expect.any(String));
    expect(ended).toMatchObject({
      code: 1,
      told: expect.stringContaining(`${(rows.length - marks.size).toLocaleString('en')} rows it has refused`),
    });
    expect(await store.db.selectFrom('jestril_screened').selectAll().execute()).toEqual([]);
    // All is done: nothing is stored again.
    expect(jestril([...args, '--resume']).status).toBe(1);
    expect(await stored('others')).toHaveLength(marks.size);
  });

  // What is told is the same for all.
  if (name !== 'SQLite') return;
  test('what cannot be is told before anything is judged', () => {
    const path = file('few.ndjson', '{"mark":"Z","name":"x"}\n{"mark":"much too long","name":"x"}\n');
    const start = (intake: string, ...more: readonly string[]) =>
      jestril(['screen', 'start', module, path, '--intake', intake, '--to', join(folder, 'never'), ...more]);
    for (const [run, problem] of [
      [start('lost', '--into', store.address), 'vessels has no column "colour" for the field "colour" of "lost"'],
      [start('careless', '--into', store.address, '--into-table', 'vesels'), 'There is no table vesels; did you mean "vessels"?'],
      [start('careless', '--into', 'x.csv'), 'is no database; for a file there is --accepted'],
      [start('careless', '--rejected', path), 'is what is read'],
      [start('careless', '--accepted', module), 'is what is read'],
      [start('careless', '--accepted', 'one.csv', '--rejected', './one.csv'), '--rejected and --accepted name one file'],
      [start('careless', '--most-rejected', '7x'), 'such as 5% or 0.05'],
    ] as const)
      expect([run.status, run.stderr]).toEqual([3, expect.stringContaining(problem)]);
    expect(existsSync(join(folder, 'never'))).toBe(false);
    const stopped = start('careless', '--most-rejected', '30%');
    expect([stopped.status, stopped.stderr]).toEqual([
      1,
      expect.stringContaining('One row is not accepted, and --most-rejected 30% ends it here'),
    ]);
  });
});
