// A process that books for one owner many times at once, who may have three open bookings at most; prints what became of each.
// Arguments: store, address, times, attempts.
import { collection, intake, rule, text, whole } from 'jestril';
import { connect, recordsOf, type StoreName } from './connect.ts';

const open = collection('open_bookings', { id: whole, owner: whole }, { key: 'id' });
const threeAtMost = rule(
  'test/three-at-most',
  { owner: whole },
  {
    looksUp: { there: open.count({ owner: 'owner' }) },
    holds: (_read, { there }) => there < 3,
    message: 'Three at most.',
    blames: 'owner',
  },
);
const booking = intake(
  'booking',
  { owner: whole('Owner'), note: text('Note') },
  { storedIn: open, rules: [threeAtMost({ owner: 'owner' })] },
);

const [name, address, times, attempts] = process.argv.slice(2) as [StoreName, string, string, string];
const db = connect(name, address, 5);
const records = recordsOf(name)(db);
const verdicts = await Promise.all(
  Array.from({ length: Number(times) }, () =>
    records.serially(
      (inside, transaction) =>
        booking.judgeAndStore({ owner: 1, note: 'x' }, { records: inside, within: 60_000 }, ({ owner }) =>
          transaction.insertInto('open_bookings').values({ owner }).execute(),
        ),
      { attempts: Number(attempts) },
    ),
  ),
);
await db.destroy();
process.stdout.write(
  JSON.stringify(
    verdicts.map((verdict) =>
      verdict.outcome === 'rejected'
        ? verdict.findings.map(({ rule: id }) => id).join()
        : verdict.outcome === 'undecided'
          ? verdict.unsettled.map(({ why }) => why).join()
          : verdict.outcome,
    ),
  ),
);
