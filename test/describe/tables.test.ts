import {
  atMost,
  between,
  choice,
  collection,
  day,
  decimal,
  exact,
  flag,
  group,
  intake,
  isTrue,
  length,
  moment,
  precision,
  text,
  timeOfDay,
  unique,
  whole,
} from 'jestril';
import { sqlTableOf } from 'jestril/describe';
import { sql } from 'kysely';
import * as marina from '../../examples/marina/index.ts';
import { planOf } from '../../src/core/intake.ts';
import { Maker } from '../../src/made/index.ts';
import type { Db } from '../support/connect.ts';
import { describeStores } from '../support/stores.ts';

// A table takes what its intake accepts, and refuses what the intake refuses by a rule that is not listed.

const odd = collection('odd "things"', { id: whole, mark: text }, { key: 'id' });
const oddIntake = intake(
  'odd',
  {
    mark: text('Mark', length({ max: 7 }), length({ max: 20, min: 2 })),
    amount: whole('Amount', between(1, 900), atMost(12)),
    price: exact('Price', precision({ whole: 4, places: 2 })),
    share: decimal('Share').orElse(0.5),
    pier: choice('Pier', ["it's", 'a\\b', 'south']),
    deck: choice('Deck', [1, 2, 3]),
    reach: choice('Reach', [0.5, 2]).orAbsent(),
    terms: flag('Terms', isTrue()),
    came: day('Came').orAbsent(),
    logged: moment('Logged').orAbsent(),
    opens: timeOfDay('Opens').orAbsent(),
    owner: group('Owner', { name: text('Name', length({ max: 9 })), code: text('Code', length({ min: 4 })).secret() }).orAbsent(),
  },
  { storedIn: odd, rules: [unique(odd, { mark: 'mark' })] },
);

const DIALECTS = { SQLite: 'sqlite', PostgreSQL: 'postgres', MariaDB: 'mysql' } as const;

describeStores((open, name) => {
  test.each(
    [oddIntake, marina.vesselRegistration, marina.ownerSignUp, marina.powerOrder, marina.berthBooking].map(
      (each) => [each.name, each as { readonly name: string }] as const,
    ),
  )('the table of %s', async (_name, made) => {
    const { db, close } = await open();
    try {
      const { statement, unsaid } = sqlTableOf(made, DIALECTS[name]);
      await sql.raw(statement).execute(db);
      const table = planOf(made).storedIn?.name ?? made.name.replaceAll('-', '_');
      const maker = new Maker(made, { now: new Date('2031-04-20T08:00:00Z') });
      const accepted = await maker.accepted();
      const value = (accepted?.verdict as { readonly value?: object } | undefined)?.value;
      expect(value).toBeDefined();
      const columns = new Set(await columnsOf(db, table));
      await insert(db, table, value as object, columns);
      const listed = new Set(unsaid.map(({ use }) => use));
      for (const { rule, use } of maker.uses) {
        if (listed.has(use) || rule === 'known' || unsaid.some((each) => each.use === rule)) continue;
        const refused = await maker.rejectedBy(use);
        if (!refused) continue;
        const row = rule === 'unique' ? (value as object) : refused.situation.submission;
        const outcome = await insert(db, table, row, columns).then(
          () => `${use} is taken: ${JSON.stringify(row)}`,
          () => 'refused',
        );
        expect(outcome).toBe('refused');
      }
    } finally {
      await close();
    }
  });
});

async function columnsOf(db: Db, table: string): Promise<string[]> {
  const tables = await db.introspection.getTables();
  return tables.filter((each) => each.name === table).flatMap((each) => each.columns.map((column) => column.name));
}

async function insert(db: Db, table: string, value: object, columns: ReadonlySet<string>): Promise<void> {
  const row: { [column: string]: unknown } = {};
  const add = (inside: object, prefix: string): void => {
    for (const [key, each] of Object.entries(inside)) {
      if (typeof each === 'object' && each !== null && !Array.isArray(each)) add(each, `${prefix}${key}_`);
      else if (columns.has(`${prefix}${key}`)) row[`${prefix}${key}`] = typeof each === 'boolean' ? Number(each) : each;
    }
  };
  add(value, '');
  if (columns.size === 0) throw new Error('There is no such table.');
  const isPostgres = db.getExecutor().adapter.constructor.name.startsWith('Postgres');
  const fit = Object.fromEntries(
    Object.entries(row).map(([column, each]) => [
      column,
      isPostgres && (each === 0 || each === 1) && typeof (value as { [key: string]: unknown })[column] === 'boolean'
        ? each === 1
        : asSql(each),
    ]),
  );
  await db.insertInto(table).values(fit).execute();
}

/** A moment as MariaDB takes it, too. */
function asSql(value: unknown): unknown {
  return typeof value === 'string' && /^\d{4}-\d\d-\d\dT.*Z$/.test(value) ? value.slice(0, 19).replace('T', ' ') : value;
}
