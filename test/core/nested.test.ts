import {
  choice,
  collection,
  day,
  decimal,
  entries,
  exact,
  inOrder,
  intake,
  labelled,
  moment,
  needed,
  oneOfShapes,
  ownKind,
  rule,
  same,
  shape,
  table,
  text,
  type Verdict,
} from 'jestril';
import { blamesOf, messagesOf } from '../support/judging.ts';

describe('one of several shapes', () => {
  const payment = intake(
    'payment',
    {
      on: day('On'),
      how: oneOfShapes('Payment', 'method', {
        card: shape({ number: text('Card number').secret(), expires: day('Expiry') }),
        transfer: shape({ from: day('From'), due: day('Due') }, inOrder({ earlier: 'from', later: 'due' })),
        cash: shape({}),
      }),
    },
    { rules: [inOrder({ earlier: 'on', later: 'how.card.expires' })], strangers: 'refuse' },
  );
  const on = '2031-05-01';
  test.each([
    ['a rule reads the fields of a shape', { on, how: { method: 'card', number: '1', expires: on } }, ['in-order /how/expires']],
    ['and is skipped for the others', { on, how: { method: 'cash' } }, []],
    ['rules of a shape', { on, how: { method: 'transfer', from: on, due: on } }, ['in-order /how/due']],
    ['fields of another shape are strangers', { on, how: { method: 'cash', number: '1' } }, ['stranger /how/number']],
    ['a tag that is none', { on, how: { method: 'barter' } }, ['tag /how/method']],
    ['needed fields', { on, how: { method: 'card' } }, ['needed /how/number', 'needed /how/expires']],
    ['nothing', { on }, ['needed /how']],
  ])('%s', (_what, submission, blames) => {
    expect(blamesOf(payment.judgeLocally(submission))).toEqual(blames);
  });

  test('the tag is told by its options, and types know which shape has what', () => {
    const verdict = payment.judgeLocally({ on, how: { method: 'barter' } });
    expect(verdict).toMatchObject({
      findings: [
        {
          facts: { options: ['card', 'transfer', 'cash'] },
          places: [{ field: 'how' }],
          message: 'Payment must be card, transfer, or cash.',
        },
      ],
    });
    const expiry = (judged: Verdict<{ how: { method: 'card'; expires: string } | { method: 'transfer' } | { method: 'cash' } }>) =>
      judged.outcome === 'accepted' && judged.value.how.method === 'card' ? judged.value.how.expires : undefined;
    expect(expiry(payment.judgeLocally({ on, how: { method: 'card', number: '1', expires: '2032-01-01' } }))).toBe('2032-01-01');
  });
});

describe('a table of named entries', () => {
  const cheap = rule(
    'cheap',
    { price: decimal, most: decimal },
    { holds: ({ price, most }) => price <= most, message: '{price_value, number}', blames: 'price' },
  );
  const few = rule(
    'few',
    { prices: entries({ price: decimal }) },
    { failing: ({ prices }) => prices.flatMap(({ price }, index) => (price === 13 ? [index] : [])), message: '{prices}', blames: 'prices' },
  );
  const form = intake(
    'form',
    { most: decimal('Most'), prices: table('Prices', decimal('Price')).orEmpty() },
    { rules: [cheap({ price: 'prices.*', most: 'most' }), few({ prices: { price: 'prices.*' } })] },
  );

  test('blames the entry by its name', () => {
    expect(blamesOf(form.judgeLocally({ most: 20, prices: { A1: 12, 'B/1': 21, C1: 13, D1: 'x' } }))).toEqual([
      'readable /prices/D1',
      'cheap /prices/B~11',
    ]);
    expect(blamesOf(form.judgeLocally({ most: 20, prices: { A1: 12, 'B/1': 21, C1: 13 } }))).toEqual([
      'cheap /prices/B~11',
      'few /prices/C1',
    ]);
  });

  test('is given back with its names, and is empty when missing', () => {
    expect(form.judgeLocally({ most: 20, prices: { b: 1, a: 2 } })).toMatchObject({
      outcome: 'accepted',
      value: { prices: { b: 1, a: 2 } },
    });
    expect(form.judgeLocally({ most: 20 })).toMatchObject({ value: { prices: {} } });
  });
});

describe("a kind of one's own", () => {
  const code = ownKind('marina/code', text, {
    reads: (value) => (/^[a-z]\d$/i.test(value) ? value.toUpperCase() : undefined),
    says: { en: '{field} must be a code.', de: '{field} muss ein Code sein.' },
  });
  const faulty = ownKind('marina/faulty', text, { reads: () => JSON.parse('{') as string, says: 'x' });

  test('counts as what it is based on, in roles too', () => {
    const isA1 = rule('is-a1', { code }, { holds: ({ code }) => code === 'A1', message: '{code_value}', blames: 'code' });
    const form = intake(
      'form',
      { code: code('Code'), text: text('Text') },
      { rules: [same({ first: 'code', second: 'text' }), isA1({ code: 'code' })] },
    );
    expect(form.judgeLocally({ code: 'a1', text: 'A1' })).toMatchObject({ outcome: 'accepted', value: { code: 'A1' } });
    expect(messagesOf(form.judgeLocally({ code: 'x', text: 'A1' }, { locale: 'de' }))).toEqual(['Code muss ein Code sein.']);
    expect(() => intake('form', { text: text('Text') }, { rules: [isA1({ code: 'text' } as never)] })).toThrow(
      'reads marina/code, and "text" is text.',
    );
  });

  test('that throws is at fault, and not the sender', () => {
    expect(intake('form', { a: faulty('A') }).judgeLocally({ a: 'x' })).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ rule: 'readable', why: 'fault', places: [{ pointer: '/a' }] }],
    });
  });
});

test('a choice has words for people, in their language', () => {
  const power = choice(
    'Power',
    labelled([
      ['16A', '16 ampere'],
      ['32A', { en: '32 ampere', de: '32 Ampere' }],
    ]),
  );
  const form = intake('form', { power });
  const verdict = form.judgeLocally({ power: '64A' });
  expect(verdict).toMatchObject({ findings: [{ facts: { options: ['16A', '32A'] }, message: 'Power must be 16 ampere or 32 ampere.' }] });
  expect(messagesOf(form.judgeLocally({ power: '64A' }, { locale: 'de' }))).toEqual(['Power must be 16 ampere or 32 ampere.']);
});

test('exact decimals and moments keep what a database gives', async () => {
  const bills = collection('bills', { sum: exact, at: moment }, { key: 'sum' });
  const owed = rule(
    'owed',
    { sum: exact },
    {
      looksUp: { bill: bills.one({ sum: 'sum' }, ['sum', 'at']) },
      holds: (_read, { bill }) => bill.at < '2032',
      message: '{bill_sum} {bill_at, date, long}',
      blames: 'sum',
    },
  );
  const form = intake(
    'form',
    { sum: exact('Sum'), note: text('Note').orAbsent() },
    { rules: [owed({ sum: 'sum' }), needed('note', { on: 'amend' })] },
  );
  const records = { ask: async () => [[[{ sum: '0012.500', at: new Date('2033-05-01T00:00:00Z') }]]] };
  expect(messagesOf(await form.judge({ sum: '12.50' }, { records }))).toEqual(['12.500 May 1, 2033']);
});
