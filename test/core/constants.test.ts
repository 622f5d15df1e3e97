import {
  absent,
  allowed,
  atMost,
  choice,
  collection,
  day,
  decimal,
  distinct,
  equals,
  exact,
  exactlyOneOf,
  type Fields,
  flag,
  forbidden,
  group,
  inOrder,
  intake,
  length,
  list,
  moment,
  mustContain,
  needed,
  notBefore,
  oneOfShapes,
  ownKind,
  rule,
  same,
  shape,
  table,
  text,
  timeOfDay,
  timeZone,
  today,
  unique,
  upload,
  whole,
} from 'jestril';
import { formObject } from 'jestril/form';
import { memoryRecords } from 'jestril/memory';
import { zoneFormat } from '../../src/core/basics/days.ts';
import { judgeValue, looseIntake, messagesOf, rulesOf, told } from '../support/judging.ts';

const any = (value: unknown) => value as never;

describe('constants are read as the field reads what is sent', () => {
  test.each([
    ['an exact decimal', exact('F', forbidden(['0.10'])), '0.1'],
    ['a moment with another offset', moment('F', forbidden(['2031-05-01T12:00:00+02:00'])), '2031-05-01T10:00:00Z'],
    ['a time with seconds', timeOfDay('F', forbidden(['09:30:00'])), '09:30'],
    ['a number', exact('F', forbidden([12.5])), '12.50'],
    ['what a list must contain', list('F', exact('N'), mustContain('0.20')), ['0.1']],
  ])('%s', (_what, field, raw) => {
    expect(rulesOf(judgeValue(field, raw))).toEqual([expect.stringMatching(/forbidden|must-contain/)]);
  });

  const fields: Fields = {
    price: exact('Price'),
    power: choice('Power', ['16A', '32A']).orAbsent(),
    pay: oneOfShapes('Pay', 'by', { courier: shape({ to: text('To') }), post: shape({}) }),
    crew: list('Crew', group('Member', { name: text('Name') })).orEmpty(),
  };
  const build = (...rules: unknown[]) => looseIntake(fields, rules);

  test('of conditions too; a tag names a shape', () => {
    const form = build(
      needed(any('power'), { when: equals({ price: '0.10' } as never) }),
      needed(any('power'), { when: equals({ pay: 'courier' } as never) }),
    );
    expect(rulesOf(form.judgeLocally({ price: '0.1', pay: { by: 'post' } }))).toEqual(['needed']);
    expect(rulesOf(form.judgeLocally({ price: '1', pay: { by: 'courier', to: 'x' } }))).toEqual(['needed']);
    expect(rulesOf(form.judgeLocally({ price: '1', pay: { by: 'post' } }))).toEqual([]);
  });

  test.each([
    [
      'a text that is no number',
      () => looseIntake({ n: whole('N', forbidden(['5'])) }, []),
      'field "n": forbidden: it names "5", which is no whole.',
    ],
    [
      'an option that is none',
      () => looseIntake({ c: choice('C', ['a', 'b'], allowed(['z'])) }, []),
      'allowed: it names "z", which is none of a, b.',
    ],
    [
      'a condition that can never hold',
      () => build(needed(any('power'), { when: equals({ power: 'z' } as never) })),
      'condition "equals" compares "power" with "z", which is none of 16A, 32A.',
    ],
    [
      'a shape that there is none of',
      () => build(needed(any('power'), { when: equals({ pay: 'currier' } as never) })),
      'did you mean "courier"?',
    ],
    ['no value at all', () => build(needed(any('power'), { when: equals({ power: [] } as never) })), 'names no value for "power"'],
    [
      'an entry that can never be there',
      () => looseIntake({ l: list('L', whole('N'), mustContain('x')) }, []),
      'it looks for "x", which is no whole.',
    ],
    [
      'a key that entries lack',
      () => looseIntake({ l: list('L', group('G', { name: text('N') }), distinct({ by: 'nam' })) }, []),
      'there is no such field in them; did you mean "name"?',
    ],
    [
      'a key of what is no group',
      () => looseIntake({ l: list('L', text('N'), distinct({ by: 'name' })) }, []),
      'they are no groups but text.',
    ],
    ['a default of another kind', () => looseIntake({ n: whole('N').orElse(any('5')) }, []), 'the default "5" of "n" is no whole.'],
    ['a default that is blank', () => looseIntake({ n: text('N').orElse(' ') }, []), 'the default " " of "n" is no text.'],
    [
      'a default that its own rule refuses',
      () => looseIntake({ n: whole('N', atMost(3)).orElse(5) }, []),
      'the default 5 of "n" is refused by its rule at-most.',
    ],
    ['null for what is never null', () => looseIntake({ n: whole('N').orElse(any(null)) }, []), 'the default null of "n" is no whole.'],
    [
      'a condition on a value rule',
      () => looseIntake({ n: whole('N', atMost(3, any({ when: equals({ n: 1 } as never) }))) }, []),
      'at-most has a condition (`when`)',
    ],
    [
      'a rule about one value among those between fields',
      () => looseIntake({ n: whole('N') }, [atMost(3)]),
      'at-most is a rule about one value; it stands in a field’s own list'.replace('’', "'"),
    ],
    ['rules that are no list', () => intake('i', { n: whole('N') }, any({ rules: { a: 1 } })), 'rules is a list'],
    [
      'a list without entries',
      () => list('L', any(undefined)),
      "list('L') needs as its second argument what its entries are, such as text('Name').",
    ],
    ['a table without entries', () => table('T', any(undefined)), "table('T') needs as its second argument"],
    ['a group without fields', () => group('G', any(undefined)), "group('G') needs its fields as its second argument"],
    [
      'a language without its catalogue',
      () => intake('i', { n: whole('N') }, any({ languages: { de: { labels: { n: 'Zahl' } } } })),
      'add catalogues: [de], with de of jestril/catalogues.',
    ],
    ['decimal places that are none', () => exact('P', { places: -1 }), 'exact: places -1 is not a whole number'],
  ])('%s is refused', (_what, define, sentence) => {
    expect(define).toThrow(sentence);
  });
});

