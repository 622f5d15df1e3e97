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
  labelled,
  length,
  list,
  mediaTypes,
  moment,
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
import { de } from 'jestril/catalogues';
import { controlAttributes, fieldText, formObject, shownForm } from 'jestril/form';

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
  ['/pay/number', { maxlength: 19 }],
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

test('rows to draw are those that were sent, as many as the list takes, whatever numbers and names somebody writes', () => {
  const few = intake('few', {
    crew: list('Crew', group('Member', { name: text('Name') }), length({ max: 3 })),
    pass: text('Pass').secret(),
  });
  const rowsOf = (...names: string[]) =>
    shownForm(
      few,
      names.map((each) => [each, 'x'] as const),
    ).rows('/crew');
  expect(rowsOf('crew.300000.name', 'crew[2][name]', 'crew.2.born', 'crew.02.name', 'crew.x.name', 'crews.1.name')).toEqual([2, 300_000]);
  expect(rowsOf(...Array.from({ length: 50 }, (_, at) => `crew.${at}.name`))).toEqual([0, 1, 2]);
  expect([rowsOf(), shownForm(few, { crew: [{ name: 'a' }, { name: 'b' }] }).rows('/crew'), shownForm(few).rows('/none')]).toEqual([
    [],
    [0, 1],
    [],
  ]);
  // What is nested as deep as a request may be long is no slower than it is long, and no less secret.
  const dots = '.a'.repeat(200_000);
  const deep = shownForm(few, [
    [`pass${dots}`, 'x'],
    [`crew${dots}`, 'y'],
    [dots, 'z'],
  ]);
  expect(deep.entries.map(([, value]) => value)).toEqual(['y', 'z']);
});

