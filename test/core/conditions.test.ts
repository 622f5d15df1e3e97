import {
  absent,
  allOf,
  anyOf,
  choice,
  condition,
  day,
  equals,
  flag,
  group,
  inOrder,
  intake,
  list,
  needed,
  not,
  occasionIs,
  oneOfShapes,
  rule,
  shape,
  text,
  when,
  whole,
} from 'jestril';
import { blamesOf, rulesOf } from '../support/judging.ts';

const isLong = condition('is-long', { size: whole }, { holds: ({ size }) => size > 10 });
const broken = condition('broken', { size: whole }, { holds: () => 'yes' as never });
const fields = {
  size: whole('Size').orAbsent(),
  power: choice('Power', ['none', '16A', '32A']).orAbsent(),
  note: text('Note').orAbsent(),
  crew: list('Crew', text('Name')).orAbsent(),
};
const long = isLong<typeof fields>({ size: 'size' });
const wired = equals<typeof fields>({ power: ['16A', '32A'] });

describe('a guarded rule', () => {
  const table: [what: string, guard: Parameters<typeof when<typeof fields>>[0], cases: [submission: object, blames: string[]][]][] = [
    [
      'condition',
      long,
      [
        [{ size: 11 }, ['needed']],
        [{ size: 10 }, []],
        [{}, []],
        [{ size: 'x' }, ['readable']],
      ],
    ],
    [
      'not',
      not(long),
      [
        [{ size: 11 }, []],
        [{ size: 10 }, ['needed']],
        [{}, []],
        [{ size: 'x' }, ['readable']],
      ],
    ],
    [
      'equals one of',
      wired,
      [
        [{ power: '16A' }, ['needed']],
        [{ power: 'none' }, []],
        [{}, []],
      ],
    ],
    [
      'equals two',
      equals<typeof fields>({ power: '16A', size: 3 }),
      [
        [{ power: '16A', size: 3 }, ['needed']],
        [{ power: '16A', size: 4 }, []],
        [{ power: '16A' }, []],
      ],
    ],
    [
      'all of',
      allOf(long, wired),
      [
        [{ size: 11, power: '16A' }, ['needed']],
        [{ size: 1, power: '16A' }, []],
        [{ size: 11 }, []],
      ],
    ],
    [
      'any of',
      anyOf(long, wired),
      [
        [{ size: 11, power: 'none' }, ['needed']],
        [{ size: 11 }, ['needed']],
        [{ size: 1, power: 'none' }, []],
        [{ size: 1 }, []],
      ],
    ],
    [
      'not all of',
      not(allOf(long, wired)),
      [
        [{ size: 1 }, ['needed']],
        [{ size: 11 }, []],
      ],
    ],
    ['occasion', occasionIs('amend'), [[{}, []]]],
  ];
  test.each(table)('%s', (_what, guard, cases) => {
    const form = intake('form', fields, { rules: [when(guard, [needed('note')])] });
    for (const [submission, rules] of cases) expect([submission, rulesOf(form.judgeLocally(submission))]).toEqual([submission, rules]);
  });
});

test('otherwise-rules run where the condition does not hold, nested guards where all hold', () => {
  const form = intake('form', fields, { rules: [when(long, [when(wired, [needed('note')])], [needed('crew')])] });
  expect(blamesOf(form.judgeLocally({ size: 11, power: '16A' }))).toEqual(['needed /note']);
  expect(blamesOf(form.judgeLocally({ size: 11, power: 'none' }))).toEqual([]);
  expect(blamesOf(form.judgeLocally({ size: 1 }))).toEqual(['needed /crew']);
});

test('conditions stand inside groups, shapes and lists too', () => {
  const plug = { power: choice('Power', ['none', '16A']), plug: text('Plug').orAbsent() };
  const rules = () => needed<typeof plug>('plug', { when: equals({ power: '16A' }) });
  const form = intake('form', {
    pier: group('Pier', plug, rules()),
    how: oneOfShapes('How', 'by', { shore: shape(plug, rules()), none: shape({}) }),
    more: list('More', group('Pier', plug, when(not(equals<typeof plug>({ power: 'none' })), [needed('plug')], [absent('plug')]))),
  });
  const on = { power: '16A' };
  const off = { power: 'none' };
  expect(blamesOf(form.judgeLocally({ pier: on, how: { by: 'shore', ...on }, more: [off, on, { ...off, plug: 'x' }] }))).toEqual([
    'needed /pier/plug',
    'needed /how/plug',
    'needed /more/1/plug',
    'absent /more/2/plug',
  ]);
  expect(form.judgeLocally({ pier: off, how: { by: 'none' }, more: [] }).outcome).toBe('accepted');
});

test('an occasion is one that the intake declares', () => {
  const form = intake('form', fields, { occasions: ['draft', 'final'], rules: [needed('note', { on: 'final' })] });
  expect(rulesOf(form.judgeLocally({}))).toEqual([]);
  expect(rulesOf(form.judgeLocally({}, { occasion: 'final' }))).toEqual(['needed']);
  expect(() => form.judgeLocally({}, { occasion: 'finall' })).toThrow('knows no occasion "finall"; it declares draft, final.');
  expect(() => intake('form', fields, { rules: [needed('note', { on: 'final' })] })).toThrow('knows no occasion "final"');
  expect(() => intake('form', fields, { rules: [when(occasionIs('x'), [])] })).not.toThrow();
  expect(() => intake('form', fields, { rules: [when(occasionIs('x'), [needed('note')])] })).toThrow('knows no occasion "x"');
});

test('a condition that gives no true or false leaves its rules unsettled', () => {
  const form = intake('form', fields, { rules: [needed('note', { when: not(broken({ size: 'size' })) })] });
  expect(form.judgeLocally({ size: 1 })).toMatchObject({ outcome: 'undecided', unsettled: [{ rule: 'needed', why: 'fault' }] });
});

test('a given value whose own rule fails to decide throws, and does not pass for absent', () => {
  const odd = rule('odd', { field: flag }, { holds: () => undefined as never, message: 'x', blames: 'field' });
  const form = intake('form', { staff: flag('Staff', odd()).given() });
  expect(() => form.judgeLocally({}, { given: { staff: true } })).toThrow('given values are not sound: staff (odd)');
});

describe('given fields', () => {
  const staff = condition('is-staff', { staff: flag }, { holds: ({ staff }) => staff });
  const form = intake(
    'form',
    { from: day('From'), to: day('To'), staff: flag('Staff').given() },
    { rules: [inOrder({ earlier: 'from', later: 'to' }, { when: not(staff({ staff: 'staff' })) })] },
  );
  const backwards = { from: '2031-05-02', to: '2031-05-01', staff: true };

  test('come from the application and never from the submission', async () => {
    expect(rulesOf(await form.judge(backwards, { given: { staff: false } }))).toEqual(['in-order']);
    expect(await form.judge(backwards, { given: { staff: true } })).toMatchObject({
      outcome: 'accepted',
      value: { from: '2031-05-02', to: '2031-05-01' },
    });
  });

  test.each([[{}], [{ given: {} }], [{ given: { staff: 'on' } }], [{ given: { staff: undefined } }], [{ as: 'form', given: {} }]])(
    'missing or unsound, they throw: %j',
    async (options) => {
      await expect(form.judge(backwards, options as never)).rejects.toThrow('given values are not sound: staff');
      expect(() => form.judgeLocally(backwards, options as never)).toThrow('given values are not sound: staff');
    },
  );
});
