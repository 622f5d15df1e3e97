import {
  choice,
  day,
  decimal,
  exact,
  flag,
  foldCase,
  group,
  intake,
  length,
  list,
  moment,
  oneOfShapes,
  ownKind,
  receivedFile,
  shape,
  table,
  text,
  timeOfDay,
  trim,
  upload,
  whole,
} from 'jestril';
import { blamesOf, judgeValue, MISSING, told } from '../support/judging.ts';

enum Size {
  Small = 8,
  Large = 18,
}

const kinds = {
  text: text('T'),
  whole: whole('W'),
  decimal: decimal('D'),
  flag: flag('F'),
  choice: choice('C', ['16A', '32A']),
  day: day('Y'),
  list: list('L', text('Item')),
  group: group('G', { inner: text('Inner') }),
  exact: exact('E'),
  moment: moment('M'),
  time: timeOfDay('T'),
  upload: upload('U'),
  table: table('B', whole('Entry')),
  shapes: oneOfShapes('S', 'how', { card: shape({ number: text('Number') }), cash: shape({}) }),
  enum: choice('C', Size),
  own: ownKind('marina/berth-code', text, {
    reads: (code) => (/^[a-z]\d$/i.test(code) ? code.toUpperCase() : undefined),
    says: '{field} must be a berth code, such as A1.',
  })('O', length({ max: 2 })),
};
type Kind = keyof typeof kinds;
const value = (of: unknown) => ({ value: of });
const refused = ['readable'];

const bytes = new Uint8Array([1, 2, 3]);

