import {
  among,
  asMermaid,
  atLeastOneOf,
  choice,
  condition,
  type Day,
  day,
  daysApart,
  decimal,
  entries,
  exact,
  exactlyOneOf,
  flag,
  graphOf,
  group,
  inOrder,
  intake,
  length,
  list,
  maybe,
  needed,
  nightsBetween,
  not,
  readersOf,
  rule,
  same,
  text,
  together,
  totalAtMost,
  trim,
  whole,
} from 'jestril';
import { blamesOf, looseIntake, messagesOf, rulesOf } from '../support/judging.ts';

const stay = { arrives: day('Arrival'), departs: day('Departure') };

describe('ready-made rules between fields', () => {
  const numbers = { low: decimal('Low'), high: whole('High') };
  const passphrases = { first: text('Passphrase').secret(), second: text('Passphrase again').secret().leftOut() };
  const contact = { email: text('E-mail').orAbsent(), phone: text('Phone').orAbsent() };
  const table: [fields: object, bound: unknown, submission: object, blames: string[], message: string | undefined][] = [
    [stay, inOrder({ earlier: 'arrives', later: 'departs' } as never), { arrives: '2031-05-01', departs: '2031-05-02' }, [], undefined],
    [
      stay,
      inOrder({ earlier: 'arrives', later: 'departs' } as never),
      { arrives: '2031-05-02', departs: '2031-05-02' },
      ['in-order /departs'],
      'Departure must be after Arrival.',
    ],
    [numbers, inOrder({ earlier: 'low', later: 'high' } as never), { low: 1.5, high: 2 }, [], undefined],
    [numbers, inOrder({ earlier: 'low', later: 'high' } as never), { low: 2, high: 2 }, ['in-order /high'], 'High must be more than Low.'],
    [passphrases, same({ first: 'first', second: 'second' } as never), { first: 'abc', second: 'abc' }, [], undefined],
    [
      passphrases,
      same({ first: 'first', second: 'second' } as never),
      { first: 'abc', second: 'abC' },
      ['same /second'],
      'Passphrase again must be the same as Passphrase.',
    ],
    [contact, atLeastOneOf('email' as never, 'phone' as never), { phone: '1' }, [], undefined],
    [
      contact,
      atLeastOneOf('email' as never, 'phone' as never),
      {},
      ['at-least-one-of /email /phone'],
      'At least one of E-mail and Phone is needed.',
    ],
    [contact, needed('email' as never), { email: 'x' }, [], undefined],
    [contact, needed('email' as never), {}, ['needed /email'], 'E-mail is needed.'],
  ];
  test.each(table)('%#', (fields, bound, submission, blames, message) => {
    const verdict = looseIntake(fields as never, [bound]).judgeLocally(submission);
    expect(blamesOf(verdict)).toEqual(blames);
    if (message) expect(messagesOf(verdict)).toEqual([message]);
    expect(JSON.stringify(verdict)).not.toContain('abC');
  });
});

const stayOf = rule(
  'marina/stay-of',
  { from: day, to: day },
  {
    takes: { least: whole, most: whole },
    holds: ({ from, to }, _found, { least, most }) => nightsBetween(from, to) >= least && nightsBetween(from, to) <= most,
    facts: ({ from, to }) => ({ nights: nightsBetween(from, to) }),
    message: {
      en: '{to}: {nights, plural, one {# night} other {# nights}}, not {least} to {most}.',
      nb: '{to}: {nights} netter, ikke {least} til {most}.',
    },
    blames: ['to', 'from'],
  },
);

