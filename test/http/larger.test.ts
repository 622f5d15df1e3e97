import { collection, day, distinct, group, intake, known, length, list, table, text, whole } from 'jestril';
import { receive } from 'jestril/fetch';
import { memoryRecords } from 'jestril/memory';
import { larger, processorTime } from '../support/larger.ts';

// One odd thing, as large as a body may be: what it costs grows no faster than it does, and so does what is answered.

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
/** What is usual takes two or three milliseconds; whatever grows with the square of a body, seconds. */
const MOST = 600;
const SIZE = 99_000;

test.each(['firstOfEach', 'everything'] as const)('%s', async (report) => {
  const handle = receive(
    stay,
    {
      records,
      report,
      findings: 'full',
      page: ({ form }) => `${form.rows('/crew').map((row) => form.value(`crew.${row}.name`))}${form.value('berth')}${form.entries.length}`,
    },
    ({ crew, fees }) => ({ body: [crew.length, Object.keys(fees).length] }),
  );
  const slow: unknown[] = [];
  for (const accept of ['application/json', 'text/html'])
    for (const { what, headers, body } of larger(
      ['berth', 'arrives', 'note', 'tags', 'crew', 'fees', 'pass'],
      [
        ['crew', 'name'],
        ['fees', 'price'],
      ],
      SIZE,
    )) {
      let answer = '';
      const took = await processorTime(async () => {
        const response = await handle(new Request('https://x.example/', { method: 'POST', headers: { accept, ...headers }, body }));
        answer = `${response.status} ${await response.text()}`;
      });
      if (took > MOST || answer.length > 1.5 * SIZE || answer.startsWith('500'))
        slow.push([what, accept, Math.round(took), answer.length, answer.slice(0, 200)]);
    }
  expect(slow).toEqual([]);
});
