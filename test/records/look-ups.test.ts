import {
  above,
  below,
  both,
  cached,
  checkStore,
  collection,
  column,
  compareExact,
  day,
  decimal,
  either,
  exact,
  exactly,
  exactSum,
  intake,
  known,
  maybe,
  notAbove,
  notBelow,
  type Records,
  rule,
  text,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { sql } from 'kysely';
import { Random } from '../support/random.ts';
import { describeStores, type TestStore } from '../support/stores.ts';

// Any look-up that can be written finds what a naive reading of it finds, in memory and in every database.

const columns = {
  marina: whole,
  id: whole,
  owner: maybe(text),
  state: text,
  price: maybe(exact),
  size: decimal,
  from: day,
  to: maybe(day),
};
const stays = collection('stays', columns, { key: ['marina', 'id'], scope: 'marina' });
const berths = collection('berths', { marina: whole, code: text, limit: exact }, { key: ['marina', 'code'], scope: 'marina' });

type Row = { readonly [name in keyof typeof columns]: string | number | null };
const random = new Random(Number(process.env.JESTRIL_SEED ?? 11));
const DAYS = ['2031-05-01', '2031-05-02', '2031-05-03', '2031-05-04'];
const POOL: { readonly [name: string]: readonly (string | number)[] } = {
  owner: ['ida', 'bo'],
  state: ['open', 'held', 'paid'],
  price: ['0.1', '0.2', '12.50', '99.999'],
  size: [1, 2.5, 12],
  from: DAYS,
  to: DAYS,
};
const rows: readonly Row[] = Array.from({ length: 60 }, (_, index) => ({
  marina: 1 + (index % 2),
  id: Math.floor(index / 2),
  owner: random.pick([...(POOL.owner as string[]), null]),
  state: random.pick(POOL.state as string[]),
  price: random.pick([...(POOL.price as string[]), null]),
  size: random.pick(POOL.size as number[]),
  from: random.pick(DAYS),
  to: random.pick([...DAYS, null]),
}));

/** A condition as a tree, from which both its `where` and its naive reading are made. */
type Tree =
  | { readonly how: 'both' | 'either'; readonly of: readonly Tree[] }
  | { readonly name: string; readonly op: '=' | '<' | '>' | '<=' | '>=' | 'none'; readonly against: Against };
type Against = { readonly role: string } | { readonly value: string | number } | { readonly column: string };

function treeOf(depth: number): Tree {
  if (depth > 0 && random.below(3) > 0)
    return { how: random.pick(['both', 'either']), of: Array.from({ length: 2 + random.below(2) }, () => treeOf(depth - 1)) };
  const name = random.pick(Object.keys(POOL));
  if (name === 'owner' && random.below(3) === 0) return { name, op: 'none', against: { value: 0 } };
  const op = name === 'owner' || name === 'state' ? '=' : random.pick(['=', '<', '>', '<=', '>=']);
  const isDay = name === 'from' || name === 'to';
  const against = random.below(5);
  if (isDay && against === 0) return { name, op, against: { column: name === 'from' ? 'to' : 'from' } };
  if (against === 1) return { name, op, against: { value: random.pick(POOL[name] as string[]) } };
  return { name, op, against: { role: `r_${name}` } };
}

const COMPARE = { '<': below, '>': above, '<=': notAbove, '>=': notBelow } as const;
function whereOf(tree: Tree): object {
  if ('of' in tree) {
    const parts = tree.of.map(whereOf) as [object, object];
    // Several comparisons of one column may stand with it.
    const name = tree.of.every((part) => 'name' in part) && new Set(tree.of.map((part) => (part as { name: string }).name));
    const join = (each: [object, object]) => (tree.how === 'both' ? both(...each) : either(...each));
    if (name && name.size === 1) {
      const [only = ''] = name;
      return { [only]: join(parts.map((part) => (part as { [column: string]: object })[only]) as [object, object]) };
    }
    return join(parts);
  }
  const { name, op, against } = tree;
  if (op === 'none') return { [name]: exactly(null) };
  const than = 'role' in against ? against.role : 'value' in against ? exactly(against.value) : column(against.column);
  return { [name]: op === '=' ? than : (COMPARE[op] as (than: unknown) => object)(than) };
}

type Read = { readonly [role: string]: string | number | undefined };
function matches(tree: Tree, row: Row, read: Read): boolean {
  if ('of' in tree)
    return tree.how === 'both' ? tree.of.every((each) => matches(each, row, read)) : tree.of.some((each) => matches(each, row, read));
  const stored = row[tree.name as keyof Row];
  if (tree.op === 'none') return stored === null;
  const { against } = tree;
  const asked = 'role' in against ? read[against.role] : 'value' in against ? against.value : row[against.column as keyof Row];
  if (stored === null || asked === undefined || asked === null) return false;
  const order = tree.name === 'price' ? compareExact(stored, asked) : stored < asked ? -1 : stored > asked ? 1 : 0;
  return { '=': order === 0, '<': order < 0, '>': order > 0, '<=': order <= 0, '>=': order >= 0 }[tree.op];
}

const ROLES = { r_owner: text, r_state: text, r_price: exact, r_size: decimal, r_from: day, r_to: day };
const fields = Object.fromEntries(Object.entries(ROLES).map(([name, kind]) => [name, (kind as typeof text)(name).orAbsent()]));
const paths = Object.fromEntries(Object.keys(ROLES).map((name) => [name, name]));

const WANTS = ['count', 'exists', 'sum', 'highest', 'lowest', 'first'] as const;
function naive(want: (typeof WANTS)[number], found: readonly Row[]): unknown {
  const prices = found.map(({ price }) => price).filter((price) => price !== null);
  const days = found.map(({ to }) => to as string | null).filter((to) => to !== null);
  switch (want) {
    case 'count':
      return found.length;
    case 'exists':
      return found.length > 0;
    case 'sum':
      return exactSum(...prices);
    case 'highest':
      return days.sort().at(-1);
    case 'lowest':
      return days.sort()[0];
    case 'first': {
      const [first] = found
        .filter(({ to }) => to !== null)
        .sort((a, b) => (a.to === b.to ? Number(a.id) - Number(b.id) : String(a.to) < String(b.to) ? 1 : -1));
      return first?.id;
    }
  }
}

/** One random intake with every sort of look-up, judged by each of the records: where they differ from the naive reading. */
async function differences(all: { readonly [name: string]: Records }): Promise<string[]> {
  const tree = treeOf(3);
  const where = whereOf(tree) as never;
  const except = { exceptItself: true } as const;
  let seen: { [name: string]: unknown } = {};
  const roles = Object.fromEntries(Object.entries(ROLES).map(([name, kind]) => [name, maybe(kind as typeof text)]));
  const asks = rule('test/asks', roles as never, {
    looksUp: {
      count: stays.count(where, except),
      exists: stays.exists(where),
      sum: stays.sum(where, 'price', except),
      highest: stays.highest(where, 'to'),
      lowest: stays.lowest(where, 'to', except),
      first: stays.first(where, ['id', 'owner'], { highest: 'to' }),
    } as never,
    holds: (_read: object, found: object) => {
      seen = { ...found };
      return true;
    },
    message: 'x',
    blames: 'r_owner' as never,
  }) as unknown as (roles: object) => never;
  const form = intake('form', fields, { rules: [asks(paths)], storedIn: stays });
  const read: Read = Object.fromEntries(
    Object.keys(ROLES).flatMap((role) => (random.below(4) === 0 ? [] : [[role, random.pick(POOL[role.slice(2)] as string[])]])),
  );
  const marina = 1 + random.below(2);
  const itself = { marina, id: random.below(30) };
  const problems: string[] = [];
  for (const [name, records] of Object.entries(all)) {
    seen = {};
    const inside = (records as ReturnType<typeof memoryRecords>).within({ marina });
    const verdict = await form.judge(read, { records: inside, itself } as never);
    const found = rows.filter((row) => row.marina === marina && matches(tree, row, read));
    const others = found.filter(({ id }) => id !== itself.id);
    for (const want of WANTS) {
      const wanted = naive(want, ['count', 'sum', 'lowest'].includes(want) ? others : found);
      const got = want === 'first' ? (seen.first as { id: number } | undefined)?.id : seen[want];
      if (got !== wanted)
        problems.push(
          `${name}, ${want}: ${JSON.stringify(got)} instead of ${JSON.stringify(wanted)} for ${JSON.stringify({ tree, read, itself })}; ${JSON.stringify(verdict.unsettled)} ${String(verdict.unsettled[0]?.cause)}`,
        );
    }
  }
  return problems;
}

const RUNS = Number(process.env.JESTRIL_RANDOM ?? 50);
test('in memory, and in what is remembered of it, random look-ups find what a naive reading finds', async () => {
  const memory = memoryRecords({ stays: rows, berths: [] });
  // What one look-up was told must never be the answer to another.
  const remembering = cached(memory, { collections: ['stays'], seconds: 600 });
  for (let run = 0; run < RUNS * 5; run++) expect(await differences({ memory, remembering })).toEqual([]);
});

// Open orders of an owner, within the limit of the berth.
const withinLimit = rule(
  'test/within-limit',
  { berth: text, owner: text, price: exact },
  {
    looksUp: {
      berth_row: berths.one({ code: 'berth' }, ['limit']),
      ordered: stays.sum({ owner: 'owner', state: exactly('open', 'held') }, 'price', { exceptItself: true }),
    },
    holds: ({ price }, { berth_row, ordered }) => compareExact(exactSum(ordered, price), berth_row.limit) <= 0,
    message: 'Open: {ordered}; together with {price_value} that is more than {berth_row_limit}.',
    blames: 'price',
  },
);
const order = intake(
  'order',
  { berth: text('Berth'), owner: text('Owner'), price: exact('Price'), id: whole('Number').orAbsent() },
  {
    storedIn: stays,
    rules: [
      withinLimit({ berth: 'berth', owner: 'owner', price: 'price' }, { unguarded: true }),
      known(berths, { code: 'berth' }),
      unique(stays, { id: 'id' }, { as: 'number' }),
    ],
  },
);

async function fill({ db }: TestStore, isSqlite: boolean): Promise<void> {
  const dayType = sql.raw(isSqlite ? 'text' : 'date');
  await sql`create table stays (marina int, id int, owner varchar(20), state varchar(20), price numeric(12, 3), size double precision, ${sql.id('from')} ${dayType}, ${sql.id('to')} ${dayType})`.execute(
    db,
  );
  await sql`create table berths (marina int, code varchar(20), ${sql.id('limit')} numeric(12, 3))`.execute(db);
  await db.insertInto('stays').values(rows).execute();
  await db
    .insertInto('berths')
    .values([
      { marina: 3, code: 'A1', limit: '100.00' },
      { marina: 4, code: 'A1', limit: '0.30' },
    ])
    .execute();
  const stay = { id: 1, owner: 'ida', state: 'open', size: 1, from: DAYS[0], to: null };
  await db
    .insertInto('stays')
    .values([
      { ...stay, marina: 4, price: '0.1' },
      { ...stay, marina: 4, id: 2, price: '0.1', state: 'held' },
      { ...stay, marina: 4, id: 3, price: '50', state: 'paid' },
      { ...stay, marina: 3, id: 1, price: '50' },
    ])
    .execute();
}

describeStores((open, name) => {
  let store: TestStore;
  let records: ReturnType<TestStore['records']>;
  beforeAll(async () => {
    store = await open();
    records = store.records(store.db);
    await fill(store, name === 'SQLite');
  });
  afterAll(() => store.close());

  test('random look-ups find what a naive reading finds', async () => {
    for (let run = 0; run < RUNS; run++) expect(await differences({ [name]: records })).toEqual([]);
  });

  const at = (marina: number) => ({ records: records.within({ marina }) });
  const told = async (submission: object, options: object) => {
    const verdict = await order.judge({ berth: 'A1', owner: 'ida', ...submission }, options as never);
    return verdict.outcome === 'rejected' ? verdict.findings.map(({ rule, message }) => `${rule}: ${message}`) : verdict.outcome;
  };

  test('a limit on a sum, each marina by itself, with a key of two columns', async () => {
    expect(await told({ price: '0.1' }, at(4))).toBe('accepted');
    expect(await told({ price: '0.11' }, at(4))).toEqual([
      `test/within-limit: Open: 0.2; together with 0.11 that is more than ${name === 'SQLite' ? '0.3' : '0.300'}.`,
    ]);
    expect(await told({ price: '0.2' }, { ...at(4), itself: { marina: 4, id: 2 } })).toBe('accepted');
    expect(await told({ price: '50' }, at(3))).toBe('accepted');
    expect(await told({ price: '0.1', id: 1 }, at(4))).toEqual(['unique: Number is already in use.']);
    expect(await told({ price: '0.1', id: 2 }, { ...at(4), itself: { marina: 4, id: 2 } })).toBe('accepted');
    expect(await told({ price: '1', berth: 'A2' }, at(3))).toEqual(['known: Berth must be one that exists.']);
  });

  test('records that do not say whose rows are asked for are a fault, before anything is asked', async () => {
    await expect(told({ price: '1' }, { records })).rejects.toThrow('give records.within({ marina: … })');
    await expect(told({ price: '1' }, at('x' as never))).rejects.toThrow('within marina "x", which is no whole');
    await expect(order.judgeMany([{}], { records }).next()).rejects.toThrow('records.within({ marina: … })');
    await expect(told({ price: '1' }, { ...at(3), itself: { id: 3 } })).rejects.toThrow('itself has to be { marina: …, id: … }');
    await store.db.transaction().execute(async (transaction) => {
      expect(await told({ price: '0.11' }, { records: records.within({ marina: 4 }).in(transaction) })).toHaveLength(1);
    });
  });

  test('the constraint behind `unique` has the columns of the scope', async () => {
    const gapOf = async () => (await checkStore(records, [order])).filter(({ lacks }) => lacks === 'unique');
    const [gap, ...others] = await gapOf();
    expect([gap?.columns, others]).toEqual([['id', 'marina'], []]);
    await sql.raw(gap?.statement ?? '').execute(store.db);
    expect(await gapOf()).toEqual([]);
    const refused = await order.judgeAndStore({ berth: 'A1', owner: 'bo', price: '0.1', id: 77 }, at(4), async ({ id }) => {
      for (const marina of [3, 4, 4]) await store.db.insertInto('stays').values({ id, marina }).execute();
    });
    expect(refused).toMatchObject({ outcome: 'rejected', findings: [{ use: 'number' }] });
  });
});

test.each<[what: string, define: () => unknown, sentence: string]>([
  ['a sum of texts', () => stays.sum({ id: exactly(1) }, 'state' as never), 'cannot be summed up'],
  ['the highest text', () => stays.highest({ id: exactly(1) }, 'state' as never), 'has no highest value'],
  ['a first without an order', () => stays.first({ id: exactly(1) }, ['id'], {} as never), 'first needs an order'],
  ['a column compared with nothing', () => stays.count({ id: undefined } as never), 'compares "id" with undefined'],
  ['an empty alternative', () => stays.count(either({}, { id: exactly(1) })), 'an alternative without a condition'],
  ['columns of two kinds', () => asking(stays.exists({ from: column('state' as never) })), 'column "from" is day, column "state" is text'],
  ['a column that is not there', () => asking(stays.exists({ from: column('form' as never) })), 'no column "form"; did you mean "from"'],
  ['a key of nothing', () => collection('x', { id: whole }, { key: [] }), 'needs a key'],
  [
    'several values in `only` of a rule',
    () => unique(stays, { id: 'id' } as never, { only: { state: exactly('a', 'b') as never } }),
    'exactly(…) with one value',
  ],
])('%s is refused where it is written', (_what, define, sentence) => {
  expect(define).toThrow(sentence);
});
function asking(found: object) {
  return rule('test/x', { role: text }, { looksUp: { found } as never, holds: () => true, message: 'x', blames: 'role' });
}