describe("a rule of one's own", () => {
  const judged = (use: object, submission: object, locale = 'en') =>
    looseIntake({ ...stay, ...more }, [
      stayOf({ from: 'arrives', to: 'departs' } as never, { least: 2, most: 3 }, use as never),
    ]).judgeLocally(submission, { locale });
  const more = { note: text('Note').orAbsent() };
  const tooShort = { arrives: '2031-05-01', departs: '2031-05-02' };

  test('gives one finding with all its places, its facts, and words', () => {
    expect(judged({}, tooShort)).toEqual({
      outcome: 'rejected',
      more: false,
      unsettled: [],
      findings: [
        {
          rule: 'marina/stay-of',
          use: 'marina/stay-of@departs',
          severity: 'error',
          places: [
            { field: 'departs', pointer: '/departs', label: 'Departure' },
            { field: 'arrives', pointer: '/arrives', label: 'Arrival' },
          ],
          facts: { least: 2, most: 3, nights: 1 },
          message: 'Departure: 1 night, not 2 to 3.',
        },
      ],
    });
  });

  test('has a name, a severity and a message at its use', () => {
    const verdict = judged({ as: 'stay-length', severity: 'warning', message: '{most} nights at most' }, tooShort);
    expect(verdict).toMatchObject({
      outcome: 'accepted',
      warnings: [{ use: 'stay-length', rule: 'marina/stay-of', message: '3 nights at most' }],
    });
  });

  test('speaks the language asked for, or a near one, or English', () => {
    expect(messagesOf(judged({}, tooShort, 'nb-NO'))).toEqual(['Departure: 1 netter, ikke 2 til 3.']);
    expect(messagesOf(judged({}, tooShort, 'xx'))).toEqual(['Departure: 1 night, not 2 to 3.']);
    expect(messagesOf(judged({}, tooShort, 'not a locale'))).toEqual(['Departure: 1 night, not 2 to 3.']);
  });

  test('is skipped when a role failed or is absent, and says so', () => {
    const verdict = looseIntake({ ...stay, late: day('Late').orAbsent() }, [
      stayOf({ from: 'arrives', to: 'departs' } as never, { least: 1, most: 2 }),
      stayOf({ from: 'arrives', to: 'late' } as never, { least: 1, most: 2 }),
    ]).judgeLocally({ arrives: '2031-05-01', departs: 'soon' }, { explain: true });
    expect(blamesOf(verdict)).toEqual(['readable /departs']);
    expect(verdict.trace).toEqual([
      { rule: 'marina/stay-of', use: 'marina/stay-of@departs', step: 'between', outcome: 'skipped', why: 'unsound', because: ['/departs'] },
      { rule: 'marina/stay-of', use: 'marina/stay-of@late', step: 'between', outcome: 'skipped', why: 'absent', because: ['/late'] },
    ]);
  });

  test('reads undefined for an absent maybe role, and never a value that failed', () => {
    const seen: unknown[] = [];
    const note = rule(
      'note',
      { note: maybe(text), name: text },
      { holds: ({ note }) => seen.push(note) > 0, message: 'x', blames: 'note' },
    );
    const form = intake(
      'form',
      { note: text('Note', length({ max: 2 })).orAbsent(), name: text('Name') },
      { rules: [note({ note: 'note', name: 'name' })] },
    );
    for (const submission of [{ name: 'a' }, { name: 'a', note: 'ok' }, { name: 'a', note: 'long' }, { name: 'a', note: null }])
      form.judgeLocally(submission);
    expect(seen).toEqual([undefined, 'ok', undefined]);
  });

  test('with the one role "field" stands in a field\'s own list', () => {
    const even = rule(
      'marina/even',
      { field: whole },
      {
        takes: { by: whole },
        holds: ({ field }, _found, { by }) => field % by === 0,
        message: '{field} is no multiple of {by}.',
        blames: 'field',
      },
    );
    const form = intake('form', { berths: whole('Berths', even({ by: 3 })) });
    expect(messagesOf(form.judgeLocally({ berths: 4 }))).toEqual(['Berths is no multiple of 3.']);
    expect(form.judgeLocally({ berths: 9 }).outcome).toBe('accepted');
  });

  test('about a list is given its values, and never a list of which an entry failed', () => {
    const seen: unknown[] = [];
    const once = rule('marina/once', { field: list }, { holds: ({ field }) => seen.push(field) > 0, message: 'x', blames: 'field' });
    const form = intake('form', { marks: list('Marks', group('Vessel', { mark: text('Mark'), power: flag('Power').orAbsent() }), once()) });
    form.judgeLocally({ marks: [{ mark: 'a' }, { mark: 'b', power: true, more: 1 }] });
    form.judgeLocally({ marks: [{ mark: 'a' }, { mark: '' }] });
    expect(seen).toEqual([[{ mark: 'a' }, { mark: 'b', power: true }]]);
  });

  test('bound twice alike counts once, bound otherwise twice', () => {
    const bound = () => stayOf({ from: 'arrives', to: 'departs' } as never, { least: 2, most: 3 });
    expect(rulesOf(looseIntake(stay, [bound(), bound()]).judgeLocally(tooShort))).toHaveLength(1);
    const other = stayOf({ from: 'arrives', to: 'departs' } as never, { least: 3, most: 3 });
    expect(rulesOf(looseIntake(stay, [bound(), other]).judgeLocally(tooShort))).toHaveLength(2);
  });
});

