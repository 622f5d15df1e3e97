import { collection, Fault, intake, text, unique, whole } from 'jestril';
import { memoryRecords } from 'jestril/memory';

// Where rows come from: whatever they are, and however they come.

const marks = collection('marks', { id: whole, mark: text }, { key: 'id' });
const form = intake('mark', { mark: text('Mark') }, { rules: [unique(marks, { mark: 'mark' })] });
const records = memoryRecords({ marks: [] });

test('a source that is silent is left at once when it is called off', async () => {
  const controller = new AbortController();
  async function* silent() {
    yield { mark: 'a' };
    await new Promise(() => undefined);
  }
  const seen: string[] = [];
  const reading = (async () => {
    for await (const { verdict } of form.judgeMany(silent(), { records, signal: controller.signal, chunk: 1 })) seen.push(verdict.outcome);
  })();
  await new Promise((done) => setTimeout(done, 20));
  controller.abort(new Error('enough'));
  await expect(reading).rejects.toThrow('enough');
  expect(seen).toEqual(['accepted']);
});

test('a row with a member `then` is a row, and is not waited for', async () => {
  let isCalled = false;
  // biome-ignore lint/suspicious/noThenProperty: what is to be tried
  const row = { mark: 'a', then: () => (isCalled = true) };
  const sources: (() => Iterable<unknown> | AsyncIterable<unknown>)[] = [
    () => [row],
    () => new Set([row]),
    () => [Promise.resolve({ mark: 'b' })],
  ];
  for (const source of sources)
    for await (const { verdict } of form.judgeMany(source(), { records })) expect(verdict.outcome).toBe('accepted');
  expect(isCalled).toBe(false);
});

test.each([null, undefined, 7, 'rows', {}])('judgeMany(%j) says what it needs', (rows) => {
  expect(() => form.judgeMany(rows as never, { records })).toThrow(Fault);
  expect(() => form.judgeMany(rows as never, { records })).toThrow('judgeMany needs rows that can be gone through');
});
