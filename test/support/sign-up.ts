// A process that signs up the same owner many times at once; prints what became of each. Arguments: store, address, times.
import { collection, intake, text, unique, whole } from 'jestril';
import { connect, recordsOf, type StoreName } from './connect.ts';

const owners = collection('owners', { id: whole, email: text }, { key: 'id' });
const signUp = intake(
  'sign-up',
  { email: text('E-mail') },
  { storedIn: owners, rules: [unique(owners, { email: 'email' }, { ignoringCase: ['email'], constraint: 'owners_email' })] },
);

const [name, address, times] = process.argv.slice(2) as [StoreName, string, string];
const db = connect(name, address, 10);
const records = recordsOf(name)(db);
const verdicts = await Promise.all(
  Array.from({ length: Number(times) }, (_, index) =>
    signUp.judgeAndStore({ email: index % 2 ? 'Eva@fjordmail.example' : 'eva@fjordmail.example' }, { records }, (owner) =>
      db.insertInto('owners').values(owner).execute(),
    ),
  ),
);
await db.destroy();
process.stdout.write(JSON.stringify(verdicts.map((verdict) => (verdict.outcome === 'rejected' ? verdict.findings : verdict.outcome))));