describe('entries of a list', () => {
  const crew = { on: day('On'), crew: list('Crew', group('Member', { name: text('Name', trim()), born: day('Born') })) };
  const people = [
    { name: 'Ida', born: '1990-01-01' },
    { name: 'Bo', born: '2032-01-01' },
    { name: 'Ida', born: '2033-01-01' },
  ];
  const adult = rule(
    'adult',
    { crew: entries({ born: day }), on: day },
    { holds: ({ crew, on }) => crew.some(({ born }) => born < on.replace('2031', '2013')), message: '{crew}', blames: 'crew' },
  );
  const distinct = rule(
    'distinct',
    { people: entries({ name: text }) },
    {
      failing: ({ people }) =>
        people.flatMap(({ name }, index) => (people.findIndex((other) => other.name === name) < index ? [index] : [])),
      message: '{people} twice',
      blames: 'people',
    },
  );

  test('a plain role blames each entry; what several entries say of one place is said once', () => {
    const form = intake('form', crew, { rules: [inOrder({ earlier: 'crew.*.born', later: 'on' }, { message: 'x' })] });
    expect(blamesOf(form.judgeLocally({ on: '2031-05-01', crew: people }))).toEqual(['in-order /on']);
    const born = rule('born', { born: day, on: day }, { holds: ({ born, on }) => born <= on, message: '{born}', blames: 'born' });
    const other = intake('form', crew, { rules: [born({ born: 'crew.*.born', on: 'on' })] });
    expect(blamesOf(other.judgeLocally({ on: '2031-05-01', crew: people }))).toEqual(['born /crew/1/born', 'born /crew/2/born']);
  });

  test('an entries role reads all; `failing` names entries', () => {
    const form = intake('form', crew, {
      rules: [adult({ crew: { born: 'crew.*.born' }, on: 'on' }), distinct({ people: { name: 'crew.*.name' } })],
    });
    expect(blamesOf(form.judgeLocally({ on: '2031-05-01', crew: people }))).toEqual(['distinct /crew/2/name']);
    expect(blamesOf(form.judgeLocally({ on: '2031-05-01', crew: people.slice(1) }))).toEqual(['adult /crew']);
  });

  test('findings come in the order of fields, then declaration, then entry', () => {
    const form = intake('form', crew, { rules: [distinct({ people: { name: 'crew.*.name' } })] });
    const odd = [{ name: '', born: 'x' }, { name: '', born: '2031-01-01' }, 5];
    expect(blamesOf(form.judgeLocally({ on: 7, crew: odd }))).toEqual([
      'readable /on',
      'readable /crew/2',
      'blank /crew/0/name',
      'blank /crew/1/name',
      'readable /crew/0/born',
    ]);
  });

  test('lists inside lists: pointers, scope, and entries of the inner list', () => {
    const fleet = {
      boats: list(
        'Boats',
        group('Boat', { berths: whole('Berths'), crew: list('Crew', group('Member', { name: text('Name'), bunk: whole('Bunk') })) }),
      ),
    };
    const bunk = rule(
      'bunk',
      { bunk: whole, berths: whole },
      { holds: ({ bunk, berths }) => bunk <= berths, message: '{bunk}', blames: 'bunk' },
    );
    const most = rule(
      'most',
      { crew: entries({ name: text }), berths: whole },
      { holds: ({ crew, berths }) => crew.length <= berths, message: '{crew}', blames: 'crew' },
    );
    const form = intake('fleet', fleet, {
      rules: [
        bunk({ bunk: 'boats.*.crew.*.bunk', berths: 'boats.*.berths' }),
        most({ crew: { name: 'boats.*.crew.*.name' }, berths: 'boats.*.berths' }),
        distinct({ people: { name: 'boats.*.crew.*.name' } }),
      ],
    });
    const member = (name: string, bunk: number) => ({ name, bunk });
    const verdict = form.judgeLocally({
      boats: [
        { berths: 1, crew: [member('a', 1)] },
        { berths: 1, crew: [member('b', 1), member('a', 2)] },
      ],
    });
    expect(blamesOf(verdict)).toEqual(['most /boats/1/crew', 'distinct /boats/1/crew/1/name', 'bunk /boats/1/crew/1/bunk']);
  });

  test('rules bound inside a group are bound to its fields, in every entry', () => {
    const form = intake('form', { stays: list('Stays', group('Stay', stay, inOrder({ earlier: 'arrives', later: 'departs' }))) });
    const day1: Day = '2031-05-01';
    expect(
      blamesOf(
        form.judgeLocally({
          stays: [
            { arrives: day1, departs: day1 },
            { arrives: day1, departs: '2031-05-02' },
          ],
        }),
      ),
    ).toEqual(['in-order /stays/0/departs']);
  });

  test('ten thousand entries are read; one more are refused unread, unless length allows them', () => {
    const many = (count: number) => ({ marks: new Array(count).fill('a') });
    expect(intake('form', { marks: list('Marks', text('Mark')) }).judgeLocally(many(10_000)).outcome).toBe('accepted');
    expect(rulesOf(intake('form', { marks: list('Marks', text('Mark')) }).judgeLocally(many(10_001)))).toEqual(['too-many']);
    expect(intake('form', { marks: list('Marks', text('Mark'), length({ max: 20_000 })) }).judgeLocally(many(10_001)).outcome).toBe(
      'accepted',
    );
  });
});

