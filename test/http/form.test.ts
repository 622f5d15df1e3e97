import fc from 'fast-check';
import { formObject } from 'jestril/form';

const decode = (query: string) => JSON.parse(JSON.stringify(formObject(new URLSearchParams(query))));

test.each([
  ['a=1&b=', { a: '1', b: '' }],
  ['a=1&a=2', { a: ['1', '2'] }],
  ['tags[]=x', { tags: 'x' }],
  ['tags[]=x&tags[]=y', { tags: ['x', 'y'] }],
  ['owner.email=e&owner[name]=n', { owner: { email: 'e', name: 'n' } }],
  ['crew.1.name=b&crew[0][name]=a', { crew: [{ name: 'a' }, { name: 'b' }] }],
  ['crew.7.name=b&crew.2.name=a', { crew: [{ name: 'a' }, { name: 'b' }] }],
  ['a.b.c=1&a.b.c=2', { a: { b: { c: ['1', '2'] } } }],
  ['a=1&a.b=2', { a: { b: '2' } }],
  ['a.b=2&a=1', { a: { b: '2' } }],
  ['a..b=1&.a=1&a.=1', { 'a..b': '1', '.a': '1', 'a.': '1' }],
  [`${'a.'.repeat(20)}b=1`, { [`${'a.'.repeat(20)}b`]: '1' }],
  ['caf%C3%A9=%E2%9B%B5+1', { café: '⛵ 1' }],
])('%s', (query, expected) => {
  expect(decode(query)).toEqual(expected);
});

test('names cannot reach a prototype', () => {
  const object = formObject(new URLSearchParams('__proto__.polluted=1&constructor.prototype.polluted=1&a.__proto__.polluted=1'));
  expect(({} as { polluted?: string }).polluted).toBeUndefined();
  expect(Object.keys(object)).toEqual(['__proto__', 'constructor', 'a']);
});

test('files stay what they are; the empty one of a file box without a file is left out', () => {
  const form = new FormData();
  form.append('name', 'x');
  form.append('file', new File(['x'], 'a.pdf'));
  form.append('other', new File([], ''));
  expect({ ...formObject(form) }).toEqual({ name: 'x', file: form.get('file') });
});

test('any names give an object, and flat ones keep their values', () => {
  const pairs = fc.array(fc.tuple(fc.oneof(fc.string(), fc.stringMatching(/^[a-c0-2.[\]]{0,12}$/)), fc.string()));
  fc.assert(
    fc.property(pairs, (entries) => {
      const object = formObject(entries);
      expect(Object.getPrototypeOf(object)).toBeNull();
      for (const [name, value] of entries) {
        if (!/[.[\]]/.test(name) && name !== '' && typeof object[name] === 'string')
          expect(entries.filter(([other, text]) => other === name && text === value)).toHaveLength(1);
      }
    }),
  );
});