describe('defaults', () => {
  test('are read, cleaned and judged as what they stand for', () => {
    expect(told(judgeValue(moment('F').orElse('2031-05-01T12:00:00+02:00' as never), undefined))).toEqual({
      value: '2031-05-01T10:00:00.000Z',
    });
    expect(told(judgeValue(exact('F').orElse('0.10'), undefined))).toEqual({ value: '0.1' });
    expect(
      told(
        judgeValue(
          text('F', length({ max: 3 })).orElse(() => 'abc'),
          undefined,
        ),
      ),
    ).toEqual({ value: 'abc' });
  });

  test.each([
    ['throws', () => JSON.parse('{')],
    ['gives another kind', () => 5],
    ['gives what a rule refuses', () => 'far too long'],
  ])('a function that %s leaves the verdict undecided, and blames nobody', (_what, made) => {
    const verdict = judgeValue(text('F', length({ max: 3 })).orElse(made as () => string), undefined);
    expect(verdict).toMatchObject({ outcome: 'undecided', unsettled: [{ use: 'readable@value', why: 'fault' }] });
  });

  test('that depend on the clock are judged when they are taken', () => {
    const field = day('F', notBefore(today)).orElse('2031-05-01');
    expect(told(judgeValue(field, undefined, { now: new Date('2031-04-01T10:00:00Z') }))).toEqual({ value: '2031-05-01' });
    expect(judgeValue(field, undefined, { now: new Date('2031-06-01T10:00:00Z') }).outcome).toBe('undecided');
  });
});