describe('faults of a rule leave the verdict undecided', () => {
  const odd: [string, () => unknown][] = [
    [
      'a throw',
      () => {
        throw new Error('secret driver text');
      },
    ],
    ['undefined', () => undefined],
    ['a Promise', () => Promise.resolve(true)],
    ['1', () => 1],
  ];
  test.each(odd)('%s', async (_what, holds) => {
    const bad = rule('bad', { a: text }, { holds: holds as () => boolean, message: 'x', blames: 'a' });
    const verdict = await intake('form', { a: text('A') }, { rules: [bad({ a: 'a' })] }).judge({ a: 'x' });
    expect(verdict).toMatchObject({ outcome: 'undecided', unsettled: [{ rule: 'bad', why: 'fault', places: [{ pointer: '/a' }] }] });
    expect(verdict.unsettled[0]?.cause).toBeInstanceOf(Error);
    expect(JSON.stringify(verdict)).not.toContain('secret');
    const mild = await intake('form', { a: text('A') }, { rules: [bad({ a: 'a' }, { severity: 'warning' })] }).judge({ a: 'x' });
    expect(mild).toMatchObject({ outcome: 'accepted', unsettled: [{ severity: 'warning' }] });
  });

  test('an index of no entry is a fault too', () => {
    const bad = rule('bad', { a: entries({ a: text }) }, { failing: () => [7], message: 'x', blames: 'a' });
    expect(intake('form', { a: list('A', text('I')) }, { rules: [bad({ a: { a: 'a.*' } })] }).judgeLocally({ a: ['x'] })).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ why: 'fault' }],
    });
  });
});

