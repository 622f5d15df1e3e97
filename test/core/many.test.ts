import fc from 'fast-check';
import type { Judged, Records } from 'jestril';
import {
  atMost,
  choice,
  collection,
  condition,
  day,
  exactly,
  flag,
  intake,
  known,
  list,
  maybe,
  moment,
  noOverlap,
  rule,
  storedChoice,
  text,
  unexpired,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { blamesOf, watched } from '../support/judging.ts';

const owners = collection('owners', { id: whole, email: text }, { key: 'id' });
const vessels = collection('vessels', { id: whole, mark: text, marina: text }, { key: 'id' });
const records = memoryRecords({
  owners: [{ id: 1, email: 'ida@fjordmail.example' }],
  vessels: [
    { id: 7, mark: 'PW-7', marina: 'pellwick' },
    { id: 8, mark: 'PW-8', marina: 'elsewhere' },
  ],
});
const vessel = intake(
  'vessel',
  { mark: text('Mark'), owner: whole('Owner') },
  {
    storedIn: vessels,
    rules: [
      unique(vessels, { mark: 'mark' }, { only: { marina: exactly('pellwick') }, ignoringCase: ['mark'] }),
      known(owners, { id: 'owner' }),
    ],
  },
);

async function all<A>(judged: AsyncIterable<Judged<A>>): Promise<Judged<A>[]> {
  const rows: Judged<A>[] = [];
  for await (const row of judged) rows.push(row);
  return rows;
}
const told = (rows: readonly Judged<unknown>[]) =>
  rows.map(({ row, verdict }) => [row, verdict.outcome === 'rejected' ? blamesOf(verdict) : verdict.outcome]);
const row = (mark: string, owner: unknown = 1) => ({ mark, owner });

describe('judgeMany', () => {
  test('gives verdicts in order, with few questions; a later row that wants the same is told of the earlier one', async () => {
    const store = watched(records);
    const rows = [row('PW-1'), row('PW-7'), row('PW-8', 9), row('pw-1'), row('PW-8'), row('PW-2', 'x'), row('PW-2')];
    const judged = await all(vessel.judgeMany(rows, { records: store.records, chunk: 3 }));
    expect(told(judged)).toEqual([
      [1, 'accepted'],
      [2, ['unique /mark']],
      [3, ['known /owner']],
      [4, ['unique /mark']],
      [5, ['unique /mark']],
      [6, ['readable /owner']],
      [7, ['unique /mark']],
    ]);
    expect(judged[3]).toMatchObject({
      submission: rows[3],
      verdict: { findings: [{ facts: { takenBy: 'row', row: 1 }, message: 'Mark is already used in row 1.' }] },
    });
    expect(judged[1]).toMatchObject({ verdict: { findings: [{ facts: { takenBy: 'record' }, message: 'Mark is already in use.' }] } });
    // Two questions a chunk, each key once.
    expect(store.rounds.map((questions) => questions.map(({ keys }) => keys.length))).toEqual([
      [3, 2],
      [3, 1],
      [1, 1],
    ]);
  });

  test('a row that renews a stored record does not count it, so an import can be run again', async () => {
    const ids: { [mark: string]: number } = { 'PW-7': 7, 'PW-1': 9 };
    const itself = (submission: unknown) => {
      const id = ids[(submission as { mark: string }).mark];
      return id === undefined ? undefined : { id };
    };
    // The same record twice is no repetition; another one is.
    expect(told(await all(vessel.judgeMany([row('PW-7'), row('PW-7')], { records, itself })))).toEqual([
      [1, 'accepted'],
      [2, 'accepted'],
    ]);
    let id = 20;
    expect(told(await all(vessel.judgeMany([row('PW-9'), row('PW-9')], { records, itself: () => ({ id: id++ }) })))).toEqual([
      [1, 'accepted'],
      [2, ['unique /mark']],
    ]);
  });

  test('a chunk whose look-ups fail is undecided, and the rest goes on; its rows keep what they claim', async () => {
    let asked = 0;
    const shaky: Records = { ask: (...question) => (asked++ === 1 ? Promise.reject(new Error('gone')) : records.ask(...question)) };
    const rows = [row('PW-1'), row('PW-2'), row('PW-3'), row('PW-4'), row('PW-3'), row('PW-5')];
    expect(told(await all(vessel.judgeMany(rows, { records: shaky, chunk: 2 })))).toEqual([
      [1, 'accepted'],
      [2, 'accepted'],
      [3, 'undecided'],
      [4, 'undecided'],
      // Behind one that is not decided nobody is to blame.
      [5, 'undecided'],
      [6, 'accepted'],
    ]);
  });

  test('rows that are asked for at once come in their order; who stops lets go of the source', async () => {
    let isLetGo = false;
    function* source() {
      try {
        for (let number = 1; number <= 9; number++) yield row(`PW-${number}00`);
      } finally {
        isLetGo = true;
      }
    }
    const judged = vessel.judgeMany(source(), { records, chunk: 2 });
    const first = await Promise.all(Array.from({ length: 5 }, () => judged.next()));
    expect(first.map(({ value }) => value?.row)).toEqual([1, 2, 3, 4, 5]);
    expect([judged.counts.rows, isLetGo]).toEqual([5, false]);
    await judged.return?.();
    expect([(await judged.next()).done, isLetGo]).toEqual([true, true]);
  });

  test('a source that breaks off has the verdicts of what it gave, and then its error', async () => {
    async function* source() {
      yield row('PW-1');
      yield row('PW-2');
      throw new Error('the file ends in the middle');
    }
    const seen: number[] = [];
    const reading = (async () => {
      for await (const judged of vessel.judgeMany(source(), { records })) seen.push(judged.row);
    })();
    await expect(reading).rejects.toThrow('the file ends in the middle');
    expect(seen).toEqual([1, 2]);
  });

  test('an aborted run leaves the rows at hand undecided, and says so; one that is left closes its source', async () => {
    const controller = new AbortController();
    let isClosed = false;
    async function* source() {
      try {
        for (let index = 1; ; index++) {
          await new Promise((done) => setImmediate(done));
          if (index === 4) controller.abort(new Error('enough'));
          yield row(`PW-${index + 10}`);
        }
      } finally {
        isClosed = true;
      }
    }
    const seen: string[] = [];
    const reading = (async () => {
      for await (const { verdict } of vessel.judgeMany(source(), { records, chunk: 2, signal: controller.signal }))
        seen.push(verdict.outcome);
    })();
    await expect(reading).rejects.toThrow('enough');
    expect(seen).toEqual(['accepted', 'accepted', 'undecided']);
    expect(isClosed).toBe(true);

    isClosed = false;
    for await (const judged of vessel.judgeMany(source(), { records, chunk: 2 })) if (judged.row === 2) break;
    expect(isClosed).toBe(true);
  });

  test('without records nothing is accepted, and rows are still compared with each other', async () => {
    expect(told(await all(vessel.judgeMany([row('A'), row('A')])))).toEqual([
      [1, 'undecided'],
      [2, 'undecided'],
    ]);
    expect(() => vessel.judgeMany([], { chunk: 0 }).next()).rejects.toThrow('chunk 0 is not a number of rows');
  });

  test('a text is no number, whatever it looks like, for claims and for the store', async () => {
    const stickers = collection('stickers', { id: whole, code: choice }, { key: 'id' });
    const form = intake('sticker', { code: choice('Code', ['[5]', 5, '5', '["5"]']) }, { rules: [unique(stickers, { code: 'code' })] });
    const codes = ['[5]', 5, '5', '["5"]', 5].map((code) => ({ code }));
    const judge = async (stored: readonly object[]) =>
      told(await all(form.judgeMany(codes, { records: memoryRecords({ stickers: stored as never }) })));
    const last = [5, ['unique /code']];
    expect(await judge([])).toEqual([[1, 'accepted'], [2, 'accepted'], [3, 'accepted'], [4, 'accepted'], last]);
    expect(await judge([{ id: 1, code: '[5]' }])).toEqual([[1, ['unique /code']], [2, 'accepted'], [3, 'accepted'], [4, 'accepted'], last]);
  });

  test('whatever is reported, rows come to the same, also where a condition on records says who is asked', async () => {
    const owners = collection('claimants', { name: text, kind: text }, { key: 'name' });
    const isFirm = condition(
      'test/firm',
      { name: text },
      { looksUp: { row: owners.oneOrNone({ name: 'name' }, ['kind']) }, holds: (_, { row }) => row?.kind === 'firm' },
    );
    const form = intake(
      'form',
      { name: text('Name'), mark: text('Mark'), n: whole('N', atMost(5)) },
      {
        rules: [unique(owners, { name: 'mark' }, { when: isFirm({ name: 'name' }) })],
      },
    );
    const records = memoryRecords({ claimants: [{ name: 'ida', kind: 'firm' }] });
    const rows = [
      { name: 'ida', mark: 'a', n: 9 },
      { name: 'bo', mark: 'b', n: 9 },
      { name: 'ida', mark: 'a', n: 1 },
      { name: 'ida', mark: 'b', n: 1 },
    ];
    for (const report of ['everything', 'firstOfEach', 'firstOfAll'] as const) {
      const judged = await all(form.judgeMany(rows, { records, report }));
      expect([report, ...judged.map(({ verdict }) => verdict.outcome)]).toEqual([report, 'rejected', 'rejected', 'rejected', 'rejected']);
    }
    // One submission alone asks nothing once something failed.
    const store = watched(records);
    await form.judge(rows[0], { records: store.records, report: 'firstOfAll' });
    expect(store.rounds).toEqual([]);
  });

  test('with firstOfAll a row that failed asks nothing, and claims its sound values all the same', async () => {
    const store = watched(records);
    const rows = [row('PW-1', 'x'), row('PW-1')];
    expect(told(await all(vessel.judgeMany(rows, { records: store.records, report: 'firstOfAll' })))).toEqual([
      [1, ['readable /owner']],
      [2, ['unique /mark']],
    ]);
    expect(store.rounds).toMatchObject([[{ keys: [['PW-1', 'pellwick']] }, { keys: [[1]] }]]);
    expect(told(await all(vessel.judgeMany(rows, { report: 'firstOfAll' })))[1]).toEqual([2, ['unique /mark']]);
  });

  test('outside checks run for the rows that hold; many rows give what one by one gives', async () => {
    const asks = rule(
      'test/asks',
      { mark: text },
      { asks: async ({ mark }) => mark !== 'PW-4', within: 500, message: 'no', blames: 'mark' },
    );
    const form = intake('form', { mark: text('Mark') }, { rules: [asks({ mark: 'mark' }), unique(vessels, { mark: 'mark' })] });
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(fc.constantFrom('PW-1', 'PW-4', 'PW-7', 'PW-8', '')),
        fc.integer({ min: 1, max: 4 }),
        async (marks, chunk) => {
          const rows = marks.map((mark) => ({ mark }));
          const together = (await all(form.judgeMany(rows, { records, chunk }))).map(({ verdict }) => verdict);
          expect(together).toEqual(await Promise.all(rows.map((each) => form.judge(each, { records }))));
        },
      ),
      { numRuns: 30 },
    );
  });
});

