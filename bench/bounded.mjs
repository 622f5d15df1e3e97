// Look-ups that need few of many rows: 100,000 stays at one berth, the latest of them asked for one key and for forty; each beside the
// prepared query by hand, and beside `exists` by the same path. Paired ratios, the median of the rounds that the argument says.
import { collection, intake, rule, text, whole } from 'jestril';
import { sql } from 'kysely';
import { eachStore } from './stores.mjs';

const ROUNDS = Number(process.argv[2] ?? 15);
const MATCHING = 100_000;
const BERTHS = 40;

const stays = collection('stays', { id: whole, berth: text, metres: whole }, { key: 'id' });
const small = rule(
  'bench/small',
  { berth: text },
  {
    looksUp: { last: stays.highest({ berth: 'berth' }, 'metres') },
    holds: (_, { last }) => last !== undefined,
    message: 'x',
    blames: 'berth',
  },
);
const there = rule(
  'bench/there',
  { berth: text },
  { looksUp: { is: stays.exists({ berth: 'berth' }) }, holds: (_, { is }) => is, message: 'x', blames: 'berth' },
);
const first = intake('first', { berth: text('Berth') }, { rules: [small({ berth: 'berth' })] });
const exists = intake('exists', { berth: text('Berth') }, { rules: [there({ berth: 'berth' })] });

const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];

async function fill(db, name) {
  const is = await sql`select count(*) as n from stays`.execute(db).catch(() => ({ rows: [{ n: 0 }] }));
  if (Number(is.rows[0].n) === MATCHING + BERTHS * 1000) return;
  console.error('Filling stays …');
  await sql`drop table if exists stays`.execute(db);
  await sql`create table stays (id int primary key, berth varchar(20) not null, metres int not null)`.execute(db);
  const rows = Array.from({ length: MATCHING + BERTHS * 1000 }, (_, id) => ({
    id,
    berth: id < MATCHING ? 'A1' : `B${id % BERTHS}`,
    metres: (id * 7919) % 1_000_003,
  }));
  for (let at = 0; at < rows.length; at += 5000)
    await db
      .insertInto('stays')
      .values(rows.slice(at, at + 5000))
      .execute();
  await sql`create index stays_berth on stays (berth, metres)`.execute(db);
  await (name === 'MariaDB' ? sql`analyze table stays` : sql`analyze`).execute(db);
}

async function timed(run) {
  const start = performance.now();
  await run();
  return performance.now() - start;
}

await eachStore(async (name, db, recordsOf, one) => {
  await fill(db, name);
  const records = recordsOf(db);
  const byHand = (berth) => one('select metres from stays where berth = ? order by metres desc limit 1', berth);
  const keys = Array.from({ length: BERTHS }, (_, at) => ({ berth: `B${at}` }));
  const runs = {
    oneKey: () => first.judge({ berth: 'A1' }, { records }),
    existsKey: () => exists.judge({ berth: 'A1' }, { records }),
    oneByHand: () => byHand('A1'),
    forty: async () => {
      for await (const { verdict } of first.judgeMany(keys, { records }))
        if (verdict.outcome !== 'accepted') throw new Error(verdict.outcome);
    },
    fortyByHand: async () => {
      for (const { berth } of keys) await byHand(berth);
    },
  };
  const times = Object.fromEntries(Object.keys(runs).map((run) => [run, []]));
  for (let round = -3; round < ROUNDS; round++)
    for (const [run, call] of Object.entries(runs)) {
      const time = await timed(call);
      if (round >= 0) times[run].push(time);
    }
  const ratio = (a, b) => median(times[a].map((time, round) => time / times[b][round])).toFixed(1);
  console.log(
    `${name.padEnd(11)} one key: ${median(times.oneKey).toFixed(2)} ms, ${ratio('oneKey', 'oneByHand')} of the query by hand, ${ratio('oneKey', 'existsKey')} of exists; ` +
      `exists ${ratio('existsKey', 'oneByHand')} of the query by hand; forty keys: ${ratio('forty', 'fortyByHand')} of forty queries by hand`,
  );
});
