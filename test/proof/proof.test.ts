import {
  allOf,
  atMost,
  between,
  day,
  decimal,
  distinct,
  exact,
  fromDay,
  group,
  inOrder,
  intake,
  length,
  list,
  moment,
  needed,
  not,
  notAfter,
  notBefore,
  rule,
  same,
  text,
  timeOfDay,
  today,
  untilDay,
  upload,
  uploadSize,
  whole,
} from 'jestril';
import { prove } from 'jestril/proof';

const now = new Date('2031-05-01T10:00:00Z');
const inShort = (submission: object) => {
  const text = JSON.stringify(submission);
  return text.length > 100 ? `${text.slice(0, 100)}…` : text;
};

describe('a rule', () => {
  const atMost = (most: number, samples: { holds: number[]; fails: number[] }) => {
    const sample = (n: number) => ({ n, most });
    return rule(
      'at-most',
      { n: whole },
      {
        takes: { most: whole },
        holds: ({ n }, _found, { most }) => n <= most,
        message: '{n}',
        blames: 'n',
        samples: { holds: samples.holds.map(sample), fails: samples.fails.map(sample) },
      },
    );
  };

  test('is proved by its samples; its edge is touched from both sides', async () => {
    expect(await prove({ rule: atMost(5, { holds: [5], fails: [6] }) })).toEqual({
      subject: 'at-most',
      isProven: true,
      problems: [],
      gaps: [],
      edges: [],
    });
  });

  test('whose samples are wrong has problems', async () => {
    const { isProven, problems } = await prove({ rule: atMost(5, { holds: [6], fails: [5] }) });
    expect([isProven, problems]).toEqual([
      false,
      [
        'at-most holds for {"n":6,"most":5}: expected it to hold, got that it fails',
        'at-most fails for {"n":5,"most":5}: expected it to fail, got that it holds',
      ],
    ]);
  });

  test('has gaps where a side has no sample, or an edge is not touched', async () => {
    expect((await prove({ rule: atMost(5, { holds: [1], fails: [] }) })).gaps).toEqual([
      'at-most has no sample that fails',
      'no sample of at-most tells most from most less one',
      'no sample of at-most tells most from most plus one',
    ]);
  });

  test('that throws, or asks outside, is proved all the same', async () => {
    const thrown = rule(
      'thrown',
      { n: whole },
      { holds: () => JSON.parse('{'), message: '{n}', blames: 'n', samples: { holds: [{ n: 1 }], fails: [] } },
    );
    expect((await prove({ rule: thrown })).problems).toEqual([expect.stringMatching(/^thrown holds for \{"n":1\}: /)]);
    const asked = rule(
      'asked',
      { n: whole },
      { asks: async ({ n }) => n > 1, within: 5, message: '{n}', blames: 'n', samples: { holds: [{ n: 2 }], fails: [{ n: 1 }] } },
    );
    expect(await prove({ rule: asked })).toMatchObject({ isProven: true, gaps: [] });
  });

  test.each([same, inOrder])('$id of the library is proved', async (ready) => {
    expect(await prove({ rule: ready })).toMatchObject({ isProven: true, gaps: [] });
  });
});