describe('what entries and rows claim', () => {
  const bookings = collection('bookings', { id: whole, berth: text, arrives: day, departs: day }, { key: 'id' });
  const stored = memoryRecords({ bookings: [{ id: 1, berth: 'A1', arrives: '2031-05-10', departs: '2031-05-14' }] });
  const booking = (touching: 'allowed' | 'refused') =>
    intake(
      'booking',
      { berth: text('Berth'), from: day('Arrival'), to: day('Departure') },
      {
        storedIn: bookings,
        rules: [noOverlap(bookings, { berth: 'berth', arrives: 'from', departs: 'to' }, { interval: ['arrives', 'departs'], touching })],
      },
    );
  const stay = (from: number, to: number, berth = 'A1') => ({ berth, from: `2031-05-${from}`, to: `2031-05-${to}` });

  test('an entry of a list that is the same as an earlier one', async () => {
    const fleet = intake('fleet', { marks: list('Marks', text('Mark')) }, { rules: [unique(vessels, { mark: 'marks.*' })] });
    const verdict = await fleet.judge({ marks: ['A', 'PW-7', 'A'] }, { records });
    expect(verdict).toMatchObject({
      findings: [
        { places: [{ pointer: '/marks/1' }], facts: { takenBy: 'record' } },
        {
          places: [{ pointer: '/marks/2' }],
          facts: { takenBy: 'entry', entry: 1, sameAs: '/marks/0' },
          message: 'Mark is the same as in entry 1.',
        },
      ],
    });
    const two = intake(
      'two',
      { mark: text('Mark'), former: text('Former mark') },
      { rules: [unique(vessels, { mark: 'mark' }), unique(vessels, { mark: 'former' })] },
    );
    expect(await two.judge({ mark: 'A', former: 'A' }, { records })).toMatchObject({
      findings: [
        { places: [{ pointer: '/former' }], facts: { takenBy: 'field', sameAs: '/mark' }, message: 'Former mark is already in use.' },
      ],
    });
    expect(fleet.judgeLocally({ marks: ['A', 'B'] }).outcome).toBe('undecided');
    expect(blamesOf(fleet.judgeLocally({ marks: ['A', 'A'] }))).toEqual(['unique /marks/1']);
  });

  test.each([
    [stay(14, 15), true, false],
    [stay(13, 15), false, false],
    [stay(11, 12), false, false],
    [stay('05' as never, 20), false, false],
    [stay('08' as never, 10), true, false],
    [stay(11, 12, 'B1'), true, true],
  ])('an interval beside or over a stored one: %j', async (submission, isFree, isFreeWithoutTouching) => {
    for (const [touching, expected] of [
      ['allowed', isFree],
      ['refused', isFreeWithoutTouching],
    ] as const)
      expect((await booking(touching).judge(submission, { records: stored })).outcome).toBe(expected ? 'accepted' : 'rejected');
    expect((await booking('refused').judge(submission, { records: stored, itself: { id: 1 } })).outcome).toBe('accepted');
  });

  test('intervals of rows are held in order: the outcome is that of comparing each with all that were accepted', async () => {
    const days = fc.integer({ min: 10, max: 30 });
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(days, days, fc.constantFrom('B1', 'B2')), { maxLength: 14 }), async (stays) => {
        const rows = stays.map(([a, b, berth]) => stay(Math.min(a, b), Math.max(a, b), berth));
        const kept: typeof rows = [];
        const expected = rows.map((one) => {
          // One that ends as it begins is a moment: in the way of what it falls into, and of nothing that begins or ends there.
          const isTaken = kept.some((other) => other.berth === one.berth && other.from < one.to && other.to > one.from);
          if (!isTaken) kept.push(one);
          return isTaken ? 'rejected' : 'accepted';
        });
        const judged = await all(booking('allowed').judgeMany(rows, { records: stored, chunk: 3 }));
        expect(judged.map(({ verdict }) => verdict.outcome)).toEqual(expected);
      }),
    );
  });

  test('what has expired, by the day and by the moment; what has no limit does not', async () => {
    const vouchers = collection('vouchers', { code: text, until: maybe(day), ends: maybe(moment) }, { key: 'code' });
    const kept = memoryRecords({
      vouchers: [
        { code: 'TODAY', until: '2031-05-01', ends: '2031-05-01T10:00:00Z' },
        { code: 'PAST', until: '2031-04-30', ends: '2031-05-01T09:59:59.999Z' },
        { code: 'LATER', until: '2031-05-02', ends: '2031-05-01T10:00:00.001Z' },
        { code: 'NEVER', until: null, ends: null },
      ],
    });
    const form = (until: 'until' | 'ends') =>
      intake('form', { code: text('Voucher') }, { zone: 'Europe/Oslo', rules: [unexpired(vouchers, { code: 'code' }, { until })] });
    const options = { records: kept, now: new Date('2031-05-01T10:00:00Z') };
    const outcomes = async (until: 'until' | 'ends') =>
      Promise.all(['TODAY', 'PAST', 'LATER', 'NEVER', 'NONE'].map(async (code) => blamesOf(await form(until).judge({ code }, options))));
    expect(await outcomes('until')).toEqual([[], ['unexpired /code'], [], [], ['known /code']]);
    expect(await outcomes('ends')).toEqual([['unexpired /code'], ['unexpired /code'], [], [], ['known /code']]);
    expect(await form('until').judge({ code: 'PAST' }, options)).toMatchObject({
      findings: [{ facts: { until: '2031-04-30' }, message: 'Voucher expired after April 30, 2031.' }],
    });
  });
});

