import { collection, intake, length, text, unique, whole } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { screen } from 'jestril/screening';

const guests = collection('guests', { id: whole, name: text }, { key: 'id' });
const guest = intake('guest', { name: text('Name', length({ max: 4 })) }, { storedIn: guests, rules: [unique(guests, { name: 'name' })] });
const records = memoryRecords({ guests: [{ id: 1, name: 'Ida' }] });

test('rows of a source go to a sink with their verdicts, in order, and are counted by rule and field', async () => {
  async function* source() {
    for (const name of ['Liv', 'Ida', 'Liv', 'Longest', 'Bo']) yield { name };
  }
  const taken: string[] = [];
  const screened = await screen(
    guest,
    source(),
    async (rows) => {
      for await (const { row, verdict } of rows)
        taken.push(`${row} ${verdict.outcome === 'accepted' ? verdict.value.name : verdict.outcome}`);
    },
    { records },
  );
  expect(taken).toEqual(['1 Liv', '2 rejected', '3 rejected', '4 rejected', '5 Bo']);
  expect(screened).toMatchObject({ rows: 5, accepted: 2, rejected: 3, undecided: 0, open: [], tried: [] });
  expect(screened.found.map(({ use, count, example }) => [use, count, example.origin.line])).toEqual([
    ['unique@name', 2, 2],
    ['length@name', 1, 4],
  ]);
});

test('a sink that leaves ends the source, and a source that breaks ends the sink', async () => {
  let isEnded = false;
  async function* endless() {
    try {
      for (let number = 0; ; number++) yield { name: `${number}` };
    } finally {
      isEnded = true;
    }
  }
  const some = await screen(guest, endless(), async (rows) => {
    for await (const { row } of rows) if (row === 3) break;
  });
  expect([some.rows, isEnded]).toEqual([3, true]);
  async function* broken() {
    yield { name: 'Liv' };
    throw new Error('The bucket is gone.');
  }
  const taken: number[] = [];
  const screening = screen(guest, broken(), async (rows) => {
    for await (const { row } of rows) taken.push(row);
  });
  await expect(screening).rejects.toThrow('The bucket is gone.');
  expect(taken).toEqual([1]);
});
