import {
  absent,
  allOf,
  anyOf,
  atLeastOneOf,
  collection,
  condition,
  day,
  decimal,
  entries,
  equals,
  exact,
  exactly,
  exactlyOneOf,
  flag,
  fromDay,
  group,
  inOrder,
  intake,
  known,
  list,
  maybe,
  needed,
  noOverlap,
  not,
  oneOfShapes,
  rule,
  shape,
  text,
  together,
  totalAtMost,
  unique,
  untilDay,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { blamesOf, looseIntake, watched } from '../support/judging.ts';

const berths = collection('berths', { code: text, maxLength: decimal, owner: text }, { key: 'code' });
const owners = collection('owners', { name: text, email: text }, { key: 'name' });
const records = memoryRecords({
  berths: [{ code: 'A1', maxLength: 12, owner: 'ida' }],
  owners: [{ name: 'ida', email: 'ida@fjordmail.example' }],
});
const fits = rule(
  'test/fits',
  { berth: text, length: decimal },
  {
    looksUp: { found: berths.one({ code: 'berth' }, ['maxLength']) },
    holds: ({ length }, { found }) => length <= found.maxLength,
    message: 'x',
    blames: 'length',
  },
);

describe('one finding for one cause', () => {
  const fields = { berth: text('Berth'), length: decimal('Length'), power: text('Power').orAbsent(), a: flag('A'), b: flag('B') };
  const good = { berth: 'A1', length: 3, a: false, b: false };

  test('`known` beside `one` on the same field, in the words of the rule', async () => {
    const form = intake('form', fields, {
      rules: [fits({ berth: 'berth', length: 'length' }), known(berths, { code: 'berth' }, { message: 'No such berth.' })],
    });
    const verdict = await form.judge({ ...good, berth: 'Z9' }, { records });
    expect(verdict).toMatchObject({ findings: [{ rule: 'known', message: 'No such berth.' }] });
    expect(blamesOf(verdict)).toEqual(['known /berth']);
  });

  test('`needed` under two conditions, whatever the uses are called', () => {
    const form = intake('form', fields, {
      rules: [needed('power', { when: equals({ a: true }), as: 'for-a' }), needed('power', { when: equals({ b: true }), as: 'for-b' })],
    });
    expect(blamesOf(form.judgeLocally({ ...good, a: true, b: true }))).toEqual(['needed /power']);
  });

  test('a rule twice under two conditions; an error stands for a warning', () => {
    const short = rule('test/short', { power: text }, { holds: ({ power }) => power.length < 2, message: 'x', blames: 'power' });
    const form = intake('form', fields, {
      rules: [
        short({ power: 'power' }, { when: equals({ a: true }), severity: 'warning' }),
        short({ power: 'power' }, { when: equals({ b: true }) }),
      ],
    });
    expect(form.judgeLocally({ ...good, power: '16A', a: true, b: true })).toMatchObject({ findings: [{ severity: 'error' }] });
    expect(form.judgeLocally({ ...good, power: '16A', a: true })).toMatchObject({
      outcome: 'accepted',
      warnings: [{ severity: 'warning' }],
    });
  });

  test('the same index twice', () => {
    const twice = rule('test/twice', { all: entries({ n: whole }) }, { failing: () => [0, 0], message: 'x', blames: 'all' });
    const form = intake('form', { all: list('All', group('One', { n: whole('N') })) }, { rules: [twice({ all: { n: 'all.*.n' } })] });
    expect(blamesOf(form.judgeLocally({ all: [{ n: 1 }] }))).toEqual(['test/twice /all/0/n']);
  });

  test('one definition bound twice is not in its own way', async () => {
    const form = intake(
      'form',
      { name: text('Name'), a: flag('A'), b: flag('B') },
      {
        rules: [
          unique(owners, { name: 'name' }, { when: equals({ a: true }) }),
          unique(owners, { name: 'name' }, { when: equals({ b: true }) }),
        ],
      },
    );
    expect(await form.judge({ name: 'bo', a: true, b: true }, { records })).toMatchObject({ outcome: 'accepted' });
  });
});

describe('conditions', () => {
  const isGreat = condition(
    'test/great',
    { berth: text },
    { looksUp: { found: berths.one({ code: 'berth' }, ['maxLength']) }, holds: (_, { found }) => found.maxLength > 10 },
  );
  const isThrown = condition(
    'test/thrown',
    { berth: text },
    {
      holds: () => {
        throw new Error('no');
      },
    },
  );
  const fields = { berth: text('Berth'), power: text('Power').orAbsent(), a: flag('A') };
  const form = (when: never) => intake('form', fields, { rules: [needed('power', { when })] });
  const great = isGreat({ berth: 'berth' } as never) as never;
  const thrown = isThrown({ berth: 'berth' } as never) as never;
  const isA = equals({ a: true } as never) as never;

  test.each([
    ['any of one that holds and one that finds nothing', [isA, great], anyOf, true, ['needed /power']],
    ['all of one that does not hold and one that finds nothing', [isA, great], allOf, false, []],
    ['any of one that does not hold and one that finds nothing', [isA, great], anyOf, false, ['known /berth']],
    ['all of one that does not hold and one that throws', [isA, thrown], allOf, false, []],
    ['any of one that holds and one that throws', [isA, thrown], anyOf, true, ['needed /power']],
    ['not any of one that holds and one that finds nothing', [isA, great], (...of: never[]) => not(anyOf(...of)), true, []],
  ])('%s: the order of members plays no part, and what is settled asks nothing', async (_what, members, combine, a, blames) => {
    for (const ordered of [members, [...members].reverse()]) {
      const store = watched(records);
      const verdict = await form((combine as (...of: never[]) => never)(...(ordered as never[]))).judge(
        { berth: 'Z9', a },
        { records: store.records },
      );
      expect(blamesOf(verdict)).toEqual(blames);
      expect(verdict.outcome).toBe(blames.length > 0 ? 'rejected' : 'accepted');
      if (!(blames as string[]).includes('known /berth')) expect(store.rounds).toEqual([]);
    }
  });

  test('several conditions around one rule are all of them, in any order', () => {
    const throws = rule('test/x', { a: flag }, { holds: () => false, message: 'x', blames: 'a' });
    for (const when of [allOf(thrown, isA), allOf(isA, thrown)])
      expect(looseIntake(fields, [throws({ a: 'a' } as never, { when } as never)]).judgeLocally({ berth: 'x', a: false }).outcome).toBe(
        'accepted',
      );
  });

  test('of the calendar begin and end on a day of the intake’s zone', () => {
    const stay = intake('stay', fields, {
      zone: 'Europe/Oslo',
      rules: [needed('power', { when: allOf(fromDay('2032-01-01'), untilDay('2032-01-31')) })],
    });
    const on = (now: string) => blamesOf(stay.judgeLocally({ berth: 'A1', a: false }, { now: new Date(now) }));
    expect([on('2031-12-31T22:59:59Z'), on('2031-12-31T23:00:00Z'), on('2032-01-31T22:59:59Z'), on('2032-01-31T23:00:00Z')]).toEqual([
      [],
      ['needed /power'],
      ['needed /power'],
      [],
    ]);
    expect(() => intake('stay', fields, { rules: [needed('power', { when: fromDay('2032-01-01') })] })).toThrow('add a time zone');
    expect(() => fromDay('2032-02-30')).toThrow("fromDay('2032-02-30') needs a day that exists");
  });
});

describe('look-ups', () => {
  test('a nested one whose answer was fetched already uses it', async () => {
    const owned = rule(
      'test/owned',
      { owner: text },
      { looksUp: { row: owners.one({ name: 'owner' }, ['email']) }, holds: () => true, message: 'x', blames: 'owner' },
    );
    const deep = rule(
      'test/deep',
      { berth: text },
      {
        looksUp: { row: berths.one({ code: 'berth' }, ['owner'], { who: owners.one({ name: 'owner' }, ['email']) }) },
        holds: (_, { row }) => row.who.email !== '',
        message: 'x',
        blames: 'berth',
      },
    );
    const form = intake(
      'form',
      { owner: text('Owner'), berth: text('Berth') },
      { rules: [owned({ owner: 'owner' }), deep({ berth: 'berth' })] },
    );
    expect(await form.judge({ owner: 'ida', berth: 'A1' }, { records })).toMatchObject({ outcome: 'accepted', unsettled: [] });
  });

  test('`one` that nothing of the submission takes part in is the application’s fault when it finds nothing', async () => {
    const fixed = rule(
      'test/fixed',
      { berth: text },
      { looksUp: { row: berths.one({ code: exactly('Z9') }, ['owner']) }, holds: () => true, message: 'x', blames: 'berth' },
    );
    const form = intake('form', { berth: text('Berth') }, { rules: [fixed({ berth: 'berth' })] });
    expect(await form.judge({ berth: 'A1' }, { records })).toMatchObject({ outcome: 'undecided', unsettled: [{ why: 'fault' }] });
  });

  test('may take for ever', async () => {
    const form = intake('form', { berth: text('Berth') }, { rules: [known(berths, { code: 'berth' })] });
    expect(await form.judge({ berth: 'A1' }, { records, within: Number.POSITIVE_INFINITY })).toMatchObject({ outcome: 'accepted' });
  });

  test('without records say what is missing, and where to give it', async () => {
    const form = intake('form', { berth: text('Berth') }, { rules: [known(berths, { code: 'berth' })] });
    const { unsettled } = await form.judge({ berth: 'A1' });
    expect(String(unsettled[0]?.cause)).toBe(
      'Error: Intake "form" looks into "berths", and no records were given; give them in the option "records".',
    );
  });

  test('exact decimals are compared as numbers, in memory and among rows', async () => {
    const rates = collection('rates', { price: exact, from: exact, to: exact }, { key: 'price' });
    const form = intake(
      'rate',
      { price: exact('Price'), from: exact('From'), to: exact('To') },
      {
        storedIn: rates,
        rules: [unique(rates, { price: 'price' }), noOverlap(rates, { from: 'from', to: 'to' }, { interval: ['from', 'to'] })],
      },
    );
    const store = memoryRecords({ rates: [{ price: '12.50', from: '9', to: '10.0' }] });
    const rows = [
      { price: '12.5', from: '5000', to: '5001' },
      { price: '1', from: '9.5', to: '9.6' },
      { price: '2', from: '10', to: '100' },
      { price: '2.00', from: '200', to: '201' },
      { price: '3', from: '99', to: '1000' },
      { price: '4', from: '100', to: '101' },
    ];
    const found: string[][] = [];
    for await (const { verdict } of form.judgeMany(rows, { records: store })) found.push(blamesOf(verdict));
    expect(found).toEqual([['unique /price'], ['no-overlap /from /to'], [], ['unique /price'], ['no-overlap /from /to'], []]);
  });
});

describe('entries without a value', () => {
  const lines = list(
    'Lines',
    group('Line', { price: exact('Price').orAbsent(), count: whole('Count').orAbsent(), on: day('On').orAbsent() }),
  );
  const total = rule(
    'test/total',
    { all: entries({ count: whole }) },
    { holds: ({ all }) => all.reduce((sum, { count }) => sum + count, 0) <= 3, message: 'x', blames: 'all' },
  );
  const form = intake('form', { lines }, { rules: [total({ all: { count: 'lines.*.count' } })] });

  test('do not switch a rule off, and are told in the trace', () => {
    const verdict = form.judgeLocally({ lines: [{ count: 2 }, { price: '1' }, { count: 2 }] }, { explain: true });
    expect(blamesOf(verdict)).toEqual(['test/total /lines']);
    expect(verdict.trace).toContainEqual(
      expect.objectContaining({ outcome: 'skipped', why: 'entries-left-out', because: ['/lines/1/count'] }),
    );
  });

  test('are handed over where the role says maybe; indexes count what the rule was given', () => {
    const seen: unknown[] = [];
    const loose = rule(
      'test/loose',
      { all: entries({ count: maybe(whole) }) },
      {
        holds({ all }) {
          seen.push(...all.map(({ count }) => count));
          return true;
        },
        message: 'x',
        blames: 'all',
      },
    );
    const second = rule(
      'test/second',
      { all: entries({ count: whole }) },
      { failing: ({ all }) => all.flatMap(({ count }, index) => (count > 2 ? [index] : [])), message: 'x', blames: 'all' },
    );
    const other = intake(
      'other',
      { lines },
      { rules: [loose({ all: { count: 'lines.*.count' } }), second({ all: { count: 'lines.*.count' } })] },
    );
    expect(blamesOf(other.judgeLocally({ lines: [{}, { count: 1 }, {}, { count: 3 }] }))).toEqual(['test/second /lines/3/count']);
    expect(seen).toEqual([undefined, 1, undefined, 3]);
  });

  test('add nothing to a total, nor do summands that are not there; a factor may stand outside the list', () => {
    const bill = intake(
      'bill',
      { lines, rate: exact('Rate'), tip: exact('Tip').orAbsent(), most: exact('Most') },
      {
        rules: [totalAtMost([['lines.*.price', 'lines.*.count', 'rate'], ['tip']], 'most')],
      },
    );
    const of = (submission: object) =>
      blamesOf(bill.judgeLocally({ rate: '2', most: '10', lines: [{ price: '2.5', count: 2 }, { price: '99' }], ...submission }));
    expect(of({})).toEqual([]);
    expect(of({ most: '9.99' })).toEqual(['total-at-most /lines /rate /tip']);
    expect(of({ tip: '0.01' })).toEqual(['total-at-most /lines /rate /tip']);
    expect(of({ lines: [] })).toEqual([]);
  });

  test('a path into the list speaks of the entries that have both values', () => {
    const stay = intake('stay', { lines, end: day('End') }, { rules: [inOrder({ earlier: 'lines.*.on', later: 'end' })] });
    expect(blamesOf(stay.judgeLocally({ end: '2031-05-01', lines: [{}, { on: '2031-06-01' }] }))).toEqual(['in-order /end']);
  });
});

describe('presence', () => {
  const fields = {
    contact: group('Contact', { phone: text('Phone').orAbsent(), city: text('City').orAbsent() }).orAbsent(),
    pay: oneOfShapes('Payment', 'by', {
      card: shape({ holder: text('Holder').orAbsent() }),
      bill: shape({ to: text('To').orAbsent() }),
    }).orAbsent(),
    crew: list('Crew', text('Name')).orEmpty(),
    email: text('E-mail').orAbsent(),
  };

  test('of what stands in a group or shape that is not there is nobody’s question', () => {
    const form = intake('form', fields, {
      rules: [
        needed('pay.card.holder'),
        needed('contact.phone'),
        together('contact.phone', 'contact.city'),
        atLeastOneOf('contact.phone', 'contact.city'),
      ],
    });
    expect(blamesOf(form.judgeLocally({}))).toEqual([]);
    expect(blamesOf(form.judgeLocally({ pay: { by: 'bill' } }))).toEqual([]);
    expect(blamesOf(form.judgeLocally({ pay: { by: 'card' }, contact: {} }))).toEqual([
      'needed /contact/phone',
      'at-least-one-of /contact/phone /contact/city',
      'needed /pay/holder',
    ]);
    // Beside something that could be there, it is.
    const either = intake('either', fields, { rules: [atLeastOneOf('contact.phone', 'email')] });
    expect(blamesOf(either.judgeLocally({}))).toEqual(['at-least-one-of /contact/phone /email']);
  });

  test('a list that is empty when it is left out is not there, sent or not', () => {
    const form = intake('form', fields, { rules: [absent('crew')] });
    expect(blamesOf(form.judgeLocally({}))).toEqual([]);
    expect(blamesOf(form.judgeLocally({ crew: [] }))).toEqual([]);
    expect(blamesOf(form.judgeLocally({ crew: ['Ida'] }))).toEqual(['absent /crew']);
    expect(blamesOf(intake('other', fields, { rules: [needed('crew')] }).judgeLocally({}))).toEqual(['needed /crew']);
  });

  test('rules about several fields take a use', () => {
    const form = intake('form', fields, {
      rules: [
        atLeastOneOf('contact.phone', 'email', { as: 'reachable', message: 'How do we reach you?' }),
        exactlyOneOf('email', 'crew', { severity: 'warning' }),
        together('email', 'crew', { as: 'both', on: 'amend' }),
      ],
    });
    expect(form.judgeLocally({ crew: ['x'] })).toMatchObject({ findings: [{ use: 'reachable', message: 'How do we reach you?' }] });
    expect(() => atLeastOneOf('a' as never, { as: 'x' } as never, 'b' as never)).toThrow('as its last argument');
  });
});

describe('a use on trial', () => {
  const odd = rule('test/odd', { n: whole }, { holds: ({ n }) => n % 2 === 1, message: '{n} must be odd.', blames: 'n' });
  const small = rule('test/small', { n: whole }, { holds: ({ n }) => n < 10, message: 'x', blames: 'n' });
  const form = intake(
    'form',
    { n: whole('N'), berth: text('Berth').orAbsent() },
    {
      rules: [
        odd({ n: 'n' }, { trial: true, as: 'odd' }),
        small({ n: 'n' }),
        fits({ berth: 'berth', length: 'n' }, { trial: true, as: 'fits' }),
      ],
    },
  );

  test('is judged and told apart, and decides nothing', async () => {
    const verdict = await form.judge({ n: 4, berth: 'A1' }, { records });
    expect(verdict).toMatchObject({
      outcome: 'accepted',
      unsettled: [],
      warnings: [],
      trials: [
        { use: 'odd', outcome: 'failed', finding: { message: 'N must be odd.' } },
        { use: 'fits', outcome: 'held' },
      ],
    });
    expect(await form.judge({ n: 12 }, { records })).toMatchObject({ outcome: 'rejected', findings: [{ rule: 'test/small' }] });
  });

  test('that cannot be decided, or finds nothing, leaves the verdict as it is; other questions do not suffer', async () => {
    expect(await form.judge({ n: 4, berth: 'Z9' }, { records })).toMatchObject({
      outcome: 'accepted',
      trials: [{}, { outcome: 'failed' }],
    });
    expect(await form.judge({ n: 4, berth: 'A1' })).toMatchObject({
      outcome: 'accepted',
      unsettled: [],
      trials: [{}, { outcome: 'unsettled' }],
    });
    const both = intake(
      'both',
      { n: whole('N'), owner: text('Owner'), berth: text('Berth') },
      {
        rules: [known(owners, { name: 'owner' }), fits({ berth: 'berth', length: 'n' }, { trial: true })],
      },
    );
    const lacking = memoryRecords({ owners: [{ name: 'ida' }] });
    expect(await both.judge({ n: 4, owner: 'ida', berth: 'A1' }, { records: lacking })).toMatchObject({
      outcome: 'accepted',
      trials: [{ outcome: 'unsettled', unsettled: { why: 'unavailable' } }],
    });
  });

  test('is counted over many rows, and claims nothing from others', async () => {
    const rows = intake(
      'rows',
      { name: text('Name'), nick: text('Nick') },
      {
        rules: [unique(owners, { name: 'nick' }, { trial: true, as: 'nick' }), unique(owners, { name: 'name' })],
      },
    );
    const judged = rows.judgeMany(
      [
        { name: 'bo', nick: 'x' },
        { name: 'x', nick: 'x' },
        { name: 'ida', nick: 'y' },
      ],
      { records },
    );
    const outcomes: string[] = [];
    for await (const { verdict } of judged) outcomes.push(verdict.outcome);
    expect(outcomes).toEqual(['accepted', 'accepted', 'rejected']);
    expect(judged.counts).toEqual({
      rows: 3,
      accepted: 2,
      rejected: 1,
      undecided: 0,
      trials: { nick: { held: 2, failed: 1, unsettled: 0 } },
    });
  });
});

describe('what goes without saying', () => {
  const vessels = collection('vessels', { mark: text }, { key: 'mark' });
  const fields = { mark: text('Mark'), from: day('From'), to: day('To') };
  const good = { mark: 'PW-1', from: '2031-05-01', to: '2031-05-02' };

  test('the cause of what is unsettled is for the log: it is in no JSON of a verdict', async () => {
    const form = intake('i', fields, { rules: [known(vessels, { mark: 'mark' })] });
    const secret = new Error('password=4711');
    const verdict = await form.judge(good, { records: { ask: () => Promise.reject(secret) } });
    expect(verdict.unsettled[0]?.cause).toBe(secret);
    expect(Object.keys(verdict.unsettled[0] ?? {})).not.toContain('cause');
    expect(JSON.stringify(verdict)).not.toContain('cause');
  });

  test('what only a rule on trial asks bothers nobody', async () => {
    const form = intake('i', fields, { rules: [known(owners, { name: 'mark' }), known(vessels, { mark: 'mark' }, { trial: true })] });
    // A store that answers nothing at all where it does not know a table.
    const ask: typeof records.ask = (questions, signal) =>
      questions.some(({ collection }) => collection === 'vessels')
        ? Promise.reject(new Error('no such table'))
        : records.ask(questions, signal);
    const verdict = await form.judge({ ...good, mark: 'ida' }, { records: { ask } });
    expect([verdict.outcome, verdict.unsettled, verdict.trials?.map(({ outcome }) => outcome)]).toEqual(['accepted', [], ['unsettled']]);
  });

  test('of a field that a rule between fields has refused nobody asks the store', async () => {
    const pair = collection('pairs', { to: day }, { key: 'to' });
    const form = intake('i', fields, { rules: [inOrder({ earlier: 'from', later: 'to' }), known(pair, { to: 'to' })] });
    const store = watched(memoryRecords({ pairs: [] }));
    const verdict = await form.judge({ ...good, to: '2031-04-01' }, { records: store.records, explain: true });
    expect([blamesOf(verdict), store.rounds]).toEqual([['in-order /to'], []]);
    expect(verdict.trace?.at(-1)).toMatchObject({ rule: 'known', outcome: 'skipped', why: 'unsound' });
  });

  test('an entry that `failing` gives several times fails once', () => {
    const twice = rule('test/twice', { all: entries({ n: whole }) }, { failing: () => [1, 0, 1, 1], message: 'x', blames: 'all' });
    const form = intake('i', { l: list('L', group('E', { n: whole('N') })) }, { rules: [twice({ all: { n: 'l.*.n' } })] });
    expect(blamesOf(form.judgeLocally({ l: [{ n: 1 }, { n: 2 }] }))).toEqual(['test/twice /l/0/n', 'test/twice /l/1/n']);
  });
});
