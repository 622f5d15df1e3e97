import { collection, day, decimal, exact, intake, list, maybe, noOverlap, text, unique, whole } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { claimsIn } from 'jestril/sql';
import Database from 'libsql';
import { Random } from '../support/random.ts';

// What rows claim is the same wherever it is kept, and the same as comparing each row with all that were accepted before.

const random = new Random(Number(process.env.JESTRIL_SEED ?? 3));
const numbers = ['-12.55', '-12.5', '-12', '-0.5', '0', '0.05', '0.5', '9', '10', '12', '12.5', '12.50', '100'];
const days = Array.from({ length: 12 }, (_, at) => `2031-05-${String(at + 1).padStart(2, '0')}`);
const columns = {
  id: whole,
  mark: text,
  from: maybe(day),
  to: maybe(day),
  low: maybe(exact),
  high: maybe(exact),
  least: decimal,
  most: decimal,
};
const held = collection('held', columns, { key: 'id' });
const fields = {
  mark: text('Mark'),
  from: day('From').orAbsent(),
  to: day('To').orAbsent(),
  low: exact('Low').orAbsent(),
  high: exact('High').orAbsent(),
  least: decimal('Least'),
  most: decimal('Most'),
  marks: list('Marks', text('Mark')),
};
type Row = { readonly [name in keyof typeof fields]?: unknown };

const forms = {
  unique: intake('form', fields, {
    rules: [unique(held, { mark: 'mark' }, { ignoringCase: ['mark'] }), unique(held, { mark: 'marks.*' })],
  }),
  days: intake('form', fields, { rules: [noOverlap(held, { mark: 'mark', from: 'from', to: 'to' }, { interval: ['from', 'to'] })] }),
  touching: intake('form', fields, {
    rules: [noOverlap(held, { mark: 'mark', from: 'from', to: 'to' }, { interval: ['from', 'to'], touching: 'refused' })],
  }),
  exact: intake('form', fields, { rules: [noOverlap(held, { mark: 'mark', low: 'low', high: 'high' }, { interval: ['low', 'high'] })] }),
  numbers: intake('form', fields, {
    rules: [noOverlap(held, { mark: 'mark', least: 'least', most: 'most' }, { interval: ['least', 'most'] })],
  }),
};

function rowOf(): Row {
  const ends = <T>(values: readonly T[], isOpen: boolean) =>
    [random.pick(values), random.pick(values)].map((value) => (isOpen && random.below(12) === 0 ? undefined : value));
  const [from, to] = ends(days, true);
  const [low, high] = ends(numbers, true);
  const [least, most] = ends([-3.5, -3, 0, 0.25, 7, 70], false);
  return {
    mark: random.pick(['a', 'A', '["a"]', 'b', 'c']),
    from,
    to,
    low,
    high,
    least,
    most,
    marks: [random.pick(['x', 'y', '5', `m${random.below(500)}`])],
  };
}

async function outcomes(form: (typeof forms)['days'], rows: readonly Row[], claims?: ReturnType<typeof claimsIn>): Promise<string[]> {
  const told: string[] = [];
  const records = memoryRecords({ held: [] });
  for await (const { verdict } of form.judgeMany(rows, { records, chunk: 7, ...(claims && { claims }) }))
    told.push(
      verdict.outcome === 'rejected'
        ? verdict.findings.map(({ use, facts }) => `${use} ${facts.row ?? facts.sameAs}`).join()
        : verdict.outcome,
    );
  return told;
}

test.each(Object.keys(forms) as (keyof typeof forms)[])(
  '%s: kept in memory and in a file, each of random rows is told the same',
  async (name) => {
    for (let run = 0; run < Number(process.env.JESTRIL_RANDOM ?? 8); run++) {
      const rows = Array.from({ length: 300 }, rowOf);
      const database = new Database('');
      const inFile = await outcomes(forms[name] as (typeof forms)['days'], rows, claimsIn(database as never));
      expect(inFile).toEqual(await outcomes(forms[name] as (typeof forms)['days'], rows));
      expect(inFile).toContain('accepted');
      database.close();
    }
  },
);

test.each(['days', 'touching', 'exact', 'numbers'] as const)(
  '%s: accepted rows are those that records of the accepted before would allow',
  async (name) => {
    const rows = Array.from({ length: 150 }, rowOf);
    const stored: object[] = [];
    const oneByOne: string[] = [];
    for (const row of rows) {
      const { outcome } = await forms[name].judge(row, { records: memoryRecords({ held: stored as never }) });
      if (outcome === 'accepted') stored.push({ ...row });
      oneByOne.push(outcome);
    }
    const together = (await outcomes(forms[name] as never, rows)).map((told) => (told === 'accepted' ? told : 'rejected'));
    expect(together).toEqual(oneByOne);
  },
);

test('a database that holds something is not taken', () => {
  const database = new Database('');
  database.exec('create table precious (id integer)');
  expect(() => claimsIn(database as never)).toThrow('claimsIn needs a database of its own');
});
