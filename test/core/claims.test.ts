import fc from 'fast-check';
import {
  choice,
  collection,
  day,
  equals,
  exactly,
  flag,
  group,
  type Intake,
  intake,
  list,
  maybe,
  noOverlap,
  type Records,
  text,
  unique,
  type Verdict,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { AskedClaims } from '../../src/cli/claims/asking.ts';
import { ClaimBook } from '../../src/cli/claims/claim-book.ts';
import { newSeed } from '../../src/cli/claims/fingerprint.ts';
import { blamesOf, messagesOf } from '../support/judging.ts';

// What rows of one import and entries of one list claim: what will be stored, whichever rule was asked of them.

async function all<T>(rows: AsyncIterable<T>): Promise<T[]> {
  const list: T[] = [];
  for await (const row of rows) list.push(row);
  return list;
}

const members = collection(
  'members',
  { id: whole, email: text, house: whole, state: text, login: flag, from: day, to: maybe(day) },
  { key: 'id' },
);
const none = memoryRecords({ members: [] });
const fields = {
  email: text('E-mail'),
  other: text('Other').orAbsent(),
  house: whole('House').orElse(1),
  state: choice('State', ['draft', 'open']).orElse('open'),
  login: flag('Login').orElse(true),
};
const ofAll = (rows: readonly unknown[], rules: readonly unknown[], more: object = {}) => {
  const form = intake('member', fields, { storedIn: members, rules: rules as never });
  return all(form.judgeMany(rows, { records: none, ...more })).then((judged) => judged.map(({ verdict }) => verdict));
};
const told = (verdicts: readonly Verdict<unknown>[]) =>
  verdicts.map((verdict) => (verdict.outcome === 'rejected' ? blamesOf(verdict).join() : verdict.outcome));

const mail = { email: 'email' } as const;
const login = { when: equals({ login: true } as never) };
test.each<[what: string, rules: readonly unknown[], rows: readonly object[], outcomes: readonly string[]]>([
  [
    'of a row whose condition does not hold',
    [unique(members, mail as never, login as never)],
    [
      { email: 'a', login: false },
      { email: 'a', login: true },
      { email: 'a', login: false },
    ],
    ['accepted', 'unique /email', 'accepted'],
  ],
  [
    'of a row on another occasion than the rule’s',
    [unique(members, mail as never, { on: 'amend' } as never), unique(members, { email: 'other' } as never)],
    [{ email: 'a' }, { email: 'b', other: 'a' }],
    ['accepted', 'unique /other'],
  ],
  [
    'between two rules on one column',
    [unique(members, mail as never), unique(members, { email: 'other' } as never, { ignoringCase: ['email'] } as never)],
    [{ email: 'A' }, { email: 'b', other: 'a' }, { email: 'A', other: 'c' }],
    ['accepted', 'unique /other', 'unique /email'],
  ],
  [
    'of more columns than another rule asks with',
    [
      unique(members, mail as never, { when: equals({ house: 2 } as never) } as never),
      unique(members, { email: 'email', house: 'house' } as never),
    ],
    [
      { email: 'a', house: 1 },
      { email: 'a', house: 3 },
      { email: 'a', house: 2 },
    ],
    ['accepted', 'accepted', 'unique /email'],
  ],
  [
    'only where the row will count',
    [unique(members, mail as never, { only: { state: exactly('open') } } as never)],
    [
      { email: 'a', state: 'draft' },
      { email: 'a', state: 'draft' },
      { email: 'a', state: 'open' },
      { email: 'a', state: 'draft' },
    ],
    ['accepted', 'accepted', 'accepted', 'unique /email'],
  ],
])('%s', async (_what, rules, rows, outcomes) => {
  expect(told(await ofAll(rows, rules))).toEqual(outcomes);
});

test('entries of one list likewise', async () => {
  const entry = group('Member', { email: text('E-mail'), login: flag('Login'), state: choice('State', ['draft', 'open']).orElse('open') });
  const form = intake(
    'house',
    { members: list('Members', entry) },
    {
      rules: [
        unique(members, { email: 'members.*.email' }, { when: equals({ 'members.*.login': true }), only: { state: exactly('open') } }),
      ],
    },
  );
  const judge = async (...rows: object[]) => blamesOf(await form.judge({ members: rows }, { records: none }));
  expect(await judge({ email: 'a', login: false }, { email: 'a', login: true })).toEqual(['unique /members/1/email']);
  expect(await judge({ email: 'a', login: true }, { email: 'a', login: false })).toEqual([]);
  expect(await judge({ email: 'a', login: false, state: 'draft' }, { email: 'a', login: true })).toEqual([]);
});

test('rows that are marked as gone are not there, when the row says so itself', async () => {
  const kept = collection('kept', { id: whole, email: text, gone: maybe(day) }, { key: 'id', only: { gone: exactly(null) } });
  const form = intake(
    'kept',
    { email: text('E-mail'), gone: day('Gone').orAbsent() },
    { storedIn: kept, rules: [unique(kept, { email: 'email' })] },
  );
  const rows = [{ email: 'a', gone: '2031-05-01' }, { email: 'a' }, { email: 'a' }];
  const judged = await all(form.judgeMany(rows, { records: memoryRecords({ kept: [] }) }));
  expect(told(judged.map(({ verdict }) => verdict))).toEqual(['accepted', 'accepted', 'unique /email']);
});

describe('whose claim it was', () => {
  const rule = [unique(members, mail as never)];

  test('a row that was not accepted itself', async () => {
    const verdicts = await ofAll([{ email: 'a', house: 'x' }, { email: 'a' }, { email: 'b' }, { email: 'b' }], rule);
    expect(verdicts.slice(1).map(messagesOf)).toEqual([
      ['E-mail is also used in row 1, which was not accepted.'],
      [],
      ['E-mail is already used in row 3.'],
    ]);
    expect(verdicts[1]).toMatchObject({ findings: [{ facts: { takenBy: 'refusedRow', row: 1 } }] });
  });

  test('behind one that is not decided nothing is decided', async () => {
    let asked = 0;
    const shaky: Records = { ask: (...all) => (asked++ === 0 ? Promise.reject(new Error('gone')) : none.ask(...all)) };
    const verdicts = await ofAll([{ email: 'a' }, { email: 'a' }, { email: 'a' }, { email: 'b' }], rule, { records: shaky, chunk: 1 });
    expect(verdicts.map(({ outcome }) => outcome)).toEqual(['undecided', 'undecided', 'undecided', 'accepted']);
    expect(verdicts[1]).toMatchObject({ unsettled: [{ use: 'unique@email', why: 'row-undecided' }] });
  });

  test.each(['given', 'itself'])('a row of which the application fails to say what is %s has what it claims', async (option) => {
    const rows = [{ email: 'a' }, { email: 'b' }, { email: 'b' }, { email: 'c' }, { email: 'a' }];
    const fails = (row: unknown) => {
      if (row === rows[1]) throw new Error('not now');
      return option === 'given' ? {} : undefined;
    };
    for (const more of [{}, { chunk: 1 }, { records: undefined }]) {
      const verdicts = await ofAll(rows, rule, { [option]: fails, ...more });
      expect(verdicts.map(({ outcome }) => outcome).slice(1, 3)).toEqual(['undecided', 'undecided']);
      expect(verdicts[2]?.unsettled.map(({ why }) => why)).toEqual(['row-undecided']);
    }
  });

  test('what the store has is blamed on the store', async () => {
    const records = memoryRecords({ members: [{ id: 1, email: 'a' }] });
    const verdicts = await ofAll([{ email: 'a' }, { email: 'a' }], rule, { records });
    expect(verdicts.map(messagesOf)).toEqual([['E-mail is already in use.'], ['E-mail is already in use.']]);
  });

  test('a record that is renewed twice is not in its own way, and in that of others', async () => {
    const nights = [
      noOverlap(members, { house: 'house', from: 'from', to: 'to' } as never, { interval: ['from', 'to'] } as never),
      unique(members, mail as never),
    ];
    const form = intake('member', { ...fields, id: whole('Id'), from: day('From'), to: day('To').orAbsent() }, {
      storedIn: members,
      rules: nights as never,
    } as never) as unknown as Intake<{}, { id: number }>;
    const stay = (id: number, from: number, to: number, email = `${id}`) => ({ id, email, from: `2031-05-0${from}`, to: `2031-05-0${to}` });
    const rows = [stay(1, 1, 3), stay(1, 2, 5), stay(2, 4, 6), stay(2, 5, 9, '1'), stay(3, 7, 9), stay(1, 1, 2)];
    const itself = (row: unknown) => ({ id: (row as { id: number }).id });
    const judged = await all(form.judgeMany(rows, { records: none, itself }));
    expect(told(judged.map(({ verdict }) => verdict))).toEqual([
      'accepted',
      'accepted',
      'no-overlap /house /from /to',
      'unique /email',
      'no-overlap /house /from /to',
      'accepted',
    ]);
  });
});

// The law: what is accepted is stored one by one, and each is judged again before it is.
const options = fc.record({
  isWhen: fc.boolean(),
  on: fc.constantFrom(undefined, 'create', 'amend'),
  only: fc.constantFrom(undefined, 'open', null),
  ignoringCase: fc.boolean(),
  trial: fc.boolean(),
  what: fc.constantFrom('email', 'other', 'both', 'interval'),
});
const date = fc.integer({ min: 1, max: 5 }).map((number) => `2031-05-0${number}`);
const row = fc.record(
  {
    email: fc.constantFrom('a', 'A', 'b'),
    other: fc.constantFrom('a', 'b'),
    house: fc.constantFrom(1, 2),
    state: fc.constantFrom('open', 'draft'),
    login: fc.boolean(),
    from: date,
    to: date,
    n: fc.constantFrom(1, 1, 1, 'x'),
  },
  { requiredKeys: ['email', 'house', 'from', 'n'] },
);
const lawful = {
  ...fields,
  state: choice('State', ['draft', 'open']).orAbsent(),
  from: day('From'),
  to: day('To').orAbsent(),
  n: whole('N'),
};

test('what is accepted, stored one by one and judged again, is accepted', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(options, { minLength: 1, maxLength: 3 }),
      fc.array(fc.record({ row, id: fc.constantFrom(undefined, 1, 2) }), { maxLength: 8 }),
      fc.constantFrom(1, 3, 100),
      async (uses, rows, chunk) => {
        const rules = uses.map(({ isWhen, on, only, ignoringCase, trial, what }, at) => {
          const columns = {
            email: { email: 'email' },
            other: { email: 'other' },
            both: { email: 'email', house: 'house' },
            interval: { house: 'house', from: 'from', to: 'to' },
          }[what];
          const use = {
            as: `use${at}`,
            ...(isWhen && login),
            ...(on && { on }),
            ...(trial && { trial }),
            ...(only !== undefined && { only: { state: exactly(only) } }),
            ...(ignoringCase && what !== 'interval' && { ignoringCase: ['email'] }),
            ...(what === 'interval' && { interval: ['from', 'to'] }),
          };
          return what === 'interval' ? noOverlap(members, columns as never, use as never) : unique(members, columns as never, use as never);
        });
        const form = intake('member', lawful, { storedIn: members, rules: rules as never }) as unknown as Intake<{}, { id: number }>;
        const idOf = new Map<unknown, number>(rows.flatMap(({ row: each, id }) => (id === undefined ? [] : [[each, id]])));
        const judged = await all(
          form.judgeMany(
            rows.map((each) => each.row),
            {
              records: none,
              chunk,
              itself: (each) => (idOf.has(each) ? { id: idOf.get(each) as number } : undefined),
            },
          ),
        );
        if (idOf.size === 0) {
          // As an import judges rows: by whoever knows of all rows what they claim, and of none what became of it.
          const apart = new AskedClaims(newSeed(), new ClaimBook());
          const submissions = rows.map((each) => each.row);
          const others = await all(form.judgeMany(submissions, { records: none, chunk, apart } as never));
          expect(others.map(({ verdict }) => verdict.outcome)).toEqual(judged.map(({ verdict }) => verdict.outcome));
        }
        const stored: { id: number }[] = [];
        let next = 100;
        for (const { submission, verdict } of judged) {
          if (verdict.outcome !== 'accepted') continue;
          const id = idOf.get(submission);
          const again = await form.judge(submission, {
            records: memoryRecords({ members: stored as never }),
            ...(id !== undefined && { itself: { id } }),
          });
          expect(again.outcome).toBe('accepted');
          const value = verdict.value as object;
          const own = id ?? next++;
          for (const each of stored.filter((each) => each.id === own)) stored.splice(stored.indexOf(each), 1);
          stored.push({ to: null, state: null, ...value, id: own } as never);
          // A row may be stored by its other address as well.
          if ('other' in value && uses.some(({ what, trial }) => what === 'other' && !trial))
            stored.push({ to: null, state: null, ...value, email: value.other, id: own, from: '2000-01-01', house: -own } as never);
        }
      },
    ),
    { numRuns: Number(process.env.JESTRIL_RANDOM ?? 300) },
  );
});