describe('an intake', () => {
  const form = intake(
    'stay',
    {
      name: text('Name', length({ max: 3 })),
      nights: whole('Nights', between(1, 28)),
      depth: decimal('Depth', between(0.5, 2)),
      from: day('From', notBefore(today)),
      to: day('To'),
      crew: list('Crew', text('Name'), length({ min: 1 })).orEmpty(),
    },
    { zone: 'UTC', rules: [inOrder({ earlier: 'from', later: 'to' }, { as: 'order' })] },
  );
  const good = { name: 'Ida', nights: 1, depth: 1, from: '2031-05-01', to: '2031-05-02', crew: ['Ida'] };

  test('is proved by submissions that it accepts, and rejects by certain uses and no others', async () => {
    const subject = {
      intake: form,
      options: { now },
      accepts: [good, { ...good, name: 'long' }],
      rejects: [
        { submission: { ...good, to: good.from }, by: ['order'] },
        { submission: good, by: ['length@name'] },
        { submission: { ...good, nights: 0, name: 'long' }, by: ['length@name'] },
      ],
    };
    const { isProven, problems, gaps } = await prove(subject);
    expect(isProven).toBe(false);
    expect(problems).toEqual([
      'accepts submission 2: expected accepted, got rejected by length@name\n    /name: Name must have at most 3 characters.',
      `rejects by length@name: ${inShort(good)}: expected rejected by length@name, got accepted`,
      `rejects by length@name: ${inShort({ ...good, nights: 0, name: 'long' })}: expected rejected by length@name, got rejected by between@nights, length@name\n    /name: Name must have at most 3 characters.\n    /nights: Nights must be from 1 to 28.`,
    ]);
    // The bounds of the fields are tried by the edges made for them.
    expect(gaps).toEqual([]);
    expect((await prove({ ...subject, rejects: [] })).gaps).toEqual(['no submission makes order fail']);
  });

  test('is proved by changes, and on both sides of each day on which a condition turns', async () => {
    const stay = intake(
      'stay',
      { name: text('Name', length({ max: 3 })), to: day('To'), power: text('Power').orAbsent() },
      {
        zone: 'Pacific/Kiritimati',
        rules: [
          needed('power', { when: fromDay('2032-01-01'), as: 'powered' }),
          needed('power', { when: not(untilDay('2033-12-31')), as: 'later' }),
        ],
      },
    );
    const stored = { name: 'far too long', to: '2031-05-01', power: null };
    const subject = {
      intake: stay,
      options: { now },
      accepts: [{ name: 'Ida', to: '2031-05-01' }],
      rejects: [],
      changes: [
        { stored, change: { to: '2031-05-02' } },
        { stored, change: { name: 'long' }, by: ['length@name'] },
        { stored, change: { name: 'Bo' }, by: ['length@name'] },
        { stored: { name: 'x' }, change: { to: null }, by: ['needed@to'], options: { whole: false } },
      ],
    };
    expect((await prove(subject)).problems).toEqual(['refuses change 3 by length@name: expected rejected by length@name, got accepted']);
    expect((await prove({ ...subject, accepts: [], changes: [] })).isProven).toBe(true);
    const never = intake(
      'never',
      { name: text('Name') },
      { zone: 'UTC', rules: [needed('name', { when: allOf(fromDay('2032-01-01'), untilDay('2031-01-01')) })] },
    );
    expect((await prove({ intake: never, options: { now }, accepts: [{ name: 'x' }], rejects: [] })).problems).toEqual([
      'needed@name is judged on both sides of 2032-01-01: expected it to turn on that day, got skipped (condition) on both',
      'needed@name is judged on both sides of 2031-01-02: expected it to turn on that day, got skipped (condition) on both',
    ]);
  });

  test('has edges for exact decimals, moments, times of day, files, and lists of groups', async () => {
    const every = intake('every', {
      price: exact('Price', { places: 2 }, atMost('9.995')),
      at: moment('At', notAfter('2031-05-01T10:00:00Z')),
      opens: timeOfDay('Opens', notBefore('09:30')),
      late: timeOfDay('Late', notAfter('23:59')),
      paper: upload('Paper', uploadSize({ max: 3 })),
      crew: list('Crew', group('Member', { name: text('Name') }), length({ max: 1 }), distinct({ by: 'name' })),
    });
    const { edges, gaps } = await prove({ intake: every, options: { now }, accepts: [], rejects: [] });
    expect(edges.map(({ field, value, holds }) => `${field} ${value}: ${holds}`)).toEqual([
      'price "9.994": true',
      'price "9.995": true',
      'price "9.996": false',
      'at "2031-05-01T09:59:59.999Z": true',
      'at "2031-05-01T10:00:00.000Z": true',
      'at "2031-05-01T10:00:00.001Z": false',
      'opens "09:29": false',
      'opens "09:30": true',
      'opens "09:31": true',
      'late "23:58": true',
      'late "23:59": true',
      'paper 0 bytes: false',
      'paper 1 bytes: true',
      'paper 2 bytes: true',
      'paper 3 bytes: true',
      'paper 4 bytes: false',
      'crew 0 entries: true',
      'crew 1 entries: true',
      'crew 2 entries: false',
    ]);
    expect(gaps).toEqual(['no submission makes not-after@late fail', 'no submission makes distinct@crew fail']);
  });

  test('is tried at the edges of its bounds', async () => {
    const { edges } = await prove({ intake: form, options: { now }, accepts: [], rejects: [] });
    const told = edges.map(({ field, value, holds, fails }) => `${field} ${value}: ${holds ? 'holds' : fails.join()}`);
    expect(told).toEqual([
      'name "xx": holds',
      'name "xxx": holds',
      'name "xxxx": length@name',
      'name "": blank@name',
      'name " ": blank@name',
      'nights 0: between@nights',
      'nights 1: holds',
      'nights 2: holds',
      'nights 27: holds',
      'nights 28: holds',
      'nights 29: between@nights',
      'depth 0.49: between@depth',
      'depth 0.5: holds',
      'depth 0.51: holds',
      'depth 1.99: holds',
      'depth 2: holds',
      'depth 2.01: between@depth',
      'from "2031-04-30": not-before@from',
      'from "2031-05-01": holds',
      'from "2031-05-02": holds',
      'crew 0 entries: length@crew',
      'crew 1 entries: holds',
      'crew 2 entries: holds',
    ]);
  });
});
