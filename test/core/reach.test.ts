import {
  among,
  choice,
  collection,
  countBy,
  day,
  entries,
  group,
  inSame,
  inThis,
  intake,
  list,
  moment,
  rule,
  same,
  sumBy,
  text,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { blamesOf, watched } from '../support/judging.ts';

// What a rule can reach: the list in which an entry stands, the last rows of many, the month of a day.

// biome-ignore lint/suspicious/noExplicitAny: what the compiler refuses, and plain JavaScript does not
const any = (value: unknown): any => value;

describe('all entries of the list in which an entry stands', () => {
  test('a parent is among them', () => {
    const tree = intake(
      'tree',
      { nodes: list('Nodes', group('Node', { id: text('Id'), parent: text('Parent').orAbsent() })) },
      { rules: [among({ value: 'nodes.*.parent', those: 'nodes.*.id' })] },
    );
    const judge = (...nodes: object[]) => blamesOf(tree.judgeLocally({ nodes }));
    expect(judge({ id: 'a' }, { id: 'b', parent: 'a' }, { id: 'c', parent: 'b' })).toEqual([]);
    expect(judge({ id: 'a', parent: 'z' }, { id: 'b', parent: 'a' })).toEqual(['among /nodes/0/parent']);
  });

  test('the lines of one article together do not exceed the stock', async () => {
    const stock = collection('stock', { article: text, pieces: whole }, { key: 'article' });
    const inStock = rule(
      't/in-stock',
      { article: text, lines: entries({ article: text, pieces: whole }) },
      {
        looksUp: { held: stock.one({ article: 'article' }, ['pieces']) },
        holds: ({ article, lines }, { held }) => (sumBy(lines, 'article', 'pieces').get(article) ?? 0) <= held.pieces,
        message: 'There are {held_pieces, number} pieces of {article_value}.',
        blames: 'article',
      },
    );
    const order = intake(
      'order',
      { lines: list('Lines', group('Line', { article: text('Article'), pieces: whole('Pieces') })) },
      { rules: [inStock({ article: 'lines.*.article', lines: { article: 'lines.*.article', pieces: 'lines.*.pieces' } })] },
    );
    const records = memoryRecords({
      stock: [
        { article: 'rope', pieces: 5 },
        { article: 'buoy', pieces: 9 },
      ],
    });
    const judge = async (...lines: [string, number][]) =>
      blamesOf(await order.judge({ lines: lines.map(([article, pieces]) => ({ article, pieces })) }, { records }));
    expect(await judge(['rope', 3], ['buoy', 9], ['rope', 2])).toEqual([]);
    expect(await judge(['rope', 3], ['buoy', 1], ['rope', 3])).toEqual(['t/in-stock /lines/0/article', 't/in-stock /lines/2/article']);
  });

  test('each list by itself; what fails among them is blamed by its place', () => {
    const first = rule(
      't/first',
      { mine: whole, those: entries({ n: whole }) },
      { failing: ({ mine, those }) => those.flatMap(({ n }, at) => (n < mine ? [at] : [])), message: 'x', blames: 'those' },
    );
    const form = intake(
      'form',
      { boxes: list('Boxes', group('Box', { items: list('Items', group('Item', { n: whole('N') })) })) },
      { rules: [first({ mine: 'boxes.*.items.*.n', those: { n: 'boxes.*.items.*.n' } })] },
    );
    const boxes = [[1, 2], [5], [4, 3]].map((items) => ({ items: items.map((n) => ({ n })) }));
    expect(blamesOf(form.judgeLocally({ boxes }))).toEqual(['t/first /boxes/0/items/0/n', 't/first /boxes/2/items/1/n']);
  });

  test('a change to one entry brings up the others', async () => {
    const tree = intake(
      'tree',
      { nodes: list('Nodes', group('Node', { id: text('Id'), parent: text('Parent').orAbsent() })) },
      { rules: [among({ value: 'nodes.*.parent', those: 'nodes.*.id' })] },
    );
    const stored = { nodes: [{ id: 'a' }, { id: 'b', parent: 'a' }] };
    const changed = await tree.amend(any(stored), { nodes: [{ id: 'c' }, { id: 'b', parent: 'a' }] });
    expect(blamesOf(changed)).toEqual(['among /nodes/1/parent']);
  });

  test('sums and counts by key', () => {
    const lines = [
      { of: 'a', n: 1, price: '0.1' },
      { of: 'b', n: 2 },
      { of: 'a', n: 3, price: '0.2' },
    ] as const;
    expect([...sumBy(lines, 'of', 'n')]).toEqual([
      ['a', 4],
      ['b', 2],
    ]);
    expect([...sumBy([...lines.slice(0, 1), ...lines.slice(2)] as { of: string; price: string }[], 'of', 'price')]).toEqual([['a', '0.3']]);
    const prices = [{ of: 'a' }, { of: 'b', price: '1' }, { of: 'b' }] as { of: string; price?: string }[];
    expect([...sumBy(prices, 'of', 'price')]).toEqual([['b', '1']]);
    expect([...countBy(lines, 'of')]).toEqual([
      ['a', 2],
      ['b', 1],
    ]);
  });
});

test('the first rows in an order', async () => {
  const hashes = collection('hashes', { id: whole, owner: text, hash: text, at: moment }, { key: 'id', secret: ['hash'] });
  const unlike = rule(
    't/unlike',
    { owner: text, pass: text },
    {
      looksUp: { last: hashes.firstRows({ owner: 'owner' }, ['hash'], { highest: 'at', most: 2 }) },
      holds: ({ pass }, { last }) => last.every(({ hash }) => hash !== `#${pass}`),
      message: 'x',
      blames: 'pass',
    },
  );
  const form = intake(
    'form',
    { owner: text('Owner'), pass: text('Passphrase').secret() },
    { rules: [unlike({ owner: 'owner', pass: 'pass' })] },
  );
  const rows = [1, 2, 3].map((id) => ({ id, owner: 'ida', hash: `#p${id}`, at: `2031-05-0${id}T00:00:00Z` }));
  const store = watched(memoryRecords({ hashes: rows }));
  const judge = async (pass: string) => blamesOf(await form.judge({ owner: 'ida', pass }, { records: store.records }));
  expect([await judge('p1'), await judge('p2'), await judge('p3')]).toEqual([[], ['t/unlike /pass'], ['t/unlike /pass']]);
  expect(store.rounds[0]).toMatchObject([
    {
      most: 2,
      order: [
        { column: 'at', from: 'highest' },
        { column: 'id', from: 'lowest' },
      ],
    },
  ]);
  expect(() => hashes.firstRows({ owner: 'owner' } as never, ['hash'], any({ highest: 'at' }))).toThrow('firstRows needs most');
});

describe('stretches of the calendar', () => {
  const stays = collection('stays', { id: whole, owner: text, arrives: day, made: moment }, { key: 'id' });
  const quota = (name: string, where: object) =>
    rule(
      name,
      { owner: text, day },
      {
        looksUp: { count: stays.count(any(where)) },
        holds: (_read, { count }) => any(count) < 1,
        message: 'x',
        blames: 'day',
      },
    );
  const judge = async (where: object, rows: readonly object[], on: string, now = '2031-03-15T12:00:00Z') => {
    const form = intake(
      'form',
      { owner: text('Owner'), on: day('On') },
      { zone: 'Europe/Oslo', rules: [quota('t/quota', where)({ owner: 'owner', day: 'on' })] },
    );
    const stored = rows.map((row, id) => ({ id, owner: 'ida', arrives: '2000-01-01', made: '2000-01-01T00:00:00Z', ...row }));
    return (await form.judge({ owner: 'ida', on }, { records: memoryRecords({ stays: stored }), now: new Date(now) })).outcome;
  };
  test.each<[unit: 'day' | 'week' | 'month' | 'year', on: string, arrives: string, isIn: boolean]>([
    ['month', '2031-02-14', '2031-02-01', true],
    ['month', '2031-02-14', '2031-02-28', true],
    ['month', '2031-02-14', '2031-03-01', false],
    ['month', '2031-01-31', '2031-02-01', false],
    ['month', '2031-12-31', '2032-01-01', false],
    ['week', '2031-05-01', '2031-04-28', true],
    ['week', '2031-05-01', '2031-05-04', true],
    ['week', '2031-05-01', '2031-05-05', false],
    ['day', '2031-05-01', '2031-05-01', true],
    ['day', '2031-05-01', '2031-05-02', false],
    ['year', '2032-02-29', '2032-01-01', true],
    ['year', '2032-02-29', '2031-12-31', false],
  ])('the %s of %s: %s', async (unit, on, arrives, isIn) => {
    const outcome = await judge({ owner: 'owner', arrives: inSame(unit, 'day') }, [{ arrives }], on);
    expect(outcome).toBe(isIn ? 'rejected' : 'accepted');
  });
  test('moments are taken in the zone of the intake, on the day on which clocks are put, too', async () => {
    const made = (moment: string, now: string) => judge({ owner: 'owner', made: inThis('day') }, [{ made: moment }], '2031-05-01', now);
    // In Oslo 30 March 2031 has 23 hours, from 23:00 of the day before in UTC to 22:00.
    const noon = '2031-03-30T12:00:00Z';
    expect(await made('2031-03-29T22:59:59.999Z', noon)).toBe('accepted');
    expect(await made('2031-03-29T23:00:00.000Z', noon)).toBe('rejected');
    expect(await made('2031-03-30T21:59:59.999Z', noon)).toBe('rejected');
    expect(await made('2031-03-30T22:00:00.000Z', noon)).toBe('accepted');
  });
  test.each(
    (['day', 'week', 'month', 'year'] as const).flatMap((unit) =>
      ['arrives', 'made'].flatMap((column) => ['0000-01-01', '9999-12-31'].map((on) => [unit, column, on] as const)),
    ),
  )('a %s of %s that reaches beyond the days that there are (%s) leaves the rule open, and throws nothing', async (unit, column, on) => {
    const outcome = await judge({ owner: 'owner', [column]: inSame(unit, 'day') }, [{ arrives: on }], on);
    const isBeyond = on === '9999-12-31' || unit === 'week';
    expect(outcome).toBe(isBeyond ? 'undecided' : column === 'arrives' ? 'rejected' : 'accepted');
  });
  test('what cannot be is refused where it is written', () => {
    expect(() => stays.count(any({ arrives: inThis(any('decade')) }))).toThrow('there are: day, week, month, year.');
    expect(() => quota('t/x', { owner: inThis('month') })).toThrow('column "owner" is text; only a day or a moment');
    expect(() => quota('t/x', { arrives: inSame('month', 'owner') })).toThrow(
      'a stretch of the calendar is that of a day, and role "owner" is text.',
    );
    const bound = quota('t/x', { arrives: inThis('month') })({ owner: any('owner'), day: any('on') });
    expect(() => intake('i', { owner: text('O'), on: day('On') }, { rules: [bound] })).toThrow(
      'asks about the calendar, and the intake has no time zone',
    );
  });
});

test('a choice of texts fits the roles and columns of texts', async () => {
  const berths = collection('berths', { code: text, pier: text }, { key: 'code' });
  const short = rule('t/short', { pier: text }, { holds: ({ pier }) => pier.length < 6, message: 'x', blames: 'pier' });
  const form = intake(
    'form',
    { pier: choice('Pier', ['north', 'outer-west']), again: text('Again'), size: choice('Size', [1, 2]) },
    { rules: [short({ pier: 'pier' }), same({ first: 'pier', second: 'again' }), unique(berths, { pier: 'pier' })] },
  );
  const records = memoryRecords({ berths: [{ code: 'A', pier: 'north' }] });
  expect(blamesOf(await form.judge({ pier: 'outer-west', again: 'x', size: 1 }, { records }))).toEqual(['t/short /pier', 'same /again']);
  expect(blamesOf(await form.judge({ pier: 'north', again: 'north', size: 1 }, { records }))).toEqual(['unique /pier']);
  expect(() => intake('i', { size: choice('Size', [1, 2]) }, { rules: [short({ pier: any('size') })] })).toThrow(
    'reads text, and "size" is choice',
  );
  expect(() => any(choice('Pier', ['north'])).blankAllowed()).toThrow('only text can be allowed to be blank');
});
