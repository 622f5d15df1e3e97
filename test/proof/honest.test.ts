import {
  allowed,
  atMost,
  between,
  choice,
  collection,
  day,
  entries,
  equals,
  exact,
  exactly,
  intake,
  list,
  maybe,
  moment,
  needed,
  noOverlap,
  notAfter,
  notBefore,
  now,
  pattern,
  rule,
  satisfiesAny,
  startsWith,
  text,
  timeOfDay,
  today,
  unique,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { prove, triedChanges } from 'jestril/proof';

// What is no proof proves nothing, and says so.

// biome-ignore lint/suspicious/noExplicitAny: what the compiler refuses, and plain JavaScript does not
const any = (value: unknown): any => value;
const form = intake('stay', { nights: whole('Nights', between(1, 28)) });
const over = rule('t/over', { n: whole }, { holds: ({ n }) => n > 1, message: '{n_value}', blames: 'n' });

test.each<[subject: unknown, sentence: string]>([
  [{}, 'A proof is about a rule or an intake'],
  [{ intak: form, accepts: [], rejects: [] }, 'and this says intak, accepts, rejects.'],
  [{ intake: form, rejects: [] }, 'A proof of "stay" needs accepts'],
  [{ intake: form, accepts: [] }, 'A proof of "stay" needs rejects'],
  [{ intake: form, accept: [], accepts: [], rejects: [] }, 'A proof has no option "accept"; did you mean "accepts"?'],
  [{ intake: form, accepts: [], rejects: [{ submission: {}, by: [] }] }, 'an empty list would reject nothing.'],
  [{ intake: form, accepts: [], rejects: [{ submission: {}, buy: ['x'] }] }, 'has no option "buy"; did you mean "by"?'],
  [{ intake: form, accepts: [], rejects: [{ by: ['x'] }] }, 'one has no submission.'],
  [{ intake: form, accepts: [], rejects: [], changes: [{ stored: {} }] }, 'each has what is stored and the change.'],
  [{ intake: {}, accepts: [], rejects: [] }, '"intake" is an object, and no intake.'],
  [{ rule: 'x' }, '"rule" is the text "x", and no rule.'],
  [{ rule: over, sample: {} }, 'A proof has no option "sample"; did you mean "samples"?'],
  [{ rule: over, samples: { hold: [] } }, 'A proof, samples has no option "hold"; did you mean "holds"?'],
])('%# is refused', async (subject, sentence) => {
  await expect(prove(any(subject))).rejects.toThrow(sentence);
});

const berths = collection('berths', { code: text, most: exact, until: maybe(day) }, { key: 'code' });
const found = rule(
  't/found',
  { berth: text, crew: entries({ born: day }), note: maybe(text) },
  {
    takes: { least: whole },
    looksUp: { row: berths.one({ code: 'berth' }, ['most', 'until']), count: berths.count({ code: 'berth' }) },
    holds: (_read, { row }) => row.most === '1',
    message: '{row_most} {least}',
    blames: 'berth',
  },
);
const good = { berth: 'A', crew: [{ born: '2031-01-01' }], least: 1, row: { most: '1' }, count: 2 };
test.each<[change: object, problem: string | undefined]>([
  [{}, undefined],
  [{ note: 'x', row: { most: '1', until: '2031-01-01' } }, undefined],
  [{ birth: 'A' }, 'the sample has a value for "birth", which is no role, look-up or parameter; did you mean "berth"?'],
  [{ berth: 7 }, 'role "berth" of the sample is the number 7, and no text'],
  [{ berth: undefined }, 'the sample has nothing for role "berth"'],
  [{ crew: [{ born: '2031-02-30' }] }, 'role "born" of entry 1 of role "crew" of the sample is the text "2031-02-30", and no day'],
  [{ crew: [{ born: '2031-01-01', name: 'x' }] }, 'entry 1 of role "crew" has "name", which is no role of it'],
  [{ crew: {} }, 'role "crew" of the sample is an object, and no list of entries'],
  [{ least: '1' }, 'parameter "least" of the sample is the text "1", and no whole'],
  [{ least: Number.NaN }, 'parameter "least" of the sample is the number NaN, and no whole'],
  [{ row: { most: '1', price: 2 } }, '"row" finds no column "price"'],
  [{ row: {} }, 'the sample has nothing for column "most" of "row"'],
  [{ row: undefined }, 'what "row" found is undefined in the sample, and no row'],
  [{ count: -1 }, 'what "count" found is the number -1 in the sample, and not a number of rows'],
])('a sample with %j', async (change, problem) => {
  const { problems } = await prove({ rule: found, samples: { holds: [{ ...good, ...change }], fails: [] } });
  expect(problems.map((each) => each.slice(each.indexOf('}: ') + 3))).toEqual(
    problem === undefined ? [] : [expect.stringContaining(problem)],
  );
});

test('facts and sentences of what fails are told', async () => {
  const broken = (more: object) =>
    rule('t/broken', { n: whole }, { holds: () => false, message: { en: '{fact}', de: '{other}' }, blames: 'n', ...more } as never);
  const problemsOf = async (more: object) =>
    (await prove({ rule: broken(more), samples: { holds: [], fails: [{ n: 1 }] } })).problems.map((each) => each.split('}: ')[1]);
  expect(await problemsOf({ facts: () => ({ fact: 1, other: 2 }) })).toEqual([]);
  expect(await problemsOf({ facts: () => ({ fact: 1 }) })).toEqual(['its message in "de" cannot be told: Nothing fills {other}.']);
  expect(await problemsOf({ facts: () => JSON.parse('{') })).toEqual([expect.stringContaining('JSON')]);
});

test('a reject beside something that is open proves nothing', async () => {
  const marks = collection('marks', { id: whole, mark: text }, { key: 'id' });
  const both = intake('both', { mark: text('Mark'), n: whole('N', atMost(3)) }, { rules: [unique(marks, { mark: 'mark' })] });
  const proof = { intake: both, accepts: [], rejects: [{ submission: { mark: 'a', n: 4 }, by: ['at-most@n'] }] };
  expect((await prove(proof)).problems).toEqual([expect.stringContaining('rejected by at-most@n, and open are unique@mark (not-asked)')]);
  expect((await prove({ ...proof, options: { records: memoryRecords({ marks: [] }) } })).problems).toEqual([]);
});

test('a gap of a rule on trial can be closed', async () => {
  const tried = intake('tried', { n: whole('N') }, { rules: [over({ n: 'n' }, { trial: true, as: 'over' })] });
  const gapsOf = async (n: number) => (await prove({ intake: tried, accepts: [{ n }], rejects: [] })).gaps;
  expect([await gapsOf(2), await gapsOf(1)]).toEqual([
    ['no submission makes over fail', 't/over has no sample that holds', 't/over has no sample that fails'].slice(0, 1),
    [],
  ]);
});

test('what is changed by way of trial', async () => {
  const stays = collection('stays', { id: whole, berth: text, from: day, to: day, state: text }, { key: 'id' });
  const every = intake(
    'every',
    {
      price: exact('Price', atMost('9.99')),
      at: moment('At', notAfter(now)),
      opens: timeOfDay('Opens', notBefore('09:30')),
      from: day('From', notBefore(today)),
      to: day('To'),
      berth: text('Berth', pattern(/^[A-Z]\d{2}$/, 'a letter and two digits')),
      pier: text('Pier', allowed(['north', 'south'])),
      name: text('Name', satisfiesAny([startsWith('a'), startsWith('b')], { message: 'x' })),
      plug: choice('Plug', ['16A', '32A']).orElse('16A'),
      tags: list('Tags', text('Tag')).orEmpty(),
      note: text('Note').orAbsent(),
    },
    {
      storedIn: stays,
      zone: 'UTC',
      rules: [
        noOverlap(stays, { berth: 'berth', from: 'from', to: 'to' }, { interval: ['from', 'to'], only: { state: exactly('open') } }),
        unique(stays, { berth: 'pier' }, { ignoringCase: ['berth'] }),
        needed('note', { when: equals({ plug: '32A' }) }),
        needed('note', { when: equals({ pier: 'south' }) }),
      ],
    },
  );
  const proof = { intake: every, accepts: [], rejects: [], options: { records: memoryRecords({ stays: [] }) } };
  const changes = (await triedChanges(proof)).map(({ what }) => what);
  expect(changes).toEqual(
    expect.arrayContaining([
      'at-most@price: max 9.99 becomes 9.98',
      'not-after@at: bound now becomes now(1)',
      'not-before@opens: bound 09:30 becomes 09:31',
      'not-before@from: bound today becomes daysFromToday(1)',
      'pattern@berth: expression /^[A-Z]\\d{2}$/ becomes /[A-Z]\\d{2}$/',
      'pattern@berth: expression /^[A-Z]\\d{2}$/ becomes /^[A-Z]\\d{3}$/',
      'allowed@pier: values [north, south] becomes [south]',
      'satisfies-any@name: parts [starts-with(a, false), starts-with(b, false)] becomes [starts-with(b, false)]',
      'plug without its option 32A',
      'plug without its default',
      'tags without its default',
      'no-overlap@berth: its look-up in stays: from below becomes notAbove',
      'no-overlap@berth: its look-up in stays does not ask about state',
      'no-overlap@berth: its look-up in stays counts the record itself',
      'unique@pier: its look-up in stays: berth ignoringCase becomes equal',
      'needed@note (rule 3) is dropped',
      'needed@note (rule 4) without its condition',
    ]),
  );
  expect(new Set(changes).size).toBe(changes.length);
});