describe('how raw values are read', () => {
  const long = '9'.repeat(400);
  const table: [Kind, 'json' | 'form', unknown, unknown][] = [
    ['text', 'json', 'abc', value('abc')],
    ['text', 'json', 7, refused],
    ['text', 'json', 'a\0b', refused],
    ['text', 'json', 'a\ud800', refused],
    ['text', 'json', '\udc00a', refused],
    ['text', 'json', '⛵', value('⛵')],
    ['text', 'json', ['a'], refused],
    ['text', 'form', ' 7 ', value(' 7 ')],
    ['text', 'form', ['a', 'b'], refused],
    ['whole', 'json', 12, value(12)],
    ['whole', 'json', -0, value(0)],
    ['whole', 'json', 12.5, refused],
    ['whole', 'json', '12', refused],
    ['whole', 'json', 2 ** 53, refused],
    ['whole', 'json', true, refused],
    ['whole', 'form', ' 12 ', value(12)],
    ['whole', 'form', '007', value(7)],
    ['whole', 'form', '-3', value(-3)],
    ['whole', 'form', '1e3', refused],
    ['whole', 'form', '1,5', refused],
    ['whole', 'form', '0x10', refused],
    ['whole', 'form', long, refused],
    ['decimal', 'json', 12.5, value(12.5)],
    ['decimal', 'json', Number.NaN, refused],
    ['decimal', 'json', Number.POSITIVE_INFINITY, refused],
    ['decimal', 'json', '12.5', refused],
    ['decimal', 'form', '12.50', value(12.5)],
    ['decimal', 'form', '.5', refused],
    ['decimal', 'form', '1,5', refused],
    ['decimal', 'form', 'Infinity', refused],
    ['flag', 'json', true, value(true)],
    ['flag', 'json', 1, refused],
    ['flag', 'json', 'true', refused],
    ['flag', 'form', 'on', value(true)],
    ['flag', 'form', 'No', value(false)],
    ['flag', 'form', 'perhaps', refused],
    ['choice', 'json', '16A', value('16A')],
    ['choice', 'json', '16a', refused],
    ['choice', 'json', 'toString', refused],
    ['choice', 'form', ' 32A ', value('32A')],
    ['day', 'json', '2028-02-29', value('2028-02-29')],
    ['day', 'json', '2100-02-29', refused],
    ['day', 'json', '2031-04-31', refused],
    ['day', 'json', '2031-00-10', refused],
    ['day', 'json', '2031-05-01T00:00:00Z', refused],
    ['day', 'json', '2031-5-1', refused],
    ['day', 'json', '0000-01-01', value('0000-01-01')],
    ['day', 'json', '２０３１-05-01', refused],
    ['day', 'form', ' 2031-05-01 ', value('2031-05-01')],
    ['list', 'json', ['a', 'b'], value(['a', 'b'])],
    ['list', 'json', [], value([])],
    ['list', 'json', 'a', refused],
    ['list', 'json', { 0: 'a' }, refused],
    ['list', 'form', 'a', value(['a'])],
    ['group', 'json', { inner: 'a', more: 1 }, value({ inner: 'a' })],
    ['exact', 'json', '12.50', value('12.5')],
    ['exact', 'json', 12.5, value('12.5')],
    ['exact', 'json', '-0.00', value('0')],
    ['exact', 'json', '123456789012345678901234567890.123456789', value('123456789012345678901234567890.123456789')],
    ['exact', 'json', 1e21, value('1000000000000000000000')],
    ['exact', 'json', '1e3', refused],
    ['exact', 'json', ' 1', refused],
    ['exact', 'json', Number.NaN, refused],
    ['exact', 'form', ' 007.10 ', value('7.1')],
    ['exact', 'form', '1,5', refused],
    ['moment', 'json', '2031-05-01T09:30:00+02:00', value('2031-05-01T07:30:00.000Z')],
    ['moment', 'json', '2031-12-31t23:59:59.98765z', value('2031-12-31T23:59:59.987Z')],
    ['moment', 'json', '2031-01-01T00:30:00+05:45', value('2030-12-31T18:45:00.000Z')],
    ['moment', 'json', '2031-05-01T09:30:00', refused],
    ['moment', 'json', '2031-05-01 09:30:00Z', refused],
    ['moment', 'json', '2031-02-30T09:30:00Z', refused],
    ['moment', 'json', '2031-05-01T24:00:00Z', refused],
    ['moment', 'json', '2031-06-30T23:59:60Z', refused],
    ['moment', 'json', '0000-01-01T00:00:00+01:00', refused],
    ['moment', 'json', 1_900_000_000, refused],
    ['moment', 'form', ' 2031-05-01T09:30:00Z ', value('2031-05-01T09:30:00.000Z')],
    ['time', 'json', '09:30', value('09:30')],
    ['time', 'json', '09:30:00.000', value('09:30')],
    ['time', 'json', '09:30:15.50', value('09:30:15.5')],
    ['time', 'json', '24:00', refused],
    ['time', 'json', '9:30', refused],
    ['time', 'form', ' 23:59 ', value('23:59')],
    [
      'upload',
      'json',
      { name: 'a.pdf', type: 'Application/PDF; x=1', size: 3, more: 1, content: bytes },
      value({ name: 'a.pdf', mediaType: 'application/pdf', size: 3, content: bytes }),
    ],
    [
      'upload',
      'form',
      receivedFile({ name: 'a', mediaType: '', size: 0 }),
      value({ name: 'a', mediaType: 'application/octet-stream', size: 0 }),
    ],
    ['upload', 'json', { name: 'a.pdf', mediaType: 'application/pdf', size: 3, content: 'JVBERi0=' }, refused],
    ['upload', 'json', { name: 'a.pdf', mediaType: 'application/pdf', size: 3, content: [1], arrayBuffer: 1 }, refused],
    ['upload', 'json', { name: 'a', mediaType: 'pdf', size: 0 }, refused],
    ['upload', 'json', { name: '', mediaType: 'a/b', size: 0 }, refused],
    ['upload', 'json', { name: 'a', mediaType: 'a/b', size: -1 }, refused],
    ['upload', 'json', 'a.pdf', refused],
    ['upload', 'form', 'a.pdf', refused],
    ['table', 'json', { a: 1, 'b/c': 2 }, value({ a: 1, 'b/c': 2 })],
    ['table', 'json', JSON.parse('{"__proto__": 1}'), value(JSON.parse('{"__proto__": 1}'))],
    ['table', 'json', { 'a\ud800': 1 }, refused],
    ['table', 'json', [1], refused],
    ['table', 'form', { a: '1' }, value({ a: 1 })],
    ['shapes', 'json', { how: 'card', number: '1', more: 2 }, value({ how: 'card', number: '1' })],
    ['shapes', 'json', { number: '1', how: 'cash' }, value({ how: 'cash' })],
    ['shapes', 'json', { how: 'toString' }, ['tag']],
    ['shapes', 'json', { how: ['card'] }, ['tag']],
    ['shapes', 'json', {}, ['tag']],
    ['shapes', 'json', { how: 'card' }, ['needed']],
    ['shapes', 'json', 'card', refused],
    ['shapes', 'form', MISSING, ['tag']],
    ['enum', 'json', 8, value(8)],
    ['enum', 'json', 'Small', refused],
    ['enum', 'form', '18', value(18)],
    ['own', 'json', 'a1', value('A1')],
    ['own', 'json', 'a12', refused],
    ['own', 'json', 7, refused],
    ['own', 'form', 'b2', value('B2')],
    ['group', 'json', ['a'], refused],
    ['group', 'json', 'a', refused],
  ];
  test.each(table)('%s from %s: %j', (kind, as, raw, expected) => {
    expect(told(judgeValue(kinds[kind], raw, { as }))).toEqual(expected);
  });
});