describe('money', () => {
  const price = exact('Price', { places: 2 });
  test('is kept as it is written, and compared as a number', () => {
    expect([told(judgeValue(price, '12.50')), told(judgeValue(price, 12.5)), told(judgeValue(price, '7'))]).toEqual([
      { value: '12.50' },
      { value: '12.50' },
      { value: '7.00' },
    ]);
    const form = intake(
      'form',
      { price, paid: exact('Paid') },
      { rules: [same({ first: 'price', second: 'paid' }), inOrder({ earlier: 'price', later: 'paid' }, { orEqual: true })] },
    );
    expect(rulesOf(form.judgeLocally({ price: '12.5', paid: '12.5' }))).toEqual([]);
    // Texts that look like numbers are texts.
    const texts = intake('texts', { a: text('A'), b: text('B') }, { rules: [same({ first: 'a', second: 'b' })] });
    expect(rulesOf(texts.judgeLocally({ a: '12.50', b: '12.5' }))).toEqual(['same']);
  });
});

describe('a choice is compared with a choice', () => {
  test('by `same`', () => {
    const form = intake('form', { a: choice('A', ['x', 'y']), b: choice('B', ['x', 'y']) }, { rules: [same({ first: 'a', second: 'b' })] });
    expect(rulesOf(form.judgeLocally({ a: 'x', b: 'y' }))).toEqual(['same']);
  });
});

test('a moment is set against a day in the intake’s zone', () => {
  const onDay = rule(
    'test/on-day',
    { at: moment, on: day },
    { holds: ({ at, on }, _found, _takes, circumstances) => circumstances.dayOf(at) === on, message: 'x', blames: 'at' },
  );
  const form = intake('form', { at: moment('At'), on: day('On') }, { zone: 'Europe/Oslo', rules: [onDay({ at: 'at', on: 'on' })] });
  expect(rulesOf(form.judgeLocally({ at: '2031-05-01T22:30:00Z', on: '2031-05-02' }))).toEqual([]);
  expect(rulesOf(form.judgeLocally({ at: '2031-05-01T21:30:00Z', on: '2031-05-02' }))).toEqual(['test/on-day']);
});

describe('what newcomers send', () => {
  test.each([
    [whole('F'), '5', 'F must be a whole number, sent as a number and not as text.'],
    [whole('F'), 'five', 'F must be a whole number, such as 12.'],
    [decimal('F'), '1.5', 'F must be a number, sent as a number and not as text.'],
    [flag('F'), 'true', 'F must be true or false, and not sent as text.'],
    [day('F'), new Date(), 'F must be a day as text, such as 2031-05-28, and not a Date object.'],
    [moment('F'), new Date(), 'F must be a date and time as text, such as 2031-05-28T09:30:00+02:00, and not a Date object.'],
  ])('%#', (field, raw, sentence) => {
    expect(messagesOf(judgeValue(field, raw))).toEqual([sentence]);
  });

  test('the wrong key of the record that is judged again is a mistake of the application', async () => {
    const owners = collection('owners', { id: whole, email: text }, { key: 'id' });
    const form = intake('owner', { email: text('E-mail') }, { storedIn: owners, rules: [unique(owners, { email: 'email' })] });
    const records = memoryRecords({ owners: [] });
    await expect(form.judge({ email: 'x' }, { records, itself: any({ nr: 1 }) })).rejects.toThrow(
      'itself has to be { id: … }, the key of owners, and names "nr".',
    );
    await expect(form.amend({ email: 'x' }, {}, { records, itself: any({}) })).rejects.toThrow(
      'itself has to be { id: … }, the key of owners.',
    );
  });
});