test('what is accepted of entries, stored one by one and judged again, is accepted', async () => {
  const entry = group('Member', { email: text('E-mail'), login: flag('Login'), state: choice('State', ['draft', 'open']) });
  const one = fc.record({ email: fc.constantFrom('a', 'A', 'b'), login: fc.boolean(), state: fc.constantFrom('open', 'draft') });
  await fc.assert(
    fc.asyncProperty(fc.array(one, { maxLength: 4 }), options, async (entries, { isWhen, only, ignoringCase }) => {
      const form = intake(
        'house',
        { members: list('Members', entry) },
        {
          rules: [
            unique(
              members,
              { email: 'members.*.email' } as never,
              {
                ...(isWhen && { when: equals({ 'members.*.login': true } as never) }),
                ...(only !== undefined && { only: { state: exactly(only) } }),
                ...(ignoringCase && { ignoringCase: ['email'] }),
              } as never,
            ),
          ],
        },
      );
      if ((await form.judge({ members: entries }, { records: none })).outcome !== 'accepted') return;
      for (const [at, each] of entries.entries()) {
        const stored = entries.slice(0, at).map((before, id) => ({ ...before, id }));
        const again = await form.judge({ members: [each] }, { records: memoryRecords({ members: stored }) });
        expect(again.outcome).toBe('accepted');
      }
    }),
    { numRuns: Number(process.env.JESTRIL_RANDOM ?? 300) },
  );
});
