import fc from 'fast-check';
import {
  asStored,
  atLeastOneOf,
  atMost,
  collection,
  day,
  decimal,
  different,
  entries,
  equals,
  flag,
  group,
  inOrder,
  intake,
  isTrue,
  length,
  list,
  maybe,
  mergePatch,
  needed,
  noOverlap,
  notBefore,
  occasionIs,
  oneOfShapes,
  receivedFile,
  rule,
  same,
  shape,
  table,
  text,
  today,
  together,
  unique,
  upload,
  uploadSize,
  whole,
} from 'jestril';
import { formObject } from 'jestril/form';
import { memoryRecords } from 'jestril/memory';
import { blamesOf, watched } from '../support/judging.ts';

describe('a JSON Merge Patch', () => {
  // The examples of RFC 7396, appendix A.
  test.each([
    ['{"a":"b"}', '{"a":"c"}', '{"a":"c"}'],
    ['{"a":"b"}', '{"b":"c"}', '{"a":"b","b":"c"}'],
    ['{"a":"b"}', '{"a":null}', '{}'],
    ['{"a":"b","b":"c"}', '{"a":null}', '{"b":"c"}'],
    ['{"a":["b"]}', '{"a":"c"}', '{"a":"c"}'],
    ['{"a":"c"}', '{"a":["b"]}', '{"a":["b"]}'],
    ['{"a":{"b":"c"}}', '{"a":{"b":"d","c":null}}', '{"a":{"b":"d"}}'],
    ['{"a":[{"b":"c"}]}', '{"a":[1]}', '{"a":[1]}'],
    ['["a","b"]', '["c","d"]', '["c","d"]'],
    ['{"a":"b"}', '["c"]', '["c"]'],
    ['{"a":"foo"}', 'null', 'null'],
    ['{"a":"foo"}', '"bar"', '"bar"'],
    ['{"e":null}', '{"a":1}', '{"e":null,"a":1}'],
    ['[1,2]', '{"a":"b","c":null}', '{"a":"b"}'],
    ['{}', '{"a":{"bb":{"ccc":null}}}', '{"a":{"bb":{}}}'],
    ['{}', '{"__proto__":{"x":1}}', '{"__proto__":{"x":1}}'],
  ])('%s with %s', (target, patch, result) => {
    expect(JSON.stringify(mergePatch(JSON.parse(target), JSON.parse(patch)))).toBe(result);
  });
});

const owners = collection('owners', { id: whole, email: text }, { key: 'id' });
const records = memoryRecords({
  owners: [
    { id: 1, email: 'ida@fjordmail.example' },
    { id: 2, email: 'bo@fjordmail.example' },
  ],
});
const owner = intake(
  'owner',
  {
    email: text('E-mail'),
    arrives: day('Arrival', notBefore(today)),
    departs: day('Departure'),
    nick: text('Nick').orElse('none'),
    note: text('Note', length({ max: 5 })).orAbsent(),
    passphrase: text('Passphrase', length({ min: 4 })).secret(),
    again: text('Again').secret().leftOut(),
    terms: flag('Terms', isTrue()).leftOut(),
    contact: group('Contact', { phone: text('Phone').orAbsent(), city: text('City', length({ max: 5 })) }, atLeastOneOf('phone', 'city')),
    crew: list('Crew', group('Member', { name: text('Name', length({ max: 5 })), born: day('Born') }), length({ max: 3 })).orEmpty(),
  },
  {
    storedIn: owners,
    zone: 'Europe/Oslo',
    rules: [
      unique(owners, { email: 'email' }),
      inOrder({ earlier: 'arrives', later: 'departs' }),
      same({ first: 'passphrase', second: 'again' }),
    ],
  },
);
const stored = {
  email: 'ida@fjordmail.example',
  arrives: '2030-01-01',
  departs: '2031-05-10',
  note: null,
  contact: { city: 'far too long', phone: null },
  crew: [
    { name: 'Ida Sund', born: '1988-02-29' },
    { name: 'Bo', born: '2014-06-01' },
  ],
};
const options = { records, itself: { id: 1 }, now: new Date('2031-05-01T10:00:00Z') };
const amend = (change: unknown, more: object = {}) => owner.amend(stored as never, change, { ...options, ...more } as never);