describe('forms', () => {
  const form = intake('form', {
    terms: flag('Terms').orElse(true),
    news: flag('News').orAbsent(),
    contact: group('Contact', { phone: text('Phone'), tags: list('Tags', text('Tag')).orEmpty(), ok: flag('Ok').orAbsent() }).orAbsent(),
    rates: table('Rates', whole('Rate')).orEmpty(),
    papers: list('Papers', upload('Paper')).orEmpty(),
  });
  const judged = (typed: readonly (readonly [string, unknown])[], options: object = {}) =>
    told(form.judgeLocally(formObject(typed), { as: 'form', ...options }) as never);
  const values = (typed: readonly (readonly [string, unknown])[], options: object = {}) =>
    form.judgeLocally(formObject(typed), { as: 'form', ...options });

  test('an unticked box is no where the form says that it was shown', () => {
    expect(values([])).toMatchObject({ value: { terms: true } });
    expect(values([], { shown: ['terms', 'news'] })).toMatchObject({ value: { terms: false, news: false } });
    expect(values([['terms', 'on']], { shown: ['terms'] })).toMatchObject({ value: { terms: true } });
    expect(() => judged([], { shown: ['contact'] })).toThrow('shown names "contact", which is no flag');
  });

  test('a group that need not be there is not, when all its boxes were left empty', () => {
    expect(
      values([
        ['contact.phone', ' '],
        ['contact.tags', ''],
      ]),
    ).not.toHaveProperty('value.contact');
    expect(
      rulesOf(
        values([
          ['contact.phone', ''],
          ['contact.tags', 'x'],
        ]),
      ),
    ).toEqual(['needed']);
    const file = new File(['x'], 'a.txt');
    expect(
      rulesOf(
        intake('f', { g: group('G', { name: text('Name'), file: upload('File') }).orAbsent() }).judgeLocally(
          formObject([
            ['g.name', ''],
            ['g.file', file],
          ]),
          { as: 'form' },
        ),
      ),
    ).toEqual(['needed']);
  });

  test('names that are numbers name the entries of a table, and count those of a list; one file is a list of one', () => {
    expect(
      values([
        ['rates.7', '5'],
        ['rates.12', '6'],
      ]),
    ).toMatchObject({ value: { rates: { 7: 5, 12: 6 } } });
    expect(values([['papers', new File(['x'], 'a.txt')]])).toMatchObject({ value: { papers: [{ name: 'a.txt', size: 1 }] } });
  });
});

describe('what is no JSON', () => {
  const crew = list('Crew', group('Member', { name: text('Name') })).orEmpty();
  const form = looseIntake(
    {
      name: text('Name'),
      crew,
      box: group('Box', { a: text('A') }).orAbsent(),
      file: upload('File').orAbsent(),
      t: table('T', text('X')).orEmpty(),
    },
    [],
    { strangers: 'refuse' },
  );
  const thrower = (key: string, inside: object = {}) =>
    Object.defineProperty(inside, key, {
      enumerable: true,
      get() {
        throw new Error('no');
      },
    });
  const revoked = () => {
    const { proxy, revoke } = Proxy.revocable({}, {});
    revoke();
    return proxy;
  };
  test.each([
    ['a getter that throws', thrower('name')],
    ['one in a list', { name: 'x', crew: [thrower('name')] }],
    ['one for an entry', { name: 'x', crew: thrower('0', [1]) }],
    ['one in a group', { name: 'x', box: thrower('a') }],
    ['one in a file', { name: 'x', file: thrower('name') }],
    ['a proxy that is no more', revoked()],
    ['one inside', { name: 'x', box: revoked(), t: revoked() }],
    [
      'a proxy that throws',
      new Proxy(
        {},
        {
          ownKeys: () => {
            throw new Error('no');
          },
        },
      ),
    ],
  ])('%s is read as nothing that could be read', (_what, submission) => {
    const verdict = form.judgeLocally(submission);
    expect(verdict.outcome).toBe('rejected');
    expect(rulesOf(verdict).every((id) => id === 'readable' || id === 'needed')).toBe(true);
  });

  test('an own kind that throws on a stored value is at fault, and nobody else', async () => {
    const odd = ownKind('test/odd', text, { reads: (value) => (value === 'bad' ? JSON.parse('{') : value), says: 'x' });
    const marks = collection('marks', { id: whole, mark: odd }, { key: 'id' });
    const reads = rule(
      'test/reads',
      { id: whole },
      { looksUp: { row: marks.one({ id: 'id' }, ['mark']) }, holds: () => true, message: 'x', blames: 'id' },
    );
    const looked = intake('looked', { id: whole('Id') }, { rules: [reads({ id: 'id' })] });
    expect(await looked.judge({ id: 1 }, { records: memoryRecords({ marks: [{ id: 1, mark: 'bad' }] }) })).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ why: 'fault' }],
    });
    const kept = intake(
      'kept',
      { mark: odd('Mark'), other: text('Other') },
      { rules: [same({ first: 'mark', second: 'other' } as never)] },
    );
    expect(await kept.amend({ mark: 'bad', other: 'x' } as never, { other: 'y' })).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ why: 'fault' }],
    });
  });
});

