// Ten thousand rows (or as many as the argument says) with two look-ups each against a million vessels: judgeMany beside one prepared query a look-up.
import { collection, intake, known, text, unique, whole } from 'jestril';
import { Kysely, sql } from 'kysely';
import { eachStore } from './stores.mjs';

const ROWS = Number(process.argv[2] ?? 10_000);
const ROUNDS = Number(process.argv[3] ?? 5);

const owners = collection('owners', { id: whole, email: text }, { key: 'id' });
const vessels = collection('vessels', { id: whole, mark: text }, { key: 'id' });
const registration = intake(
  'registration',
  { mark: text('Mark'), owner: text('Owner') },
  { rules: [unique(vessels, { mark: 'mark' }), known(owners, { email: 'owner' })] },
);
// One row in a hundred has a mark that is taken, one an owner that nobody knows.
const rows = Array.from({ length: ROWS }, (_, row) => ({
  mark: row % 100 === 7 ? mark(1 + row * 97) : `NEW-${row}`,
  owner: `owner${row % 100 === 8 ? 0 : 1 + ((row * 17) % 200_000)}@fjordmail.example`,
}));
function mark(id) {
  return `PW-${String(id).padStart(7, '0')}`;
}

const median = (values) => [...values].sort((a, b) => a - b)[values.length >> 1];

async function measure(name, db, records, one) {
  let queries = 0;
  const watched = { ask: (...asked) => records(db).ask(...asked) };
  const together = async () => {
    const outcomes = { accepted: 0, rejected: 0, undecided: 0 };
    for await (const { verdict } of registration.judgeMany(rows, { records: watched })) outcomes[verdict.outcome]++;
    return outcomes;
  };
  const oneByOne = async () => {
    const outcomes = { accepted: 0, rejected: 0, undecided: 0 };
    for (const row of rows) {
      const isTaken = (await one('select 1 from vessels where mark = ?', row.mark)).length > 0;
      const isKnown = (await one('select 1 from owners where email = ?', row.owner)).length > 0;
      outcomes[!isTaken && isKnown ? 'accepted' : 'rejected']++;
    }
    return outcomes;
  };
  const counted = new Kysely({ dialect: db.dialect, log: () => queries++ });
  for await (const _ of registration.judgeMany(rows, { records: records(counted) }));
  const asked = queries;
  const [first, second] = [await together(), await oneByOne()];
  if (JSON.stringify(first) !== JSON.stringify(second)) throw new Error(`${name}: ${JSON.stringify(first)} and ${JSON.stringify(second)}`);
  const times = { together: [], oneByOne: [] };
  for (let round = 0; round < ROUNDS; round++) {
    for (const [sort, run] of [
      ['together', together],
      ['oneByOne', oneByOne],
    ]) {
      const start = performance.now();
      await run();
      times[sort].push(performance.now() - start);
    }
  }
  const ratios = times.together.map((time, round) => times.oneByOne[round] / time);
  console.log(
    `${name.padEnd(11)} ${asked} queries; ${median(times.together).toFixed(0)} ms together, ${median(times.oneByOne).toFixed(0)} ms one by one: ` +
      `${median(ratios).toFixed(1)} times faster (${Math.min(...ratios).toFixed(1)} to ${Math.max(...ratios).toFixed(1)}); ${JSON.stringify(first)}`,
  );
}

const SERIES = (last) => sql`with recursive s(i) as (select 1 union all select i + 1 from s where i < ${sql.lit(last)})`;

async function fill(db, name) {
  const there = await sql`select count(*) as n from vessels`.execute(db).catch(() => ({ rows: [{ n: 0 }] }));
  if (Number(there.rows[0].n) === 1_000_000) return;
  console.error('Filling a million vessels …');
  for (const table of ['vessels', 'owners']) await sql`drop table if exists ${sql.table(table)}`.execute(db);
  await sql`create table owners (id int primary key, email varchar(80) not null unique)`.execute(db);
  await sql`create table vessels (id int primary key, mark varchar(20) not null unique)`.execute(db);
  if (name === 'SQLite') {
    await sql`insert into owners ${SERIES(200_000)} select i, 'owner' || i || '@fjordmail.example' from s`.execute(db);
    await sql`insert into vessels ${SERIES(1_000_000)} select i, printf('PW-%07d', i) from s`.execute(db);
    await sql`analyze`.execute(db);
  } else if (name === 'MariaDB') {
    await sql`insert into owners select seq, concat('owner', seq, '@fjordmail.example') from seq_1_to_200000`.execute(db);
    await sql`insert into vessels select seq, concat('PW-', lpad(seq, 7, '0')) from seq_1_to_1000000`.execute(db);
    await sql`analyze table owners, vessels`.execute(db);
  } else {
    await sql`insert into owners select i, 'owner' || i || '@fjordmail.example' from generate_series(1, 200000) i`.execute(db);
    await sql`insert into vessels select i, 'PW-' || lpad(i::text, 7, '0') from generate_series(1, 1000000) i`.execute(db);
    await sql`analyze owners`.execute(db);
    await sql`analyze vessels`.execute(db);
  }
}

await eachStore(async (name, db, records, one) => {
  await fill(db, name);
  await measure(name, db, records, one);
});
