import {
  above,
  below,
  collection,
  condition,
  day,
  decimal,
  exactly,
  flag,
  intake,
  known,
  list,
  maybe,
  needed,
  not,
  type Records,
  rule,
  text,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { blamesOf, looseIntake, messagesOf, rulesOf, watched } from '../support/judging.ts';

const owners = collection(
  'owners',
  { id: whole, email: text, creditLimit: decimal, passHash: text, phone: maybe(text) },
  { key: 'id', secret: ['passHash'] },
);
const vessels = collection('vessels', { id: whole, mark: text, ownerId: whole, electric: flag, insuredUntil: day }, { key: 'id' });
const berths = collection('berths', { code: text, maxLength: decimal, price: decimal }, { key: 'code' });
const data = {
  owners: [
    { id: 1, email: 'Ida@fjordmail.example', creditLimit: '100.50', passHash: 'h1', phone: null },
    { id: 2, email: 'bram@keelpost.example', creditLimit: 50, passHash: 'h2', phone: '+4711111111' },
  ],
  vessels: [
    { id: 11, mark: 'PW-1', ownerId: 1, electric: 1, insuredUntil: '2031-06-01' },
    { id: 12, mark: 'PW-2', ownerId: 2, electric: false, insuredUntil: new Date(2031, 5, 1) },
    { id: 13, mark: 'PW-3', ownerId: 99, electric: false, insuredUntil: '2031-06-01' },
    { id: 14, mark: 'PW-4', ownerId: 1, electric: 'perhaps', insuredUntil: null },
    { id: 15, mark: 'PW-5', ownerId: 1, electric: false, insuredUntil: '2031-06-01' },
    { id: 16, mark: 'PW-5', ownerId: 1, electric: false, insuredUntil: '2031-06-01' },
  ],
  berths: [
    { code: 'A1', maxLength: 12, price: 40 },
    { code: 'A2', maxLength: 15, price: 60 },
  ],
};
const records = memoryRecords(data);

const fits = rule(
  'fits',
  { berth: text, length: decimal },
  {
    looksUp: { found: berths.one({ code: 'berth' }, ['maxLength']) },
    holds: ({ length }, { found }) => length <= found.maxLength,
    message: '{length_value, number} m, {berth_value} takes {found_maxLength, number} m',
    blames: ['length', 'berth'],
  },
);
const priced = rule(
  'priced',
  { berth: text, most: decimal },
  {
    looksUp: { row: berths.one({ code: 'berth' }, ['price']) },
    holds: ({ most }, { row }) => row.price <= most,
    message: '{berth}',
    blames: 'berth',
  },
);
const withinCredit = rule(
  'within-credit',
  { mark: text, sum: decimal },
  {
    looksUp: { vessel: vessels.one({ mark: 'mark' }, ['electric'], { owner: owners.one({ id: 'ownerId' }, ['creditLimit']) }) },
    holds: ({ sum }, { vessel }) => Object.isFrozen(vessel) && sum <= vessel.owner.creditLimit,
    message: '{sum}',
    blames: ['sum', 'mark'],
  },
);
const isElectric = condition(
  'is-electric',
  { mark: text },
  { looksUp: { vessel: vessels.one({ mark: 'mark' }, ['electric']) }, holds: (_read, { vessel }) => vessel.electric },
);

const fields = { berth: text('Berth'), other: text('Other berth'), length: decimal('Length'), most: decimal('Most') };
const booking = intake('booking', fields, {
  rules: [fits({ berth: 'berth', length: 'length' }), fits({ berth: 'other', length: 'length' }), priced({ berth: 'berth', most: 'most' })],
});
const good = { berth: 'A1', other: 'A2', length: 12, most: 40 };

describe('look-ups of one judgement', () => {
  test('are merged: one question for a collection and condition, each key once, the columns together', async () => {
    const store = watched(records);
    expect(await booking.judge(good, { records: store.records })).toMatchObject({ outcome: 'accepted' });
    expect(store.rounds).toMatchObject([
      [
        {
          collection: 'berths',
          terms: [{ column: 'code', is: 'equal' }],
          columns: ['maxLength', 'price'],
          want: 'rows',
          most: 2,
          keys: [['A1'], ['A2']],
        },
      ],
    ]);
  });

  test('feed the finding: facts that the message names, and nothing else of the row', async () => {
    const verdict = await booking.judge({ ...good, length: 13 }, { records });
    expect(verdict).toMatchObject({
      outcome: 'rejected',
      findings: [{ facts: { length_value: 13, berth_value: 'A1', found_maxLength: 12 }, message: '13 m, A1 takes 12 m' }],
    });
  });

  test('that find nothing blame the roles asked with, once for a question and place', async () => {
    const verdict = await booking.judge({ ...good, berth: 'Z9' }, { records, explain: true });
    expect(blamesOf(verdict)).toEqual(['known /berth']);
    expect(messagesOf(verdict)).toEqual(['Berth must be one that exists.']);
    expect(verdict.trace).toContainEqual({
      rule: 'priced',
      use: 'priced@berth',
      step: 'record',
      outcome: 'skipped',
      why: 'nothing-found',
      because: ['/berth'],
    });
    expect(blamesOf(await booking.judge({ ...good, berth: 'Z9', other: 'Z9' }, { records }))).toEqual(['known /berth', 'known /other']);
  });

  test('are not made for fields that failed, nor under firstOfAll once something failed', async () => {
    const store = watched(records);
    expect(rulesOf(await booking.judge({ ...good, length: 'x', most: 'y', berth: 7 }, { records: store.records }))).toEqual([
      'readable',
      'readable',
      'readable',
    ]);
    expect(rulesOf(await booking.judge({ ...good, most: 'y' }, { records: store.records, report: 'firstOfAll' }))).toEqual(['readable']);
    expect(store.rounds).toEqual([]);
  });

  test('nest, in one round a level; a stored record that leads nowhere is not the sender’s fault', async () => {
    const credit = intake('credit', { mark: text('Mark'), sum: decimal('Sum') }, { rules: [withinCredit({ mark: 'mark', sum: 'sum' })] });
    const store = watched(records);
    expect(await credit.judge({ mark: 'PW-1', sum: 100.5 }, { records: store.records })).toMatchObject({ outcome: 'accepted' });
    expect(store.rounds.map((round) => round.map(({ collection }) => collection))).toEqual([['vessels'], ['owners']]);
    expect(blamesOf(await credit.judge({ mark: 'PW-1', sum: 101 }, { records }))).toEqual(['within-credit /sum /mark']);
    expect(blamesOf(await credit.judge({ mark: 'PW-9', sum: 1 }, { records }))).toEqual(['known /mark']);
    for (const mark of ['PW-3', 'PW-4', 'PW-5'])
      expect([mark, await credit.judge({ mark, sum: 1 }, { records })]).toMatchObject([
        mark,
        { outcome: 'undecided', unsettled: [{ why: 'stored-unsound' }] },
      ]);
  });

  test('of every sort', async () => {
    const seen: unknown[] = [];
    const all = rule(
      'all',
      { price: decimal, email: text },
      {
        looksUp: {
          dear: berths.all({ price: above('price') }, ['code'], { most: 2 }),
          cheap: berths.count({ price: below(exactly(50)) }),
          any: berths.exists({ code: exactly('A2'), price: above('price') }),
          nobody: owners.oneOrNone({ email: 'email' }, ['id']),
          phone: owners.oneOrNone({ id: exactly(1) }, ['phone', 'creditLimit']),
        },
        holds: (_read, found) => seen.push(found) > 0,
        message: 'x',
        blames: 'price',
      },
    );
    await intake('all', { price: decimal('P'), email: text('E') }, { rules: [all({ price: 'price', email: 'email' })] }).judge(
      { price: 30, email: 'no' },
      { records },
    );
    expect(seen).toEqual([
      { dear: [{ code: 'A1' }, { code: 'A2' }], cheap: 1, any: true, nobody: undefined, phone: { creditLimit: 100.5 } },
    ]);
  });
});

test('a message names the columns of look-ups inside, as deep as they go, but no secret ones', async () => {
  const telling = (message: string) =>
    rule(
      'telling',
      { vessel: text },
      {
        looksUp: {
          boat: vessels.one({ mark: 'vessel' }, ['ownerId'], {
            owner: owners.one({ id: 'ownerId' }, ['email', 'passHash']),
            all: vessels.count({ ownerId: 'ownerId' }),
          }),
        },
        holds: () => false,
        message,
        blames: 'vessel',
      },
    );
  const formOf = (message: string) => intake('told', { vessel: text('Vessel') }, { rules: [telling(message)({ vessel: 'vessel' })] });
  const verdict = await formOf('{boat_ownerId}: {boat_owner_email} has {boat_all}').judge({ vessel: 'PW-1' }, { records });
  expect(verdict).toMatchObject({
    findings: [{ message: '1: Ida@fjordmail.example has 4', facts: { boat_owner_email: 'Ida@fjordmail.example', boat_all: 4 } }],
  });
  expect(() => formOf('{boat_owner_passHash}')).toThrow('{boat_owner_passHash}, and that column of owners is secret');
  expect(() => formOf('{boat_owner_name}')).toThrow('nothing fills {boat_owner_name}');
});

test('a look-up with an absent maybe role is not asked, and finds nothing', async () => {
  const seen: unknown[] = [];
  const reads = { berth: maybe(text), length: decimal };
  const open = rule('open', reads, {
    looksUp: {
      none: berths.oneOrNone({ code: 'berth' }, ['price']),
      any: berths.exists({ code: 'berth' }),
      all: berths.all({ code: 'berth' }, ['code']),
      count: berths.count({ code: 'berth' }),
    },
    holds: (_read, found) => seen.push(found) > 0,
    message: 'x',
    blames: 'length',
  });
  const form = intake(
    'form',
    { berth: text('Berth').orAbsent(), length: decimal('Length') },
    { rules: [open({ berth: 'berth', length: 'length' })] },
  );
  const store = watched(records);
  const verdict = await form.judge({ length: 1 }, { records: store.records, explain: true });
  expect([verdict.outcome, seen, store.rounds]).toEqual(['accepted', [{ none: undefined, any: false, all: [], count: 0 }], []]);
});

describe('unique and known', () => {
  const signUp = intake(
    'sign-up',
    { email: text('E-mail').orAbsent(), owner: whole('Owner').orAbsent() },
    {
      storedIn: owners,
      rules: [unique(owners, { email: 'email' }), known(owners, { id: 'owner' })],
    },
  );
  test.each([
    [{ email: 'bram@keelpost.example' }, ['unique /email'], ['E-mail is already in use.']],
    [{ email: 'ida@fjordmail.example' }, [], []],
    [{ owner: 2 }, [], []],
    [{ owner: 3 }, ['known /owner'], ['Owner must be one that exists.']],
    [{}, [], []],
  ])('%j', async (submission, blames, messages) => {
    const verdict = await signUp.judge(submission, { records });
    expect([blamesOf(verdict), messagesOf(verdict)]).toEqual([blames, messages]);
  });

  test('the record that is judged again does not count itself', async () => {
    expect((await signUp.judge({ email: 'bram@keelpost.example' }, { records, itself: { id: 2 } })).outcome).toBe('accepted');
    expect((await signUp.judge({ email: 'bram@keelpost.example' }, { records, itself: { id: 1 } })).outcome).toBe('rejected');
  });

  test('ignoring case, over several columns, and in the entries of a list', async () => {
    const folded = intake('f', { email: text('E-mail') }, { rules: [unique(owners, { email: 'email' }, { ignoringCase: ['email'] })] });
    expect(blamesOf(await folded.judge({ email: 'IDA@FJORDMAIL.example' }, { records }))).toEqual(['unique /email']);
    const both = intake(
      'b',
      { code: text('Code'), price: decimal('Price') },
      { rules: [unique(berths, { code: 'code', price: 'price' })] },
    );
    expect(messagesOf(await both.judge({ code: 'A1', price: 40 }, { records }))).toEqual(['Code and Price are already in use together.']);
    expect((await both.judge({ code: 'A1', price: 60 }, { records })).outcome).toBe('accepted');
    const store = watched(records);
    const many = intake('m', { codes: list('Codes', text('Code')) }, { rules: [unique(berths, { code: 'codes.*' })] });
    expect(blamesOf(await many.judge({ codes: ['B1', 'A2', 'B1'] }, { records: store.records }))).toEqual([
      'unique /codes/1',
      'unique /codes/2',
    ]);
    expect(store.rounds).toMatchObject([[{ keys: [['B1'], ['A2']] }]]);
  });
});

describe('a store that does not answer', () => {
  const never: Records = { ask: () => new Promise(() => {}) };
  const down: Records = { ask: () => Promise.reject(new Error('connect to 10.0.0.7 refused')) };
  const throwing: Records = {
    ask: () => {
      throw new Error('no pool');
    },
  };
  const short: Records = { ask: async () => [] };
  const aborted = () => {
    const controller = new AbortController();
    setTimeout(() => controller.abort(new Error('gone')), 5);
    return controller.signal;
  };
  test.each([
    ['none given', {}, 'not-asked'],
    ['down', { records: down }, 'unavailable'],
    ['throwing', { records: throwing }, 'unavailable'],
    ['answering too little', { records: short }, 'unavailable'],
    ['slow', { records: never, within: 10 }, 'timed-out'],
    [
      'called off',
      {
        records: never,
        get signal() {
          return aborted();
        },
      },
      'aborted',
    ],
    ['called off before', { records: never, signal: AbortSignal.abort() }, 'aborted'],
  ])('%s', async (_what, options, why) => {
    const verdict = await booking.judge(good, options);
    expect(verdict).toMatchObject({ outcome: 'undecided', unsettled: [{ why }, { why }, { why }] });
    expect(JSON.stringify(verdict)).not.toContain('10.0.0.7');
    expect(rulesOf(await booking.judge({ ...good, most: 'x' }, options))).toEqual(['readable']);
  });

  test('is not asked at all when judging locally', () => {
    expect(booking.judgeLocally(good)).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ why: 'not-asked' }, { why: 'not-asked' }, { why: 'not-asked' }],
    });
  });
});