describe('allowed values in a table', () => {
  const plugs = collection('plugs', { code: text, name: text, offered: flag, marina: text }, { key: 'code' });
  const rows = [
    { code: '16A', name: 'small', offered: true, marina: 'pellwick' },
    { code: '32A', name: 'large', offered: true, marina: 'pellwick' },
    { code: '64A', name: 'huge', offered: false, marina: 'pellwick' },
    { code: '8A', name: 'tiny', offered: true, marina: 'elsewhere' },
  ];
  const order = (shows?: 'name') =>
    intake(
      'order',
      { plug: text('Plug'), marina: text('Marina').given() },
      { rules: [storedChoice(plugs, { code: 'plug' }, { only: { offered: exactly(true), marina: 'marina' }, ...(shows && { shows }) })] },
    );
  const given = { marina: 'pellwick' };

  test('only the rows that count are allowed and listed, and they are asked for only when the value is none of them', async () => {
    const store = watched(memoryRecords({ plugs: rows }));
    expect((await order().judge({ plug: '32A' }, { records: store.records, given })).outcome).toBe('accepted');
    expect(store.rounds).toHaveLength(1);
    for (const plug of ['64A', '8A', 'x'])
      expect(await order().judge({ plug }, { records: store.records, given })).toMatchObject({
        findings: [
          {
            rule: 'stored-choice',
            places: [{ pointer: '/plug' }],
            facts: { options: ['16A', '32A'] },
            message: 'Plug must be 16A or 32A.',
          },
        ],
      });
    expect(await order('name').judge({ plug: '8A' }, { records: store.records, given })).toMatchObject({
      findings: [{ message: 'Plug must be small or large.' }],
    });
  });

  test('more than twenty are not listed; nor are they when the store falls silent in between', async () => {
    const many = Array.from({ length: 21 }, (_, index) => ({ ...rows[0], code: `${index}B` }));
    const message = 'Plug must be one of those that are offered.';
    expect(await order().judge({ plug: 'x' }, { records: memoryRecords({ plugs: many }), given })).toMatchObject({
      findings: [{ message }],
    });
    let asked = 0;
    const stored = memoryRecords({ plugs: rows });
    const shaky: Records = { ask: (...question) => (asked++ === 1 ? Promise.reject(new Error('gone')) : stored.ask(...question)) };
    expect(await order().judge({ plug: 'x' }, { records: shaky, given })).toMatchObject({ outcome: 'rejected', findings: [{ message }] });
  });

  test('what contradicts itself is refused when the intake is defined', () => {
    const fields = { plug: text('Plug'), other: text('Other'), from: day('From') };
    const fault = (rule: () => unknown, sentence: string) =>
      expect(() => intake('f', fields, { rules: [rule() as never] })).toThrow(sentence);
    fault(
      () => storedChoice(plugs, { code: 'plug', name: 'other' } as never),
      'stored-choice: it compares one column, and not code and name',
    );
    fault(
      () => storedChoice(plugs, { code: 'plug' } as never, { shows: 'nam' as never }),
      'Collection "plugs" has no column "nam"; did you mean "name"?',
    );
    fault(
      () => unique(plugs, { code: 'plug' } as never, { only: { code: exactly('x') } }),
      '"code" stands among the columns compared and in "only"',
    );
    fault(
      () => unexpired(plugs, { code: 'plug' } as never, { until: 'name' }),
      'unexpired: plugs.name is text; it has to be a day or a moment.',
    );
    fault(
      () => noOverlap(plugs, { code: 'plug' } as never, { interval: ['code', 'name'] }),
      'no-overlap: "name" of the interval is not joined to a field.',
    );
    const found = rule(
      'test/found',
      { plug: text },
      {
        looksUp: { row: plugs.one({ code: 'plug' }, ['name']) },
        holds: () => true,
        message: '{row_name}',
        blames: 'plug',
      },
    );
    fault(
      () => found({ plug: 'plug' } as never, { constraint: 'x' }),
      'its message tells {row_name}, which nobody knows when the constraint "x" refuses',
    );
  });
});
