import {
  above,
  allOf,
  atMost,
  base64,
  below,
  between,
  cached,
  characterMix,
  choice,
  cleaning,
  collection,
  condition,
  daysApart,
  decimal,
  digits,
  distinct,
  entries,
  equals,
  exact,
  Fault,
  flag,
  group,
  inlineUpload,
  inOrder,
  intake,
  ipAddress,
  isFalse,
  length,
  letters,
  list,
  maybe,
  mediaTypes,
  needed,
  noOverlap,
  occasionIs,
  oneOfShapes,
  ownKind,
  phone,
  precision,
  rule,
  shape,
  startsWith,
  storedChoice,
  table,
  text,
  trim,
  unique,
  uploadSize,
  uuid,
  webAddress,
  when,
  whole,
} from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { problemOf } from 'jestril/request';
import { judgeValue, rulesOf } from '../support/judging.ts';

// Nothing that is written is passed over: what a maker does not know is a fault, with a sentence that says where and what there is.

// biome-ignore lint/suspicious/noExplicitAny: what the compiler refuses, and plain JavaScript does not
const any = (value: unknown): any => value;
const people = collection('people', { id: whole, name: text, from: maybe(any(whole)) }, { key: 'id' });
const form = (field: object, rules: unknown[] = [], more: object = {}) => intake('i', { a: any(field) }, { rules: any(rules), ...more });
const body = { holds: () => true, message: 'x', blames: 'a' };
const made = intake('made', { a: text('A') });