describe('conditions on records', () => {
  const power = { mark: text('Mark').orAbsent(), power: text('Power').orAbsent() };
  const form = intake('power', power, { rules: [needed('power', { when: isElectric({ mark: 'mark' }) })] });
  const quiet = looseIntake(power, [needed('power' as never, { when: not(not(isElectric({ mark: 'mark' } as never))) as never })]);
  test.each([
    ['holds', { mark: 'PW-1' }, ['needed /power']],
    ['does not hold', { mark: 'PW-2' }, []],
    ['is skipped', {}, []],
    ['finds nothing', { mark: 'PW-9' }, ['known /mark']],
  ])('%s', async (_what, submission, blames) => {
    expect(blamesOf(await form.judge(submission, { records }))).toEqual(blames);
    expect(blamesOf(await quiet.judge(submission, { records }))).toEqual(blames);
  });

  test('unsettled, it leaves the guarded rule unsettled', async () => {
    expect(await form.judge({ mark: 'PW-1' })).toMatchObject({ outcome: 'undecided', unsettled: [{ rule: 'needed', why: 'not-asked' }] });
    expect(await form.judge({ mark: 'PW-4' }, { records })).toMatchObject({ outcome: 'undecided', unsettled: [{ why: 'stored-unsound' }] });
  });
});