describe('reports', () => {
  const form = intake(
    'form',
    { a: text('A', length({ max: 1 }), length({ max: 2 }, { as: 'two' })), b: choice('B', ['x']), c: day('C'), d: day('D') },
    { rules: [inOrder({ earlier: 'c', later: 'd' }, { as: 'one' }), inOrder({ earlier: 'c', later: 'd' }, { as: 'again' })] },
  );
  const bad = { a: 'abc', b: 'y', c: '2031-05-02', d: '2031-05-01' };
  test.each([
    ['everything', ['length@a', 'two', 'readable@b', 'one', 'again']],
    ['firstOfEach', ['length@a', 'readable@b', 'one']],
    ['firstOfAll', ['length@a']],
  ] as const)('%s', (report, uses) => {
    const verdict = form.judgeLocally(bad, { report });
    expect(verdict.outcome === 'rejected' && verdict.findings.map(({ use }) => use)).toEqual(uses);
  });

  test('a hundred findings at most, errors first', () => {
    const marks = list('Marks', text('Mark', length({ max: 1 }, { severity: 'warning' })), length({ max: 2 }));
    const verdict = intake('form', { marks }).judgeLocally({ marks: new Array(300).fill('long') });
    expect(verdict).toMatchObject({ outcome: 'rejected', more: true });
    const findings = verdict.outcome === 'rejected' ? verdict.findings : [];
    expect([findings.length, findings[0]?.severity, findings[1]?.severity]).toEqual([100, 'error', 'warning']);
  });
});

describe('sums, counts and lists of fields', () => {
  const order = {
    price: exact('Price'),
    amount: whole('Amount'),
    limit: exact('Limit'),
    lines: list('Lines', group('Line', { price: decimal('Price'), count: whole('Count') })).orEmpty(),
  };
  const good = { price: '0.10', amount: 3, limit: '0.30' };

  test('a total of fields is counted exactly, and blames its factors', () => {
    const form = intake('order', order, { rules: [totalAtMost([['price', 'amount']], 'limit')] });
    expect(form.judgeLocally(good).outcome).toBe('accepted');
    expect(form.judgeLocally({ ...good, amount: 4 })).toMatchObject({
      findings: [{ facts: { total: '0.4', limit: '0.3' }, message: 'Price and Amount come to 0.4, and may come to 0.3 at most.' }],
    });
    expect(blamesOf(form.judgeLocally({ ...good, amount: 4 }))).toEqual(['total-at-most /price /amount']);
  });

  test('a total runs over entries, and over several products', () => {
    const form = intake('order', order, {
      rules: [
        totalAtMost(
          [
            ['lines.*.price', 'lines.*.count'],
            ['price', 'amount'],
          ],
          10,
        ),
      ],
    });
    const lines = (count: number) => [
      { price: 0.1, count },
      { price: 4.2, count: 2 },
    ];
    expect(form.judgeLocally({ ...good, lines: lines(13) }).outcome).toBe('accepted');
    expect(blamesOf(form.judgeLocally({ ...good, lines: lines(14) }))).toEqual(['total-at-most /lines /price /amount']);
    expect(form.judgeLocally(good).outcome).toBe('accepted');
  });

  test('a total within each entry blames the entry', () => {
    const line = group('Line', { price: decimal('Price'), count: whole('Count') }, totalAtMost([['price', 'count']], 5));
    const form = intake('order', { lines: list('Lines', line) });
    expect(
      blamesOf(
        form.judgeLocally({
          lines: [
            { price: 2, count: 2 },
            { price: 2, count: 3 },
          ],
        }),
      ),
    ).toEqual(['total-at-most /lines/1/price /lines/1/count']);
  });

  const optional = { a: text('A').orAbsent(), b: text('B').orAbsent(), c: text('C').orAbsent() };
  test.each([
    [{}, [], ['exactly-one-of'], ['at-least-one-of']],
    [{ a: '1' }, ['together'], [], []],
    [{ a: '1', b: '1' }, ['together'], ['exactly-one-of'], []],
    [{ a: '1', b: '1', c: '1' }, [], ['exactly-one-of'], []],
  ])('%j: together, exactly one, at least one', (submission, ...expected) => {
    const rules = [
      together<typeof optional>('a', 'b', 'c'),
      exactlyOneOf<typeof optional>('a', 'b', 'c'),
      atLeastOneOf<typeof optional>('a', 'b', 'c'),
    ];
    expect(rules.map((bound) => rulesOf(intake('form', optional, { rules: [bound] }).judgeLocally(submission)))).toEqual(expected);
  });

  test.each([
    [{ least: 1 }, '2031-05-01', 'Departure must be at least 1 day after Arrival.'],
    [{ most: 2 }, '2031-05-04', 'Departure must be at most 2 days after Arrival.'],
    [{ least: 7, most: 7 }, '2031-05-04', 'Departure must be 7 days after Arrival.'],
  ])('days apart: %j', (limits, departs, message) => {
    const form = intake('form', stay, { rules: [daysApart({ from: 'arrives', to: 'departs' }, limits)] });
    expect(messagesOf(form.judgeLocally({ arrives: '2031-05-01', departs }))).toEqual([message]);
  });

  test('in order, or equal; exact decimals by their value', () => {
    const form = intake(
      'form',
      { ...stay, low: exact('Low'), high: exact('High') },
      { rules: [inOrder({ earlier: 'arrives', later: 'departs' }, { orEqual: true }), inOrder({ earlier: 'low', later: 'high' })] },
    );
    expect(form.judgeLocally({ arrives: '2031-05-01', departs: '2031-05-01', low: '9', high: '10' }).outcome).toBe('accepted');
    expect(messagesOf(form.judgeLocally({ arrives: '2031-05-02', departs: '2031-05-01', low: '10', high: '9.5' }))).toEqual([
      'Departure must not be before Arrival.',
      'High must be more than Low.',
    ]);
  });

  test('a value among those of a list, of one kind only', () => {
    const fields = { skipper: text('Skipper'), born: day('Born'), crew: list('Crew', group('Member', { name: text('Name') })) };
    const form = intake('form', fields, { rules: [among({ value: 'skipper', those: 'crew.*.name' })] });
    expect(form.judgeLocally({ skipper: 'Ida', born: '2000-01-01', crew: [{ name: 'Ida' }] }).outcome).toBe('accepted');
    expect(blamesOf(form.judgeLocally({ skipper: 'Ida', born: '2000-01-01', crew: [{ name: 'Bo' }] }))).toEqual(['among /skipper']);
    expect(() => looseIntake(fields, [among({ value: 'born', those: 'crew.*.name' } as never)])).toThrow(
      'among compares "born", which is day, with "crew.*.name", which is text.',
    );
  });
});

