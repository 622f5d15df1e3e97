import { collection, day, distinct, group, intake, known, length, list, table, text, whole } from 'jestril';
import { receive } from 'jestril/fetch';
import { memoryRecords } from 'jestril/memory';

// A door to which odd things are sent, one of each kind of field behind it.

const berths = collection('berths', { code: text }, { key: 'code' });
const stay = intake(
  'stay',
  {
    berth: text('Berth'),
    arrives: day('Arrives').orAbsent(),
    crew: list('Crew', group('Member', { name: text('Name'), age: whole('Age').orAbsent() }), distinct({ by: 'name' })).orEmpty(),
    tags: list('Tags', text('Tag'), distinct()).orEmpty(),
    fees: table('Fees', group('Fee', { metres: whole('Metres'), price: whole('Price') })).orEmpty(),
    note: text('Note', length({ max: 20 })).orAbsent(),
    pass: text('Pass').secret().orAbsent(),
  },
  { rules: [known(berths, { code: 'berth' })] },
);
const records = memoryRecords({ berths: [{ code: 'A1' }] });

/** The names of its fields, and of its lists with a field of a row. */
export const FIELDS = ['berth', 'arrives', 'note', 'tags', 'crew', 'fees', 'pass'];
export const ROWS = [
  ['crew', 'name'],
  ['fees', 'price'],
] as const;

export const doorTo = (report: 'firstOfEach' | 'everything'): ((request: Request) => Promise<Response>) =>
  receive(
    stay,
    {
      records,
      report,
      findings: 'full',
      page: ({ form }) => `${form.rows('/crew').map((row) => form.value(`crew.${row}.name`))}${form.value('berth')}${form.entries.length}`,
    },
    ({ crew, fees }) => ({ body: [crew.length, Object.keys(fees).length] }),
  );