test('what the submission becomes while the store is asked is never seen', async () => {
  const submission = { ...good };
  const slow: Records = {
    async ask(questions, signal) {
      submission.length = 99;
      return records.ask(questions, signal);
    },
  };
  expect(await booking.judge(submission, { records: slow })).toMatchObject({ outcome: 'accepted', value: { length: 12 } });
});

describe('outside checks', () => {
  const calls: string[] = [];
  const registered = rule(
    'registered',
    { mark: text },
    {
      asks: async ({ mark }, _found, _takes, { signal }) => {
        calls.push(mark);
        if (mark === 'slow') await new Promise((_resolve, reject) => signal.addEventListener('abort', () => reject(signal.reason)));
        if (mark === 'down') throw new Error('503');
        return mark === 'PW-1';
      },
      within: 20,
      message: '{mark} is not registered.',
      blames: 'mark',
    },
  );
  const form = intake('form', { mark: text('Mark'), age: whole('Age') }, { rules: [registered({ mark: 'mark' })] });
  test.each([
    ['PW-1', { outcome: 'accepted' }],
    ['PW-2', { outcome: 'rejected', findings: [{ message: 'Mark is not registered.' }] }],
    ['slow', { outcome: 'undecided', unsettled: [{ why: 'timed-out' }] }],
    ['down', { outcome: 'undecided', unsettled: [{ why: 'fault' }] }],
  ])('%s', async (mark, expected) => {
    expect(await form.judge({ mark, age: 1 })).toMatchObject(expected);
    expect(form.judgeLocally({ mark, age: 1 })).toMatchObject({ outcome: 'undecided', unsettled: [{ why: 'not-asked' }] });
  });

  test('come last, and only if nothing failed', async () => {
    calls.length = 0;
    expect(rulesOf(await form.judge({ mark: 'PW-2', age: 'x' }))).toEqual(['readable']);
    expect(calls).toEqual([]);
  });

  test('are given what their look-ups found, and wait for conditions on records', async () => {
    const seen: unknown[] = [];
    const paid = rule(
      'paid',
      { mark: text },
      {
        looksUp: { vessel: vessels.one({ mark: 'mark' }, ['ownerId']) },
        asks: async (_read, { vessel }) => seen.push(vessel.ownerId) < 0,
        within: 100,
        message: '{mark}',
        blames: 'mark',
      },
    );
    const field = { mark: text('Mark') };
    const guarded = intake('form', field, {
      rules: [
        paid({ mark: 'mark' }, { when: isElectric({ mark: 'mark' }) }),
        registered({ mark: 'mark' }, { when: not(isElectric({ mark: 'mark' })) }),
      ],
    });
    calls.length = 0;
    expect(blamesOf(await guarded.judge({ mark: 'PW-1' }, { records }))).toEqual(['paid /mark']);
    expect([seen, calls]).toEqual([[1], []]);
    expect(blamesOf(await guarded.judge({ mark: 'PW-2' }, { records }))).toEqual(['registered /mark']);
    expect([seen, calls]).toEqual([[1], ['PW-2']]);
    expect(await guarded.judge({ mark: 'PW-1' })).toMatchObject({
      outcome: 'undecided',
      unsettled: [{ why: 'not-asked' }, { why: 'not-asked' }],
    });
  });
});