describe('what reads what', () => {
  const big = condition('big', { size: whole }, { holds: ({ size }) => size > 3 });
  const form = intake(
    'form',
    {
      name: text('Name', length({ max: 3 })),
      crew: list('Crew', group('Member', { name: text('Name') })),
      size: whole('Size'),
      plug: text('Plug').orAbsent(),
    },
    {
      rules: [same({ first: 'name', second: 'crew.*.name' }, { as: 'all-alike' }), needed('plug', { when: not(big({ size: 'size' })) })],
    },
  );

  test('the rules that read a field, in its list, and in conditions', () => {
    const uses = (path: 'name' | 'crew' | 'size' | 'plug') => readersOf(form, path).map(({ use }) => use);
    expect([uses('name'), uses('crew'), uses('size'), uses('plug')]).toEqual([
      ['length@name', 'all-alike'],
      ['all-alike'],
      ['needed@plug'],
      ['needed@plug'],
    ]);
    expect(() => readersOf(form, 'nam' as never)).toThrow('"nam" is no field; did you mean "name"?');
  });

  test('is drawn as a flowchart', () => {
    expect(asMermaid(graphOf(form))).toBe(
      [
        'flowchart LR',
        '  n0["name"]',
        '  n1["crew.*.name"]',
        '  n2["size"]',
        '  n3["plug"]',
        '  n4{{"not: big"}}',
        '  n5(["all-alike"])',
        '  n6(["needed@plug"])',
        '  n2 --> n4',
        '  n0 --> n5',
        '  n1 --> n5',
        '  n3 --> n6',
        '  n4 -.-> n6',
        '',
      ].join('\n'),
    );
  });
});
