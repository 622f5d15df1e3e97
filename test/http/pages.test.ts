import {
  atLeast,
  between,
  choice,
  day,
  decimal,
  email,
  flag,
  group,
  intake,
  isTrue,
  length,
  list,
  mediaTypes,
  notAfter,
  notBefore,
  oneOfShapes,
  pattern,
  shape,
  text,
  timeOfDay,
  today,
  upload,
  webAddress,
  whole,
  yearsOld,
} from 'jestril';
import { controlAttributes, shownForm } from 'jestril/form';

const form = intake(
  'form',
  {
    name: text('Name', length({ min: 2, max: 80 })),
    mark: text('Mark', pattern(/^[A-Z]{2}-\d{4}$/, 'a mark')),
    either: text('Either', pattern(/^a|b$/, 'a or b')),
    mail: text('E-mail', email()).orAbsent(),
    site: text('Site', webAddress({ schemes: ['https'] })).orAbsent(),
    note: text('Note').blankAllowed(),
    secret: text('Secret', pattern(/^\d{4}$/, 'four digits')).secret(),
    again: text('Again').leftOut(),
    nights: whole('Nights', between(1, 28)),
    length: decimal('Length', atLeast(2)),
    arrives: day('Arrival', notBefore(today), notAfter('2031-12-31')),
    born: day('Born', yearsOld(18)),
    at: timeOfDay('At'),
    terms: flag('Terms', isTrue()),
    news: flag('News'),
    kind: choice('Kind', ['a', 'b']),
    plan: upload('Plan', mediaTypes(['application/pdf', 'image/*'])),
    crew: list('Crew', group('Member', { name: text('Name', length({ max: 10 })) })),
    pay: oneOfShapes('Pay', 'by', { card: shape({ number: text('Number', length({ max: 19 })) }), bill: shape({ to: text('To') }) }),
  },
  { zone: 'Europe/Oslo' },
);
const now = new Date('2031-05-01T22:30:00Z'); // 2 May in Oslo

test.each<[pointer: string, attributes: object]>([
  ['/name', { required: true, minlength: 2, maxlength: 80 }],
  ['/mark', { required: true, pattern: '[A-Z]{2}-\\d{4}' }],
  ['/either', { required: true }],
  ['/mail', { type: 'email' }],
  ['/site', { type: 'url' }],
  ['/note', {}],
  ['/secret', { type: 'password', required: true }],
  ['/nights', { inputmode: 'numeric', required: true }],
  ['/length', { inputmode: 'decimal', required: true }],
  ['/arrives', { type: 'date', required: true, min: '2031-05-02', max: '2031-12-31' }],
  ['/born', { type: 'date', required: true, max: '2013-05-02' }],
  ['/at', { type: 'time', required: true }],
  ['/terms', { type: 'checkbox', required: true }],
  ['/news', { type: 'checkbox' }],
  ['/kind', { required: true }],
  ['/plan', { type: 'file', required: true, accept: 'application/pdf,image/*' }],
  ['/crew/3/name', { required: true, maxlength: 10 }],
  ['/crew', { multiple: true }],
  ['/pay/number', { required: true, maxlength: 19 }],
  ['/pay', {}],
  ['/nowhere', {}],
])('the control of %s', (pointer, attributes) => {
  expect(controlAttributes(form, pointer, { now })).toEqual(attributes);
});

test('in a form that changes what is stored nothing is needed that may be kept, and older values may stand', () => {
  expect(controlAttributes(form, '/secret', { amends: true })).toEqual({ type: 'password' });
  expect(controlAttributes(form, '/again', { amends: true })).toEqual({});
  expect(controlAttributes(form, '/arrives', { now, amends: true })).toEqual({ type: 'date', required: true });
});

test('a form that is shown again: values by the names of controls, however they are written; never secrets', () => {
  const typed: [string, unknown][] = [
    ['name', 'Ida'],
    ['crew[0][name]', 'Bo'],
    ['crew.1.name', 'Eva'],
    ['kind', 'a'],
    ['kind', 'b'],
    ['secret', '4071'],
    ['plan', new File(['x'], 'a.pdf')],
  ];
  const verdict = form.judgeLocally({ crew: [{ name: 'far too long a name' }] }, { as: 'form', report: 'firstOfEach' });
  const findings = verdict.outcome === 'rejected' ? verdict.findings : [];
  const state = shownForm(form, typed, findings);
  expect([state.value('name'), state.value('crew.0.name'), state.value('crew[1][name]'), state.value('missing')]).toEqual([
    'Ida',
    'Bo',
    'Eva',
    '',
  ]);
  expect([state.values('kind'), state.value('kind'), state.value('secret'), state.value('plan')]).toEqual([['a', 'b'], 'b', '', '']);
  expect(JSON.stringify(state.entries)).not.toContain('4071');
  expect([state.messages('/crew/0/name'), state.isBlamed('/crew/0/name'), state.isBlamed('/crew/1/name')]).toEqual([
    ['Name must have at most 10 characters.'],
    true,
    false,
  ]);
  const stored = shownForm(form, { name: 'Ida', nights: 3, news: true, secret: 'x', crew: [{ name: 'Bo' }], note: null });
  expect(stored.entries).toEqual([
    ['name', 'Ida'],
    ['nights', '3'],
    ['news', 'true'],
    ['crew.0.name', 'Bo'],
  ]);
});