describe('amending', () => {
  test('judges what changes, by the rules that read it, and tells what it was', async () => {
    const store = watched(records);
    const verdict = await amend({ departs: '2031-05-12', contact: { phone: '12345' } }, { records: store.records });
    expect(verdict).toMatchObject({ outcome: 'accepted', changed: ['departs', 'contact.phone'] });
    // What was not mentioned stays, although it would not pass today; no default fills it; nobody asks about the e-mail.
    const { note: _note, ...there } = stored;
    expect(verdict).toHaveProperty('value', { ...there, departs: '2031-05-12', contact: { phone: '12345', city: 'far too long' } });
    expect(store.rounds).toEqual([]);
  });

  const cases: [what: string, change: object, outcome: { blames?: string[]; changed?: string[] }][] = [
    ['nothing', {}, { changed: [] }],
    ['the same again', { arrives: '2030-01-01', email: 'ida@fjordmail.example', crew: stored.crew }, { changed: [] }],
    ['a value that its own rule refuses', { arrives: '2030-02-02' }, { blames: ['not-before /arrives'] }],
    ['a field that another one must follow', { departs: '2029-01-01' }, { blames: ['in-order /departs'] }],
    ['null for what is needed', { email: null }, { blames: ['needed /email'] }],
    ['null for what may be absent, and was', { note: null }, { changed: [] }],
    ['null for what has a default', { nick: null }, { changed: ['nick'] }],
    ['its own unique value in other words', { email: 'eva@fjordmail.example' }, { changed: ['email'] }],
    ["another record's unique value", { email: 'bo@fjordmail.example' }, { blames: ['unique /email'] }],
    ['a passphrase without its repetition', { passphrase: 'gulls' }, { blames: ['needed /again'] }],
    ['a passphrase with another repetition', { passphrase: 'gulls', again: 'gull' }, { blames: ['same /again'] }],
    ['a passphrase with its repetition', { passphrase: 'gulls', again: 'gulls' }, { changed: ['passphrase'] }],
    ['terms that nobody has to accept again', { terms: false }, { blames: ['is-true /terms'] }],
    ['a group that is taken away', { contact: null }, { blames: ['needed /contact'] }],
    ['an inner field that is taken away', { contact: { city: null } }, { blames: ['needed /contact/city'] }],
    [
      'a list with a new entry beside old ones',
      { crew: [stored.crew[1], { name: 'Eva', born: '2001-01-01' }, stored.crew[0]] },
      { changed: ['crew'] },
    ],
    ['an entry that is changed', { crew: [{ name: 'Ida Sunde', born: '1988-02-29' }] }, { blames: ['length /crew/0/name'] }],
    // The second of two that are the same is new.
    ['too many entries', { crew: [...stored.crew, ...stored.crew] }, { blames: ['length /crew', 'length /crew/2/name'] }],
    ['something that is no object', [], { blames: ['readable '] }],
  ];
  test.each(cases)('%s', async (_what, change, outcome) => {
    const verdict = await amend(change);
    expect(verdict.outcome === 'accepted' ? { changed: verdict.changed } : { blames: blamesOf(verdict) }).toEqual(outcome);
  });

  test('a whole form sent again: what it lacks is taken away, but for secrets and repetitions', async () => {
    const form = {
      email: 'ida@fjordmail.example',
      arrives: ' 2030-01-01 ',
      departs: '2031-05-11',
      nick: '',
      passphrase: '',
      again: '',
      contact: { city: 'far too long', phone: '' },
      crew: [{ name: 'Ida Sund', born: '1988-02-29' }],
    };
    const verdict = await owner.amend({ ...stored, note: 'hi', passphrase: 'kept' } as never, form, {
      ...options,
      whole: true,
      as: 'form',
    });
    expect(verdict).toMatchObject({ outcome: 'accepted', changed: ['departs', 'nick', 'note', 'crew'] });
    expect(verdict).toMatchObject({ value: { nick: 'none', passphrase: 'kept', crew: [{ name: 'Ida Sund' }] } });
    expect(verdict).not.toHaveProperty('value.note');
    expect(blamesOf(await owner.amend(stored as never, { ...form, departs: '' }, { ...options, whole: true, as: 'form' }))).toEqual([
      'needed /departs',
    ]);
  });

  test('a rule that reads what was not loaded is not decided; nor is a stored value that its kind cannot read', async () => {
    const { departs: _departs, ...partly } = stored;
    expect(await owner.amend(partly as never, { arrives: '2031-05-09' }, options)).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ rule: 'in-order', why: 'stored-unsound' }],
    });
    expect(await owner.amend(partly as never, { nick: 'Idun' }, options)).toMatchObject({ outcome: 'accepted' });
    const unread = { ...stored, departs: 'soon' } as never;
    expect(await owner.amend(unread, { nick: 'Idun' }, options)).toMatchObject({ outcome: 'accepted' });
    expect(await owner.amend(unread, { arrives: '2031-05-09' }, options)).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ rule: 'in-order', why: 'stored-unsound' }],
    });
    expect(await owner.amend(unread, { departs: '2031-06-01' }, options)).toMatchObject({ outcome: 'accepted' });
  });

  test('a rule about the caller always has to hold; a condition on the caller does not bring up what nobody touches', async () => {
    const own = rule('test/own', { caller: whole }, { holds: ({ caller }) => caller === 1, message: 'not yours', blames: 'caller' });
    const short = rule('test/short', { note: text }, { holds: ({ note }) => note.length < 5, message: 'too long', blames: 'note' });
    const form = intake(
      'form',
      { note: text('Note'), name: text('Name'), version: whole('Version').leftOut(), caller: group('Caller', { id: whole('Id') }).given() },
      {
        rules: [
          own({ caller: 'caller.id' }),
          short({ note: 'note' }, { when: equals({ 'caller.id': 1 }) }),
          different({ first: 'version', second: 'caller.id' }),
        ],
      },
    );
    const change = async (patch: object, id: number) =>
      blamesOf(await form.amend({ note: 'far too long', name: 'x' }, patch, { given: { caller: { id } } }));
    expect(await change({ name: 'y', version: 3 }, 1)).toEqual([]);
    expect(await change({ name: 'y', version: 3 }, 2)).toEqual(['test/own /caller/id']);
    expect(await change({ note: 'longer', version: 3 }, 1)).toEqual(['test/short /note']);
    // Whatever is compared with what the application supplies has to be sent.
    expect(await change({ name: 'y' }, 1)).toEqual(['needed /version']);
  });

  test('rows as drivers give them: days as dates, numbers as text, flags as numbers', async () => {
    const stay = intake('stay', { from: day('From'), price: decimal('Price'), paid: flag('Paid'), note: text('Note').orAbsent() });
    const row = { from: new Date(2031, 4, 1), price: '12.50', paid: 1, note: null };
    expect(await stay.amend(row as never, { from: '2031-05-01', price: 12.5, note: 'x' })).toMatchObject({
      outcome: 'accepted',
      value: { from: '2031-05-01', price: 12.5, paid: true, note: 'x' },
      changed: ['note'],
    });
  });

  test('tables are merged by name, shapes while they stay the same; a condition that changes lets its rule run', async () => {
    const order = intake(
      'order',
      {
        rates: table('Rates', group('Rate', { price: decimal('Price'), per: text('Per', length({ max: 5 })) })),
        pay: oneOfShapes('Payment', 'by', {
          card: shape({ number: text('Number', length({ max: 5 })), holder: text('Holder') }),
          bill: shape({ to: text('To') }),
        }),
        power: text('Power').orAbsent(),
        electric: flag('Electric'),
      },
      { rules: [needed('power', { when: equals({ electric: true }) })] },
    );
    const before = {
      rates: { day: { price: 1, per: 'far too long' }, week: { price: 5, per: 'week' } },
      pay: { by: 'card', number: 'far too long', holder: 'Ida' },
      electric: false,
      power: null,
    } as const;
    const { power: _power, ...there } = before;
    const change = async (patch: object) => {
      const verdict = await order.amend(before as never, patch);
      return verdict.outcome === 'accepted' ? [verdict.changed, verdict.value] : blamesOf(verdict);
    };
    expect(await change({ rates: { day: { price: 2 }, week: null } })).toEqual([
      ['rates'],
      { ...there, rates: { day: { price: 2, per: 'far too long' } } },
    ]);
    expect(await change({ rates: { month: { price: 9 } } })).toEqual(['needed /rates/month/per']);
    expect(await change({ rates: { day: { price: 'x' }, week: { per: 'a decade' } } })).toEqual([
      'readable /rates/day/price',
      'length /rates/week/per',
    ]);
    expect(await change({ pay: { holder: 'Bo' } })).toEqual([['pay'], { ...there, pay: { ...before.pay, holder: 'Bo' } }]);
    expect(await change({ pay: { by: 'bill', to: 'Bo' } })).toEqual([['pay'], { ...there, pay: { by: 'bill', to: 'Bo' } }]);
    expect(await change({ electric: true })).toEqual(['needed /power']);
  });

  test('a rule may read the value before the change; it is absent when something new is judged', async () => {
    const later = rule(
      'test/later',
      { before: maybe(day), now: day },
      { holds: ({ before, now }) => before === undefined || now >= before, message: '{now} {before}', blames: 'now' },
    );
    const moved = rule(
      'test/moved',
      { before: day, now: day },
      { holds: ({ before, now }) => before === now, message: 'x', blames: 'now' },
    );
    const stay = intake(
      'stay',
      { arrives: day('Arrival'), crew: list('Crew', group('Member', { born: day('Born') })).orEmpty() },
      {
        rules: [later({ before: asStored('arrives'), now: 'arrives' }), moved({ before: asStored('crew.*.born'), now: 'crew.*.born' })],
      },
    );
    expect(blamesOf(await stay.judge({ arrives: '2031-05-01', crew: [{ born: '2000-01-01' }] }))).toEqual([]);
    const before = { arrives: '2031-05-02', crew: [{ born: '2000-01-01' }] };
    expect(blamesOf(await stay.amend(before as never, { arrives: '2031-05-01' }))).toEqual(['test/later /arrives']);
    expect(blamesOf(await stay.amend(before as never, { arrives: '2031-05-03' }))).toEqual([]);
    // An entry that is new has nothing stored.
    expect(blamesOf(await stay.amend(before as never, { crew: [{ born: '2001-01-01' }, { born: '2002-01-01' }] }))).toEqual([
      'test/moved /crew/0/born',
    ]);
    expect(await stay.amend({ crew: [] } as never, { arrives: '2031-05-03' })).toMatchObject({ outcome: 'undecided' });
  });

  test('shapes in lists in tables: what stays is excused, what is new is judged', async () => {
    const form = intake('form', {
      t: table(
        'T',
        list(
          'L',
          oneOfShapes('S', 'is', {
            a: shape({ n: text('N', length({ max: 2 })), all: list('All', text('X', length({ max: 2 }))).orEmpty() }),
          }),
        ),
      ),
    });
    const bad = { is: 'a', n: 'far too long', all: ['far too long', 'x'] };
    const change = async (t: object) => blamesOf(await form.amend({ t: { k: [bad], l: [bad] } } as never, { t }));
    expect(await change({ m: [bad] })).toEqual(['length /t/m/0/n', 'length /t/m/0/all/0']);
    expect(await change({ k: [{ is: 'a', n: 'x' }, bad] })).toEqual([]);
    expect(await change({ k: [{ ...bad, all: ['x', 'far too long', 'even longer'] }] })).toEqual(['length /t/k/0/all/2']);
    expect(await change({ k: [bad, bad], l: null })).toEqual(['length /t/k/1/n', 'length /t/k/1/all/0']);
  });

  test('entries of a table are paired by name wherever it stands, those of a list by what they are', async () => {
    const mayNotRise = rule(
      'test/may-not-rise',
      { was: whole, is: whole },
      { holds: ({ was, is }) => is <= was, message: 'x', blames: 'is' },
    );
    const prices = table('Prices', whole('Price', atMost(600)));
    const form = intake(
      'form',
      {
        houses: list('Houses', group('House', { name: text('Name'), prices })).orEmpty(),
        byTown: table('Towns', list('Houses', oneOfShapes('House', 'is', { a: shape({ prices }), b: shape({}) }))).orEmpty(),
      },
      {
        rules: [
          mayNotRise({ was: asStored('houses.*.prices.*'), is: 'houses.*.prices.*' }),
          mayNotRise({ was: asStored('byTown.*.*.a.prices.*'), is: 'byTown.*.*.a.prices.*' }),
        ],
      },
    );
    const change = async (was: object, is: object) => [
      blamesOf(await form.amend({ houses: [{ name: 'A', prices: was }], byTown: {} } as never, { houses: [{ name: 'A', prices: is }] })),
      blamesOf(
        await form.amend({ houses: [], byTown: { t: [{ is: 'b' }, { is: 'a', prices: was }] } } as never, {
          byTown: { t: [{ is: 'b' }, { is: 'a', prices: is }] },
        }),
      ),
    ];
    const blames = (name: string, what = 'test/may-not-rise') => [
      [`${what} /houses/0/prices/${name}`],
      [`${what} /byTown/t/1/prices/${name}`],
    ];
    expect(await change({ x: 50, old: 500 }, { x: 500, old: 50 })).toEqual(blames('x'));
    expect(await change({ x: 50, old: 500 }, { old: 500, x: 50 })).toEqual([[], []]);
    expect(await change({ x: 50, old: 500 }, { fresh: 500, x: 49 })).toEqual([[], []]);
    // What stood under another name is new under this one.
    expect(await change({ old: 700 }, { fresh: 700, old: 700 })).toEqual(blames('fresh', 'at-most'));
  });

  test('a shape that comes to be changes nothing for a rule that reads another shape', async () => {
    const form = intake(
      'form',
      {
        s: oneOfShapes('S', 'is', { x: shape({ a: text('A') }), y: shape({ b: text('B').orAbsent() }) }).orAbsent(),
        d: text('D').orAbsent(),
      },
      { rules: [together('s.y.b', 'd')] },
    );
    const change = async (stored: object, patch: object) => blamesOf(await form.amend(stored as never, patch));
    expect(await change({ s: null, d: 'there' }, { s: { is: 'x', a: 'A' } })).toEqual([]);
    expect(await change({ s: { is: 'x', a: 'A' }, d: 'there' }, { s: null })).toEqual([]);
    expect(await change({ s: null, d: null }, { s: { is: 'y', b: 'B' } })).toEqual(['together /s/b /d']);
  });

  test('what names the occasion is never excused', async () => {
    const form = intake(
      'form',
      { name: text('Name'), version: whole('Version').orAbsent().leftOut(), note: text('Note', length({ max: 3 }, { on: 'amend' })) },
      { rules: [needed('version', { on: 'amend' }), needed('version', { when: occasionIs('amend'), as: 'again' })] },
    );
    expect(blamesOf(await form.amend({ name: 'x', note: 'far too long' }, { name: 'y' }))).toEqual(['needed /version', 'length /note']);
    expect(blamesOf(await form.judge({ name: 'x', note: 'far too long' }))).toEqual([]);
  });

  test('an unchanged entry or field keeps what it has: what comes in its way is blamed', async () => {
    const slots = collection('slots', { id: whole, mark: text, from: day, to: day }, { key: 'id' });
    const form = intake(
      'form',
      {
        main: text('Main'),
        spare: text('Spare').orAbsent(),
        stays: list('Stays', group('Stay', { mark: text('Mark'), from: day('From'), to: day('To') })).orEmpty(),
      },
      {
        storedIn: slots,
        rules: [
          unique(slots, { mark: 'main' }),
          unique(slots, { mark: 'spare' }),
          unique(slots, { mark: 'stays.*.mark' }),
          noOverlap(slots, { from: 'stays.*.from', to: 'stays.*.to' }, { interval: ['from', 'to'] }),
        ],
      },
    );
    const first = { mark: 'a', from: '2031-05-01', to: '2031-05-09' };
    const before = { main: 'm', spare: null, stays: [first] };
    const store = watched(memoryRecords({ slots: [] }));
    const change = async (patch: object) =>
      blamesOf(await form.amend(before as never, patch, { records: store.records, itself: { id: 1 } }));
    expect(await change({ spare: 'm' })).toEqual(['unique /spare']);
    // Before the one that was there, and after it.
    const other = { mark: 'a', from: '2031-06-01', to: '2031-06-02' };
    expect(await change({ stays: [other, first] })).toEqual(['unique /stays/0/mark']);
    expect(await change({ stays: [first, other] })).toEqual(['unique /stays/1/mark']);
    expect(await change({ stays: [{ mark: 'b', from: '2031-05-08', to: '2031-05-10' }, first] })).toEqual([
      'no-overlap /stays/0/from /stays/0/to',
    ]);
    store.rounds.length = 0;
    expect(await change({})).toEqual([]);
    expect(store.rounds).toEqual([]);
  });

  test('what was not loaded is never taken for absent, wherever it stands; a record that is complete lacks nothing', async () => {
    const form = intake(
      'form',
      {
        name: text('Name'),
        power: text('Power').orAbsent(),
        crew: list('Crew', group('Member', { age: whole('Age') })).orEmpty(),
        rates: table('Rates', whole('Rate')).orEmpty(),
        pay: oneOfShapes('Pay', 'by', { card: shape({ holder: text('Holder').orAbsent() }), bill: shape({}) }).orAbsent(),
        contact: group('Contact', { phone: text('Phone').orAbsent(), city: text('City').orAbsent() }),
      },
      {
        rules: [
          needed('power', { when: equals({ name: 'electric' }) }),
          rule(
            'test/old',
            { name: text, crew: entries({ age: whole }) },
            { holds: () => true, message: 'x', blames: 'name' },
          )({
            name: 'name',
            crew: { age: 'crew.*.age' },
          } as never),
          atLeastOneOf('contact.phone', 'contact.city'),
        ],
      },
    );
    const open = async (stored: object, patch: object, options: object = {}) => {
      const verdict = await form.amend(stored as never, patch, options as never);
      return [verdict.outcome, verdict.unsettled.map(({ use }) => use)];
    };
    expect(await open({ name: 'x', crew: [] }, { name: 'electric' })).toEqual(['undecided', ['needed@power']]);
    expect(await open({ name: 'x', power: '16A' }, { name: 'y' })).toEqual(['undecided', ['test/old@name']]);
    expect(await open({ contact: { phone: '1' } }, { contact: { phone: null } })).toEqual(['undecided', ['at-least-one-of@contact.phone']]);
    expect(await open({}, { contact: { city: 'x' } })).toEqual(['undecided', ['at-least-one-of@contact.phone']]);
    expect(await open({}, { rates: { a: 1 } })).toEqual(['undecided', ['readable@rates']]);
    expect(await open({}, { pay: { holder: 'x' } })).toEqual(['undecided', ['readable@pay']]);
    expect(await open({ name: 'x', crew: [], power: '16A' }, { name: 'electric' })).toEqual(['accepted', []]);
    expect(await open({ name: 'x', contact: {} }, { name: 'y', rates: { a: 1 } }, { complete: true })).toEqual(['accepted', []]);
  });

  test('changes of the wrong shape are findings, strangers are counted once, and in every shape', async () => {
    const form = intake(
      'form',
      {
        l: list('L', whole('N')).orEmpty(),
        t: table('T', whole('N')).orEmpty(),
        s: oneOfShapes('S', 'is', {
          a: shape({ n: whole('N').orAbsent() }),
          b: shape({ n: whole('N').orAbsent(), m: text('M').orAbsent() }),
        }).orAbsent(),
        g: group('G', { n: whole('N').orAbsent() }).orAbsent(),
      },
      { strangers: 'refuse' },
    );
    const before = { l: [1], t: { a: 1 }, s: { is: 'a', n: 5 }, g: { n: 1 } };
    const change = async (patch: object, more: object = {}) => {
      const verdict = await form.amend(before as never, patch, more);
      return verdict.outcome === 'accepted' ? verdict.value : blamesOf(verdict);
    };
    expect(await change({ l: 5, t: 5, s: 5, g: 5 })).toEqual(['readable /l', 'readable /t', 'readable /s', 'readable /g']);
    expect(await change({ l: ['x'], t: ['x'], s: ['x'], g: ['x'] })).toEqual([
      'readable /l/0',
      'readable /t',
      'readable /s',
      'readable /g',
    ]);
    expect(await change({ t: { 'a\0': 1 } })).toEqual(['readable /t']);
    expect(await change({ t: Object.fromEntries(Array.from({ length: 10_001 }, (_, index) => [`k${index}`, 1])) })).toEqual([
      'too-many /t',
    ]);
    expect(await change({ x: 1, g: { y: 1 }, s: { z: 1 } })).toEqual(['stranger /x', 'stranger /s/z', 'stranger /g/y']);
    // The members that both shapes have stay (RFC 7396); a whole form has to name its shape.
    expect(await change({ s: { is: 'b', m: 'x' } })).toMatchObject({ s: { is: 'b', n: 5, m: 'x' } });
    expect(await change({ s: { m: 'x' } }, { whole: true })).toEqual(['tag /s/is']);
  });

  test('a whole form keeps what it cannot show again: secrets, and files; a file of the same name and size is another', async () => {
    const form = intake('form', {
      name: text('Name').orNull(),
      pin: text('Pin').secret(),
      box: group('Box', { pin: text('Pin').secret(), paper: upload('Paper').orAbsent() }),
      paper: upload('Paper', uploadSize({ max: 10 })).orAbsent(),
    });
    const paper = { name: 'a.pdf', mediaType: 'application/pdf', size: 3, content: 'old' };
    const before = { name: null, pin: 'p', box: { pin: 'q', paper }, paper };
    const sent = { name: 'x', pin: '', 'box.pin': '' };
    const kept = await form.amend(before as never, formObject(Object.entries(sent)), { whole: true, as: 'form' });
    expect(kept).toMatchObject({ outcome: 'accepted', changed: ['name'], value: { ...before, name: 'x' } });
    const other = receivedFile({ ...paper, content: 'new' });
    expect(await form.amend(before as never, { paper: other })).toMatchObject({ changed: ['paper'], value: { paper: { content: 'new' } } });
    expect(await form.amend(before as never, { paper: null })).toMatchObject({ changed: ['paper'] });
    expect(blamesOf(await form.amend(before as never, {}, { whole: true }))).toEqual(['needed /name', 'needed /box']);
  });

  test('is judged and stored, and what the store refuses meanwhile is a verdict', async () => {
    const change = { email: 'eva@fjordmail.example' };
    const done = await owner.amendAndStore(stored as never, change, options as never, (value, changed) => [value.email, changed]);
    expect(done).toMatchObject({ outcome: 'accepted', changed: ['email'], stored: ['eva@fjordmail.example', ['email']] });
    const conflictOf = () => ({ sort: 'unique' as const, collections: ['owners'], columns: ['email'] });
    const lost = await owner.amendAndStore(stored as never, change, { ...options, records: { ...records, conflictOf } } as never, () => {
      throw new Error('duplicate key');
    });
    expect(blamesOf(lost)).toEqual(['unique /email']);
    expect(blamesOf(await owner.amendAndStore(stored as never, { email: null }, options as never, () => 'never'))).toEqual([
      'needed /email',
    ]);
  });

  test('a list of thousands is compared entry by entry, and not each with each', async () => {
    const marks = (first: number) => Array.from({ length: 9000 }, (_, index) => `far too long ${first + index}`);
    const fleet = intake('fleet', { marks: list('Marks', text('Mark', length({ max: 5 }))) });
    expect(await fleet.amend({ marks: marks(0) }, { marks: [...marks(0)].reverse() })).toMatchObject({
      outcome: 'accepted',
      changed: ['marks'],
    });
    expect(blamesOf(await fleet.amend({ marks: marks(0) }, { marks: marks(1) }))).toEqual(['length /marks/8999']);
  });

  test('the value accepted is what RFC 7396 makes of it', async () => {
    const leaf = () => text('x').orAbsent();
    const nested = intake('nested', {
      a: leaf(),
      b: leaf(),
      c: group('c', { d: leaf(), e: group('e', { f: leaf() }).orAbsent() }).orAbsent(),
    });
    const words = fc.constantFrom('x', 'y');
    const object = (value: fc.Arbitrary<unknown>) => {
      const e = fc.record({ f: value }, { requiredKeys: [] });
      const c = fc.record({ d: value, e }, { requiredKeys: [] });
      return fc.record({ a: value, b: value, c }, { requiredKeys: [] });
    };
    await fc.assert(
      fc.asyncProperty(object(words), object(fc.oneof(words, fc.constant(null))), async (target, patch) => {
        const verdict = await nested.amend(target as never, patch, { complete: true });
        expect(verdict).toMatchObject({ outcome: 'accepted' });
        expect((verdict as { value: object }).value).toEqual(mergePatch(target, patch));
      }),
    );
  });
});

test('an entry of a table inside a list is the one of the same name', async () => {
  const untrue = rule(
    'test/untrue',
    { field: flag },
    { holds: ({ field }) => !field, message: '{field} must not be true.', blames: 'field' },
  );
  const made = intake('boxes', { rows: list('Rows', table('Boxes', flag('Box', untrue()))) });
  const stored = { rows: [{ q: false, z: true }] };
  const findings = async (rows: object[]) => {
    const verdict = await made.amend(stored, { rows } as never, {} as never);
    return verdict.outcome === 'rejected' ? verdict.findings.map(({ places }) => places[0]?.pointer) : verdict.outcome;
  };
  expect(await findings([{ q: true }])).toEqual(['/rows/0/q']);
  expect(await findings([{ z: true }])).toBe('accepted');
  expect(await findings([{ z: true, q: false }])).toBe('accepted');
});