describe('presence', () => {
  const table: [as: 'json' | 'form', raw: unknown, needed: unknown, optional: unknown, orNull: unknown, filled: unknown][] = [
    ['json', MISSING, ['needed'], value(undefined), ['needed'], value('none')],
    ['json', undefined, ['needed'], value(undefined), ['needed'], value('none')],
    ['json', null, ['needed'], value(undefined), value(null), value('none')],
    ['json', '', ['blank'], value(''), ['blank'], value('')],
    ['json', ' \t', ['blank'], value(' \t'), ['blank'], value(' \t')],
    ['json', '\u00a0\u2003', ['blank'], value('\u00a0\u2003'), ['blank'], value('\u00a0\u2003')],
    ['json', 'a', value('a'), value('a'), value('a'), value('a')],
    ['form', MISSING, ['needed'], value(undefined), ['needed'], value('none')],
    ['form', '', ['needed'], value(undefined), ['needed'], value('none')],
    ['form', ' \t', ['needed'], value(undefined), ['needed'], value('none')],
    ['form', 'a', value('a'), value('a'), value('a'), value('a')],
  ];
  test.each(table)('%s: %j', (as, raw, needed, optional, orNull, filled) => {
    const field = text('T');
    const judged = [field, field.orAbsent(), field.orNull(), field.orElse(() => 'none')].map((each) => told(judgeValue(each, raw, { as })));
    expect(judged).toEqual([needed, optional, orNull, filled]);
  });

  test('a check box that a form does not send is false when needed, absent when optional', () => {
    expect(told(judgeValue(flag('F'), MISSING, { as: 'form' }))).toEqual(value(false));
    expect(told(judgeValue(flag('F').orAbsent(), MISSING, { as: 'form' }))).toEqual(value(undefined));
    expect(told(judgeValue(flag('F'), MISSING, { as: 'json' }))).toEqual(['needed']);
  });

  test('a missing list can be an empty one', () => {
    expect(told(judgeValue(list('L', text('T')).orEmpty(), MISSING))).toEqual(value([]));
    expect(told(judgeValue(list('L', text('T')), MISSING))).toEqual(['needed']);
  });

  test('a form sends no groups, so the fields of a missing one speak for themselves', () => {
    const owner = intake('owner', {
      owner: group('Owner', { name: text('Name'), vip: flag('VIP') }),
      other: group('Other', { name: text('Name') }).orAbsent(),
    });
    expect(blamesOf(owner.judgeLocally({}, { as: 'form' }))).toEqual(['needed /owner/name']);
    expect(blamesOf(owner.judgeLocally({}))).toEqual(['needed /owner']);
  });
});

test('a needed text may be allowed to be blank, in a form too', () => {
  const field = text('T').blankAllowed();
  expect(['', ' '].map((raw) => told(judgeValue(field, raw)))).toEqual([value(''), value(' ')]);
  expect(told(judgeValue(field, '', { as: 'form' }))).toEqual(value(''));
  expect(told(judgeValue(field, MISSING, { as: 'form' }))).toEqual(['needed']);
  expect(() => whole('W').blankAllowed()).toThrow('"W" is whole; only text can be allowed to be blank.');
});

describe('an accepted value', () => {
  test('is a new object of declared fields in declared order, without those left out', () => {
    const fields = {
      a: text('A'),
      b: whole('B').orAbsent(),
      again: text('Again').leftOut(),
      g: group('G', { z: text('Z'), y: text('Y') }),
    };
    const submission = { g: { y: 'y', z: 'z', x: 1 }, extra: true, again: 'r', a: 'a' };
    const verdict = intake('ordered', fields).judgeLocally(submission);
    expect(verdict.outcome === 'accepted' && JSON.stringify(verdict.value)).toBe('{"a":"a","g":{"z":"z","y":"y"}}');
  });

  test('is cleaned before it is judged, secrets only where asked', () => {
    const verdict = intake('cleaned', { email: text('E', trim(), foldCase()), pass: text('P').secret() }).judgeLocally({
      email: ' A@B.Example ',
      pass: ' x ',
    });
    expect(verdict).toMatchObject({ value: { email: 'a@b.example', pass: ' x ' } });
  });

  test('a text that cleaning leaves empty is blank', () => {
    expect(told(judgeValue(text('T', trim()), '\u2003'))).toEqual(['blank']);
  });
});

describe('undeclared keys', () => {
  const fields = { a: text('A'), g: group('G', { b: text('B') }), who: text('Who').given() };
  const submission = { a: 'a', 'x/y': 1, g: { b: 'b', c: 2 }, who: 'me' };

  test('are dropped, a given field among them', async () => {
    const verdict = await intake('drop', fields).judge(submission, { given: { who: 'the application' } });
    expect(verdict).toMatchObject({ outcome: 'accepted', value: { a: 'a', g: { b: 'b' } } });
  });

  test('or refused, where they stand', async () => {
    const verdict = await intake('refuse', fields, { strangers: 'refuse' }).judge(submission, { given: { who: 'x' } });
    expect(blamesOf(verdict)).toEqual(['stranger /x~1y', 'stranger /who', 'stranger /g/c']);
  });
});
