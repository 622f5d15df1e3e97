import {
  addDays,
  atMost,
  base64,
  between,
  collection,
  day,
  exact,
  exactly,
  group,
  inOrder,
  intake,
  known,
  length,
  list,
  multipleOf,
  notBefore,
  rule,
  table,
  text,
  totalAtMost,
  whole,
} from 'jestril';
import { de } from 'jestril/catalogues';
import { memoryRecords } from 'jestril/memory';
import { judgeValue, messagesOf, rulesOf } from '../support/judging.ts';

// Sentences say what is so.

// biome-ignore lint/suspicious/noExplicitAny: what the compiler refuses, and plain JavaScript does not
const any = (value: unknown): any => value;

describe('exact numbers are told exactly', () => {
  test.each([
    [exact('N', atMost('12345678901234567890.12')), '12345678901234567890.13', 'N must be at most 12,345,678,901,234,567,890.12.'],
    [exact('N', between('0.10', '0.30')), '1', 'N must be from 0.10 to 0.30.'],
    [exact('N', multipleOf('0.00000000000000000001')), '0.000000000000000000001', 'N must be a multiple of 0.00000000000000000001.'],
    [exact('N', atMost('0')), '9'.repeat(401), 'N must have at most 400 digits before the decimal point, and 400 after it.'],
    [whole('N', atMost(3)), 4, 'N must be at most 3.'],
  ])('%#', (field, raw, message) => {
    expect(messagesOf(judgeValue(field, raw))).toEqual([message]);
  });

  test('sums too, in any language', () => {
    const form = intake('i', { a: exact('A'), b: exact('B') }, { rules: [totalAtMost([['a'], ['b']], 'a' as never)], catalogues: [de] });
    const raw = { a: '12345678901234567890.12', b: '0.01' };
    expect(messagesOf(form.judgeLocally(raw))).toEqual([
      'A and B come to 12,345,678,901,234,567,890.13, and may come to 12,345,678,901,234,567,890.12 at most.',
    ]);
    expect(messagesOf(form.judgeLocally(raw, { locale: 'de' }))[0]).toContain('12.345.678.901.234.567.890,13');
  });

  test('a column that is found keeps its places', async () => {
    const berths = collection('berths', { code: text, price: exact }, { key: 'code' });
    const dear = rule(
      't/dear',
      { berth: text },
      {
        looksUp: { row: berths.one({ code: 'berth' }, ['price']) },
        holds: () => false,
        message: '{row_price} {row_price, number}',
        blames: 'berth',
      },
    );
    const form = intake('i', { berth: text('Berth') }, { rules: [dear({ berth: 'berth' })] });
    const records = memoryRecords({ berths: [{ code: 'A1', price: '60.00' }] });
    expect(messagesOf(await form.judge({ berth: 'A1' }, { records }))).toEqual(['60.00 60.00']);
  });
});

test('a submission that is no object is told in any language, whatever is said of fields', () => {
  const fr = { locale: 'fr', messages: { readable: '{field} : une seule valeur.', 'readable/submission': 'Un objet, s’il vous plaît.' } };
  const form = intake('i', { a: text('A') }, { catalogues: [fr, de], messages: { readable: { en: '{field} once' } } });
  for (const [locale, message] of [
    ['fr', 'Un objet, s’il vous plaît.'],
    ['de', 'Bitte ein Objekt mit benannten Feldern senden.'],
    ['en', 'The submission must be an object with named fields.'],
  ] as const)
    expect(messagesOf(form.judgeLocally([], { locale }))).toEqual([message]);
});

test('that a record is not there is one finding, whichever rules ask for it', async () => {
  const vessels = collection('vessels', { mark: text, state: text }, { key: 'mark' });
  const asks = rule(
    't/asks',
    { mark: text },
    { looksUp: { row: vessels.one({ mark: 'mark' }, ['state']) }, holds: () => true, message: 'x', blames: 'mark' },
  );
  const form = intake(
    'i',
    { mark: text('Mark') },
    { rules: [known(vessels, { mark: 'mark' }, { only: { state: exactly('afloat') } }), asks({ mark: 'mark' })] },
  );
  const records = memoryRecords({ vessels: [{ mark: 'B', state: 'ashore' }] });
  expect(rulesOf(await form.judge({ mark: 'A' }, { records }))).toEqual(['known']);
  expect(rulesOf(await form.judge({ mark: 'B' }, { records }))).toEqual(['known']);
});