describe('given values', () => {
  const form = intake(
    'form',
    {
      name: text('Name'),
      caller: group('Caller', { id: whole('Id') })
        .given()
        .orAbsent(),
    },
    { strangers: 'refuse', rules: [absent('name', { when: equals({ 'caller.id': 2 }) })] },
  );
  test('may be absent, in types too; strangers are a matter of the submission', async () => {
    expect(await form.judge({ name: 'x' }, { given: {} })).toMatchObject({ outcome: 'accepted' });
    expect(await form.judge({ name: 'x' }, { given: { caller: { id: 1, staff: true } as never } })).toMatchObject({ outcome: 'accepted' });
    expect(rulesOf(await form.judge({ name: 'x', other: 1 }, { given: {} }))).toEqual(['stranger']);
  });

  test('come by row, and rows are counted on from others', async () => {
    const rows: unknown[] = [];
    const given = (_row: unknown, row: number) => ({ caller: { id: row } });
    for await (const { row, verdict } of form.judgeMany([{ name: 'a' }, { name: 'b' }], { given, rowsBefore: 1 }))
      rows.push([row, rulesOf(verdict)]);
    expect(rows).toEqual([
      [2, ['absent']],
      [3, []],
    ]);
  });
});

describe('sizes', () => {
  test('a time zone is remembered once, however it is spelt', () => {
    const name = 'america/argentina/buenos_aires';
    const spelt = (number: number) => [...name].map((letter, at) => ((number >> (at % 13)) & 1 ? letter.toUpperCase() : letter)).join('');
    const field = text('F', timeZone());
    const first = zoneFormat('UTC');
    expect(zoneFormat('UTC')).toBe(first);
    for (let number = 0; number < 500; number++) expect(judgeValue(field, spelt(number)).outcome).toBe('accepted');
    // A formatter is some 25 KB, and the run time keeps 8 KB more for good for each spelling.
    expect(zoneFormat('UTC')).toBe(first);
    expect(zoneFormat(spelt(5))).toBe(zoneFormat(spelt(9)));
  });

  test('strangers are counted once for the whole submission', () => {
    const form = looseIntake({ crew: list('Crew', group('Member', { name: text('Name') })) }, [], {
      strangers: 'refuse',
      mostFindings: 100_000,
    });
    const crew = Array.from({ length: 500 }, (_, index) => ({ name: 'x', [`a${index}`]: 1, [`b${index}`]: 2 }));
    expect(rulesOf(form.judgeLocally({ crew }))).toHaveLength(100);
  });

  test('only a length says how many entries a list may have', () => {
    const loose = rule('test/loose', { field: list }, { takes: { max: whole }, holds: () => true, message: 'x', blames: 'field' });
    const field = (step: unknown) => list('F', whole('N'), step as never);
    const many = new Array(10_001).fill(1);
    expect(rulesOf(judgeValue(field(loose({ max: 50_000 })), many))).toEqual(['too-many']);
    expect(rulesOf(judgeValue(field(length({ max: 50_000 })), many))).toEqual([]);
  });

  test('a submission that costs more than a million entries is too many', () => {
    const form = intake('form', { outer: list('Outer', list('Inner', whole('N'))) });
    const inner = new Array(5000).fill(1);
    const verdict = form.judgeLocally({ outer: new Array(250).fill(inner) });
    expect(rulesOf(verdict)).toContain('too-many');
    expect(messagesOf(verdict)[0]).toBe('Inner: there are too many entries here to be judged together.');
    expect(form.judgeLocally({ outer: new Array(150).fill(inner) }).outcome).toBe('accepted');
  });
});

test('exactlyOneOf and its like still name their fields', () => {
  expect(() => exactlyOneOf(any('a'))).toThrow('exactlyOneOf needs two fields or more.');
});