const faults: readonly (readonly [make: () => unknown, sentence: string])[] = [
  // kinds
  [() => exact('Price', any({ place: 2 })), `exact('Price') has no option "place"; did you mean "places"?`],
  [() => form(exact('Price', any([atMost('1')]))), 'field "a": a list is neither a value rule nor a cleaning step.'],
  [
    () =>
      form(
        exact(
          'Price',
          any(() => true),
        ),
      ),
    'field "a": a function stands among its rules; call it',
  ],
  [() => form(text('A', any(trim))), 'a function stands among its rules; call it, as in length({ … }) or trim().'],
  [() => form(decimal('A', any({ places: 2 }))), 'field "a": an object is neither a value rule nor a cleaning step.'],
  [() => any(oneOfShapes)('S', 'is', { x: shape({}) }, distinct()), 'takes no rules; they stand in the shapes that they are about.'],
  [() => oneOfShapes('S', 'is', any(undefined)), 'needs its shapes as its third argument.'],
  [() => ownKind('t/x', text, any({ read: () => 'x', says: 'x' })), 'Kind "t/x" has no option "read"; did you mean "reads"?'],
  [() => ownKind('t/x', text, any({ says: 'x' })), 'Kind "t/x" needs reads'],
  [() => ownKind('t/x', text, any({ reads: () => 'x' })), 'Kind "t/x" needs says'],
  [
    () =>
      cleaning(
        't/x',
        any('text'),
        any(() => 'x'),
      ),
    'needs the kind that it cleans as its second argument',
  ],
  [() => cleaning('t/x', text, any(undefined)), 'needs what it does as its third argument'],
  [() => maybe(any('text')), 'maybe needs a kind, such as maybe(text).'],
  // rules about one value
  [() => length(any({ mix: 3, max: 5 })), 'length has no option "mix"; did you mean "min"?'],
  [() => length(any(5)), 'length: its options are an object such as { min: … }, and not the number 5.'],
  [() => uuid(any({ version: [4] })), 'uuid has no option "version"; did you mean "versions"?'],
  [() => digits(any({ severity: 'warning' })), 'digits has no option "severity"; there are: of.'],
  [() => letters(any({ of: 'latin' })), 'letters: of is unicode or ascii, and not the text "latin".'],
  [() => characterMix(['upper'], any({ most: 1 })), 'characterMix has no option "most"'],
  [() => base64(any({ urlsafe: true })), 'base64 has no option "urlsafe"; did you mean "urlSafe"?'],
  [() => distinct(any('name')), 'distinct: its options are an object such as { by: … }, and not the text "name".'],
  [() => startsWith('a', any({ ignoreCase: true })), 'startsWith has no option "ignoreCase"; did you mean "ignoringCase"?'],
  [() => precision(any({ whole: 3, places: 2, digits: 5 })), 'precision has no option "digits"'],
  [() => uploadSize(any({ maximum: 5 })), 'uploadSize has no option "maximum"'],
  [() => mediaTypes(any('image/png')), 'mediaTypes needs a list of at least one media type.'],
  [() => webAddress(any({ scheme: ['https'] })), 'webAddress has no option "scheme"; did you mean "schemes"?'],
  [() => ipAddress(any({ version: 4 })), 'ipAddress has no option "version"; did you mean "versions"?'],
  [() => phone(any('warning')), 'phone: how it is used is an object such as { as: … }, and not the text "warning".'],
  [() => between(1, 2, any([])), 'between: how it is used is an object such as { as: … }, and not a list.'],
  [() => form(whole('A', isFalse as never)), 'call it'],
  // how rules are used
  [() => form(text('A', phone(any({ serverity: 'warning' })))), 'use of phone: there is no option "serverity"; did you mean "severity"?'],
  [() => form(text('A', phone(any({ trial: 'yes' })))), 'use of phone: trial is true or left out.'],
  [() => form(text('A', phone({ on: [] }))), 'use of phone: on names no occasion, and it would never be judged.'],
  [() => form(text('A', phone({ as: '' }))), 'use of phone: as is a name'],
  [() => form(text('A'), [needed(any('a'), any({ when: true }))]), 'use of needed: when is a condition, such as when: equals({ … }).'],
  // rules between fields and about records
  [() => inOrder(any({}), any({ orEqual: 'yes' })), 'inOrder: orEqual is true or false.'],
  [() => daysApart(any({}), any({ min: 1 })), 'daysApart has no option "min"; there are: least, most.'],
  [() => noOverlap(people, any({}), any({ interval: 'from' })), 'no-overlap: interval names two columns'],
  [
    () => noOverlap(people, any({ from: 'a' }), any({ interval: ['from', 'from'], touching: 'refuse' })),
    'no-overlap: touching is allowed or refused, and not the text "refuse".',
  ],
  [() => form(text('A'), [unique(people, any({ name: 'a' }), any({ ignoreCase: ['name'] }))]), 'there is no option "ignoreCase"'],
  [() => form(text('A'), [storedChoice(people, any({ name: 'a' }), any({ show: 'name' }))]), 'there is no option "show"'],
  // collections and look-ups
  [() => collection('c', { id: whole }, any({ key: 'id', secrets: [] })), 'Collection "c" has no option "secrets"; did you mean "secret"?'],
  [
    () => collection('c', any({ id: 'whole' }), { key: 'id' }),
    'column "id" is declared by a kind, such as text, and not by the text "whole".',
  ],
  [() => collection('c', { id: whole }, any(undefined)), 'Collection "c" needs its key as its third argument'],
  [() => people.exists({ name: 'a' } as never, any({ exceptitself: true })), 'Look-up in people has no option "exceptitself"'],
  [() => people.exists({ name: 'a' } as never, any({ exceptItself: 1 })), 'exceptItself is true or left out.'],
  [() => people.all({ name: 'a' } as never, ['name'], any({ max: 5 })), 'Look-up in people has no option "max"'],
  [() => people.all({ name: 'a' } as never, ['name'], { most: 0.5 }), 'most 0.5 is not a number of rows.'],
  [() => people.first({ name: 'a' } as never, ['name'], any({ highest: 'id', most: 3 })), 'Look-up in people has no option "most"'],
  [() => cached(memoryRecords({}), any({ collection: ['a'], seconds: 1 })), 'cached: there is no option "collection"'],
  // rules and conditions of one's own
  [() => rule('r', { a: text }, any({ ...body, hold: 1 })), 'Rule "r" has no option "hold"; did you mean "holds"?'],
  [() => rule('r', { a: text }, any({ ...body, message: undefined })), 'Rule "r" needs a message.'],
  [() => rule('r', { a: text }, any({ ...body, blames: undefined })), 'Rule "r" needs blames: the roles at fault.'],
  [() => rule('r', { a: text }, any(undefined)), 'Rule "r": its options are an object'],
  [() => any(rule)('r'), 'Rule "r" needs its roles as an object, such as { from: day }, and not undefined.'],
  [() => any(rule)(), 'A rule needs its id as its first argument, and not undefined.'],
  [() => rule('r', any({ a: 'text' }), any(body)), 'Rule "r": "a" is described by a kind, such as text, and not by the text "text".'],
  [() => rule('r', { a: text }, any({ ...body, takes: { most: 3 } })), 'Rule "r", takes: "most" is described by a kind'],
  [() => rule('r', { a: text }, any({ ...body, samples: { hold: [] } })), 'Rule "r", samples has no option "hold"; did you mean "holds"?'],
  [() => condition('c', { a: text }, any({ hold: () => true })), 'Condition "c" has no option "hold"; did you mean "holds"?'],
  [() => condition('c', any(undefined), any({ holds: () => true })), 'Condition "c" needs its roles as an object'],
  [() => when(equals({ a: 1 } as never), any(undefined)), 'when takes a condition, and then lists of rules.'],
  [() => allOf(), 'allOf() names nothing.'],
  [() => occasionIs(), 'occasionIs() names nothing.'],
  [() => entries({}), 'names no role'],
  // intakes
  [() => intake('i', any(undefined)), 'Intake "i" needs its fields as its second argument'],
  [() => form(text('A'), [], { strangers: 'forbid' }), 'strangers is refuse or drop, and not the text "forbid".'],
  [() => form(text('A'), [], { report: 'all' }), 'report is everything, firstOfEach or firstOfAll, and not the text "all".'],
  [() => group('G', any(undefined)), 'needs its fields as its second argument'],
  // judging
  [() => made.judgeLocally({}, any({ record: {} })), 'Intake "made": judging knows no option "record"; did you mean "records"?'],
  [() => made.judgeLocally({}, any({ whole: true })), 'judging knows no option "whole"'],
  [
    () => made.judgeLocally({}, any({ report: 'nonsense' })),
    'report is everything, firstOfEach or firstOfAll, and not the text "nonsense".',
  ],
  [() => made.judgeLocally({}, any({ as: 'from' })), 'as is json or form, and not the text "from".'],
  [() => made.judgeLocally({}, { now: new Date('x') }), 'now is a Date that exists.'],
  [() => made.judgeLocally({}, { within: any('x') }), 'within is a number of milliseconds, and not the text "x".'],
  [() => made.judgeLocally({}, { records: any({}) }), 'records answer questions (ask), and an object does not.'],
  [() => made.judgeMany([], any({ chunks: 3 })), 'judging knows no option "chunks"; did you mean "chunk"?'],
  [() => problemOf(any(made.judgeLocally({ a: 'x' }))), 'problemOf tells what is wrong, and this verdict is accepted.'],
];

test.each(faults)('%#', (make, sentence) => {
  let thrown: unknown;
  try {
    make();
  } catch (cause) {
    thrown = cause;
  }
  expect(thrown).toBeInstanceOf(Fault);
  expect((thrown as Fault).message).toContain(sentence);
});

test('asynchronous calls reject for them', async () => {
  await expect(made.judge({}, any({ record: {} }))).rejects.toThrow('knows no option "record"');
  await expect(made.amend({}, {}, any({ hole: true }))).rejects.toThrow('knows no option "hole"; did you mean "whole"?');
});

test('a limit may be text for above and below, too', () => {
  expect(rulesOf(judgeValue(exact('Price', below('100')), '50000'))).toEqual(['below']);
  expect(rulesOf(judgeValue(exact('Price', above('0.10')), '0.10'))).toEqual(['above']);
  expect(rulesOf(judgeValue(exact('Price', { places: 2 }, below('100')), '99.99'))).toEqual([]);
});

test('kinds that take no rules of their own take none', () => {
  for (const field of [list('L', text('T')), table('T', text('E')), flag('F'), choice('C', ['a']), inlineUpload('U')])
    expect(form(field).name).toBe('i');
});