describe('what pages say of fields', () => {
  const zone = 'Europe/Oslo';
  const power = oneOfShapes('Power', 'by', {
    shore: shape({
      plug: choice(
        'Plug',
        labelled([
          ['16A', { en: '16 ampere', de: '16 Ampere' }],
          ['32A', '32 ampere'],
        ]),
      ),
      pin: text('Pin').secret(),
    }),
    own: shape({ fuel: text('Fuel'), pin: text('Pin').orAbsent() }),
  });
  const form = intake(
    'form',
    {
      at: moment('At'),
      power,
      crew: list('Crew', group('Member', { name: text('Name'), aboard: flag('Aboard'), born: day('Born').orAbsent() }))
        .blankRowsDropped()
        .orEmpty(),
    },
    { zone, languages: { de: { labels: { at: 'Wann' }, options: { power: { shore: 'Landstrom', own: 'eigener' } } } }, catalogues: [de] },
  );

  test('label, need and options of a field, in a language; a pointer that leads nowhere is a Fault', () => {
    expect(fieldText(form, '/at', 'de')).toEqual({ label: 'Wann', isNeeded: true, options: [] });
    expect(fieldText(form, '/crew/3/born', 'en')).toEqual({ label: 'Born', isNeeded: false, options: [] });
    expect(fieldText(form, '/power/plug', 'de').options).toEqual([
      { value: '16A', label: '16 Ampere' },
      { value: '32A', label: '32 ampere' },
    ]);
    expect(fieldText(form, '/power/by', 'en').options.map(({ value }) => value)).toEqual(['shore', 'own']);
    expect(fieldText(form, '/power/by', 'de').options.map(({ label }) => label)).toEqual(['Landstrom', 'eigener']);
    const other = form.judgeLocally({ at: '2031-05-01T10:00', power: { by: 'wind' } }, { as: 'form', locale: 'de' });
    expect(other).toMatchObject({ findings: [{ rule: 'tag', message: 'Power: Möglich ist Landstrom oder eigener.' }] });
    expect(() => fieldText(form, '/pover', 'en')).toThrow('no field at "/pover"; did you mean "/power"');
  });

  test('a field of one shape is not needed by the browser, and one that is secret in some shape is secret', () => {
    expect(controlAttributes(form, '/power/plug')).toEqual({});
    expect(controlAttributes(form, '/power/pin')).toEqual({ type: 'password' });
    expect(
      shownForm(form, [
        ['power.pin', '4711'],
        ['power.fuel', 'x'],
      ]).entries,
    ).toEqual([['power.fuel', 'x']]);
  });

  const clocks: readonly [zone: string, local: string, moment: string | undefined][] = [
    ['Europe/Oslo', '2031-05-01T09:30', '2031-05-01T07:30:00.000Z'],
    ['Europe/Oslo', '2031-01-01 09:30:15.5', '2031-01-01T08:30:15.500Z'],
    ['Europe/Oslo', '2031-05-01T09:30:00+00:00', '2031-05-01T09:30:00.000Z'],
    // Clocks are put forward at 2, and back at 3.
    ['Europe/Oslo', '2031-03-30T02:30', '2031-03-30T01:30:00.000Z'],
    ['Europe/Oslo', '2031-03-30T01:59', '2031-03-30T00:59:00.000Z'],
    ['Europe/Oslo', '2031-03-30T03:00', '2031-03-30T01:00:00.000Z'],
    ['Europe/Oslo', '2031-10-26T02:30', '2031-10-26T00:30:00.000Z'],
    ['Europe/Oslo', '2031-10-26T03:00', '2031-10-26T02:00:00.000Z'],
    ['Pacific/Kiritimati', '2031-01-01T00:00', '2030-12-31T10:00:00.000Z'],
    ['Australia/Lord_Howe', '2031-04-06T01:45', '2031-04-05T14:45:00.000Z'],
    ['Asia/Kathmandu', '0001-01-01T00:00', undefined],
    ['Europe/Oslo', '2031-02-30T09:30', undefined],
  ];
  test.each(clocks)('in %s the form says %s', (inZone, local, wanted) => {
    const at = intake('at', { at: moment('At') }, { zone: inZone });
    const verdict = at.judgeLocally({ at: local }, { as: 'form' });
    if (wanted === undefined) expect(verdict.outcome).toMatch(/rejected|accepted/);
    else expect(verdict).toMatchObject({ outcome: 'accepted', value: { at: wanted } });
    expect(at.judgeLocally({ at: local }).outcome).toBe(local.endsWith('+00:00') ? 'accepted' : 'rejected');
  });

  test('a stored moment is shown by the clocks of the zone, and comes back as it was', () => {
    for (const stored of ['2031-05-01T07:30:00.000Z', '2031-01-01T23:30:15.500Z', '2031-03-30T01:00:00.000Z']) {
      const shown = shownForm(form, { at: stored }).value('at');
      expect(form.judgeLocally({ at: shown, power: { by: 'own', fuel: 'x' } }, { as: 'form' })).toMatchObject({ value: { at: stored } });
    }
    expect(controlAttributes(form, '/at')).toEqual({ type: 'datetime-local', required: true });
  });

  test('rows that nobody has filled in are not there, and the others keep their numbers', () => {
    const sent = formObject([
      ['at', '2031-05-01T09:30'],
      ['power.by', 'own'],
      ['power.fuel', 'x'],
      ['crew.0.name', ' '],
      ['crew.0.born', ''],
      ['crew.2.name', 'Ida'],
      ['crew.4.name', ''],
      ['crew.4.born', '1988-02-29'],
    ]);
    const verdict = form.judgeLocally(sent, { as: 'form' });
    expect(verdict).toMatchObject({ outcome: 'rejected', findings: [{ rule: 'needed', places: [{ pointer: '/crew/4/name' }] }] });
    expect(form.judgeLocally({ crew: [{ name: '' }] }).outcome).toBe('rejected');
    expect(() => (text('T') as unknown as { blankRowsDropped(): void }).blankRowsDropped()).toThrow('only a list has rows');
  });
});
