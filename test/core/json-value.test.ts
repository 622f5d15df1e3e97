import { intake, jsonTypes, jsonValue, text } from 'jestril';

const note = intake('note', {
  name: text('Name'),
  settings: jsonValue('Settings', jsonTypes(['object'])),
  more: jsonValue('More').orAbsent(),
});
const STORED = { name: 'Ida', settings: { a: 1, d: { x: 1, y: 2 } }, more: null };

function nested(depth: number): object {
  return depth === 0 ? {} : { a: nested(depth - 1) };
}

test.each<[value: unknown, expected: 'accepted' | 'rejected']>([
  [{ a: [1, 'x', null, true] }, 'accepted'],
  ['', 'accepted'],
  [0, 'accepted'],
  [nested(30), 'accepted'],
  [nested(33), 'rejected'],
  [new Array(10_000).fill(0), 'accepted'],
  [new Array(10_001).fill(0), 'rejected'],
  [new Map(), 'rejected'],
  [{ f: () => 1 }, 'rejected'],
  [{ u: undefined }, 'rejected'],
  [Number.NaN, 'rejected'],
  [new Date(0), 'rejected'],
])('%p is %s', (more, expected) => {
  expect(note.judgeLocally({ name: 'Ida', settings: {}, more }).outcome).toBe(expected);
});

test('what is accepted is a copy of plain data, whatever its names are', () => {
  const settings = JSON.parse('{"__proto__":{"x":1},"constructor":2,"list":[{}]}');
  const verdict = note.judgeLocally({ name: 'Ida', settings });
  if (verdict.outcome !== 'accepted') throw new Error(verdict.outcome);
  const accepted = verdict.value.settings as { list: unknown[] };
  expect(JSON.stringify(accepted)).toBe('{"__proto__":{"x":1},"constructor":2,"list":[{}]}');
  expect(Object.getPrototypeOf(accepted)).toBe(Object.prototype);
  expect(accepted.list).not.toBe(settings.list);
});

test('a form and a database carry it as text', () => {
  expect(note.judgeLocally({ name: 'Ida', settings: ' {"a":1} ' }, { as: 'form' })).toMatchObject({
    outcome: 'accepted',
    value: { settings: { a: 1 } },
  });
  expect(note.judgeLocally({ name: 'Ida', settings: '{a:1}' }, { as: 'form' }).outcome).toBe('rejected');
});

test.each<[change: object, settings: unknown, changed: readonly string[]]>([
  [{ name: 'Bo' }, { a: 1, d: { x: 1, y: 2 } }, ['name']],
  [{ settings: { d: { y: 2 }, a: 1 } }, { a: 1, d: { x: 1, y: 2 } }, []],
  [{ settings: { b: 2, a: null, d: { y: null } } }, { d: { x: 1 }, b: 2 }, ['settings']],
  [{ more: { z: null, y: 1 } }, { a: 1, d: { x: 1, y: 2 } }, ['more']],
])('a change %j is merged into what is stored', async (change, settings, changed) => {
  const verdict = await note.amend(STORED, change);
  expect(verdict).toMatchObject({ outcome: 'accepted', changed });
  expect((verdict as unknown as { value: { settings: unknown } }).value.settings).toEqual(settings);
});