describe('a catalogue of one’s own', () => {
  const make = (messages: object, fields: object = { n: whole('N', between(1, 2)), l: text('L', length({ max: 2 })) }) =>
    intake('i', any(fields), { catalogues: [{ locale: 'fr', messages: any(messages) }] });
  test.each<[messages: object, sentence: string]>([
    [{ betwen: 'x' }, 'Catalogue "fr", "betwen": there is no such sentence; did you mean "between"?'],
    [{ 'readable/hole': 'x' }, 'Catalogue "fr", "readable/hole": there is no such sentence'],
    [{ between: '{mn}' }, 'Catalogue "fr", "between": nothing fills {mn} in "{mn}"; did you mean "min"?'],
    [{ needed: '{most}' }, 'Catalogue "fr", "needed": nothing fills {most}'],
    [{ 'readable/whole': '{feld}' }, 'Catalogue "fr", "readable/whole": nothing fills {feld}'],
    [{ between: '{min, number, ::currency/XX}' }, '"XX" is no currency, such as EUR'],
    [{ between: '{min, number, ::unit/league}' }, '"league" is no unit'],
    [{ between: '{min, plural, one {x}}' }, 'is not an ICU message (no branch "other" at 23)'],
    [{ between: '{min' }, 'Catalogue "fr", "between": the message "{min" is not an ICU message'],
  ])('%j is refused', (messages, sentence) => {
    expect(() => make(messages)).toThrow(sentence);
  });
  test('may speak for other intakes, and for kinds and rules of one’s own', () => {
    const messages = {
      'at-most': '{max}',
      'marina/fits-berth': '{whatever}',
      'readable/marina/berth-code': '{field}',
      'readable/day': '{field}',
    };
    expect(make(messages).name).toBe('i');
  });
});

describe('findings inside lists say which entry', () => {
  const member = group(
    'Member',
    { name: text('Name'), from: day('From'), to: day('To'), tags: list('Tags', text('Tag')).entryLabel('tag {number}').orEmpty() },
    inOrder({ earlier: 'from', later: 'to' }),
  );
  const form = intake(
    'i',
    {
      crew: list('Crew', member).entryLabel({ en: 'Helper {number}', de: 'Helferin {number}' }),
      prices: table('Prices', whole('Price')).entryLabel('Price of {name}').orEmpty(),
      hidden: table('Hidden', whole('Hidden')).secret().entryLabel('For {name}').orEmpty(),
    },
    { catalogues: [de] },
  );
  const raw = {
    crew: [{ name: 'Ida', from: '2031-05-02', to: '2031-05-01', tags: ['a', ''] }, {}],
    prices: { A1: 'x' },
    hidden: { pin: 'x' },
  };
  test('in their sentence, from one setting of the list', () => {
    expect(messagesOf(form.judgeLocally(raw))).toEqual([
      'Helper 2: Name is needed.',
      'Helper 2: From is needed.',
      'Helper 2: To is needed.',
      'Helper 1: To must be after From.',
      'Helper 1, tag 2: Tag must not be blank.',
      'Price of A1: Price must be a whole number, such as 12.',
      'For …: Hidden must be a whole number, such as 12.',
    ]);
    expect(messagesOf(form.judgeLocally({ crew: [{}] }, { locale: 'de' }))[0]).toBe('Helferin 1: Name: Bitte ausfüllen.');
  });
  test('whose name is told in short, without what turns the sentence', () => {
    const named = (name: string) => messagesOf(form.judgeLocally({ crew: [], prices: { [name]: 'x' } }))[0];
    expect(named('x'.repeat(10_000))).toHaveLength('Price of …: Price must be a whole number, such as 12.'.length + 100);
    expect(named('a\u202eb')).toBe('Price of ab: Price must be a whole number, such as 12.');
  });
  test('which is refused where there are no entries, and with words that nothing fills', () => {
    expect(() => any(text('A')).entryLabel('x')).toThrow('"A" is text; only a list or a table has entries.');
    expect(() => list('L', text('T')).entryLabel('{name}')).toThrow('nothing fills {name}');
  });
});

describe('edges that are decided', () => {
  test('there is no day before year 0, and none after 9999', () => {
    expect(() => addDays('9999-12-31', 1)).toThrow(new RangeError('There is no such day: years are written with four digits.'));
    expect(() => addDays('0000-01-01', -1)).toThrow(RangeError);
    expect(addDays('9999-12-30', 1)).toBe('9999-12-31');
  });
  test('bits of base64 that carry nothing are zero', () => {
    const field = text('F', base64());
    for (const fine of ['YQ==', 'YWI=', 'YWJj']) expect(rulesOf(judgeValue(field, fine))).toEqual([]);
    for (const odd of ['YR==', 'YWJ=', 'Y===']) expect(rulesOf(judgeValue(field, odd))).toEqual(['base64']);
    expect(rulesOf(judgeValue(text('F', base64({ urlSafe: true })), 'YR'))).toEqual(['base64']);
  });
  test('a value turns no sentence', () => {
    const field = text(
      'F',
      rule('t/tells', { field: text }, { holds: () => false, message: '“{field_value}” is unknown', blames: 'field' })(),
    );
    const verdict = judgeValue(field, 'a\u202eb\u2069c');
    expect(messagesOf(verdict)).toEqual(['“abc” is unknown']);
    expect(verdict).toMatchObject({ findings: [{ facts: { field_value: 'a\u202eb\u2069c' } }] });
  });
  test('bounds at the last day are tried', () => {
    expect(rulesOf(judgeValue(day('D', notBefore('9999-12-31')), '9999-12-30'))).toEqual(['not-before']);
  });
});
