import {
  between,
  choice,
  collection,
  condition,
  day,
  daysFromToday,
  decimal,
  entries,
  Fault,
  flag,
  foldCase,
  group,
  inOrder,
  intake,
  isTrue,
  length,
  list,
  needed,
  notBefore,
  oneOfShapes,
  ownKind,
  pattern,
  places,
  rule,
  same,
  shape,
  text,
  today,
  unique,
  when,
  whole,
} from 'jestril';
import { looseIntake } from '../support/judging.ts';

const any = (value: unknown) => value as never;
const fields = {
  a: day('A'),
  b: day('B'),
  name: text('Name'),
  size: whole('Size'),
  crew: list('Crew', group('Member', { born: day('Born'), name: text('Name') })),
  tags: list('Tags', text('Tag')),
  pass: text('Pass').secret(),
};
const berths = collection('berths', { code: text, price: decimal, pin: text }, { key: 'code', secret: ['pin'] });
const body = { holds: () => true, message: 'x', blames: 'a' as const };
const two = rule('two', { x: day, y: day }, { holds: () => true, message: '{x}', blames: 'x' });
const build = (...rules: unknown[]) => looseIntake(fields, rules);

// Each is refused where it is written down, with a sentence that says what is wrong.
const table: [what: string, define: () => unknown, sentence: string][] = [
  ['between', () => between(5, 2), 'between(5, 2): the first limit is more than the second.'],
  ['between', () => between(Number.NaN, 2), 'between: NaN is not a number to compare with.'],
  ['length', () => length({}), 'length needs min or max.'],
  ['length', () => length({ min: 3, max: 2 }), 'length: min 3 is more than max 2.'],
  ['length', () => length({ min: -1 }), 'length: -1 is not a number of characters or entries.'],
  ['places', () => places(1.5), 'places: places 1.5 is not a whole number from 0 to 100.'],
  ['pattern', () => pattern(/x/g, 'x'), 'pattern /x/g: take off the flag g, which makes it remember its last match.'],
  ['pattern', () => pattern(/x/, ''), "pattern /x/ needs a description in words, such as 'four digits'."],
  [
    'day limit',
    () => notBefore(any('2031-02-30')),
    "notBefore('2031-02-30'): no day, moment or time of day that exists, such as 2031-05-01, 2031-05-01T09:30:00Z or 09:30.",
  ],
  ['day limit', () => notBefore(any(5)), 'notBefore needs a day, a moment, a time, today,'],
  ['day limit', () => daysFromToday(0.5), 'daysFromToday(0.5) needs a whole number.'],
  ['choice', () => choice('C', []), 'A choice needs at least one option.'],
  ['choice', () => choice('C', any(undefined)), 'A choice needs its options as its second argument: a list, labelled(…) or an enum.'],
  ['shapes', () => oneOfShapes('S', 'how', {}), "oneOfShapes('S') needs at least one shape."],
  ['shapes', () => oneOfShapes('S', 'how', { a: shape({ how: text('H') }) }), 'Shape "a" of "S" has a field "how", which is the tag.'],
  [
    'own kind',
    () => ownKind('text', text, { reads: (value) => value, says: 'x' }),
    'Kind "text" has to be based on another kind, such as text.',
  ],
  ['choice', () => choice('C', ['a', 'a']), 'A choice names an option twice: a, a.'],
  ['label', () => text(any(undefined)), 'A text field needs a label as its first argument.'],
  [
    'collection',
    () => collection('c', { id: whole, tags: list }, { key: 'id' }),
    'Collection "c": column "tags" is list, which no column keeps.',
  ],
  ['collection', () => collection('c', { id: whole }, { key: any('ids') }), 'Collection "c" has no column "ids"; did you mean "id"?'],
  ['unique', () => unique(berths, {}), 'unique: name a column of berths and the field to compare it with.'],
  ['unique', () => unique(berths, { cod: 'name' } as never), 'Collection "berths" has no column "cod"; did you mean "code"?'],
  ['rule id', () => rule('two words', { a: text }, body), 'Rule "two words": an id is words of letters, digits, dots and dashes'],
  ['rule', () => rule('r', {}, any({ ...body, blames: [] })), 'Rule "r": it reads no role.'],
  ['rule', () => rule('r', { a: text }, any({ ...body, blames: 'b' })), 'Rule "r": it blames "b", which is no role; did you mean "a"?'],
  [
    'rule',
    () => rule('r', { a: text }, any({ message: 'x', blames: 'a' })),
    'Rule "r" needs exactly one of holds, failing and asks; it has none.',
  ],
  ['rule', () => rule('r', { a: text }, any({ ...body, failing: () => [] })), 'it has holds and failing.'],
  [
    'rule',
    () => rule('r', { a: text }, any({ asks: async () => true, message: 'x', blames: 'a' })),
    'Rule "r" asks something outside and needs a time limit in milliseconds: within.',
  ],
  [
    'rule',
    () => rule('r', { a: text }, any({ failing: () => [], message: 'x', blames: 'a' })),
    '`failing` gives the indexes of entries, so it has to blame an entries({...}) role.',
  ],
  ['role names', () => rule('r', { a: text, field: text }, body), 'the role name "field" is kept for rules about one value'],
  [
    'role names',
    () => rule('r', { a: text }, { ...body, looksUp: { a: berths.exists({ code: 'a' }) } }),
    '"a" names a role and a look-up; rename one of them.',
  ],
  [
    'role names',
    () => rule('r', { a: text }, { ...body, takes: { a: whole } }),
    '"a" names a parameter and a role or look-up; rename one of them.',
  ],
  [
    'look-up',
    () => rule('r', { a: text }, { ...body, looksUp: { f: berths.exists({}) } }),
    'it has no condition, and would read the whole collection.',
  ],
  [
    'look-up',
    () => rule('r', { a: text }, { ...body, looksUp: { f: berths.exists({ code: any('aa') }) } }),
    '"aa" is neither a role nor a column of the record it starts from; did you mean "a"?',
  ],
  [
    'look-up',
    () => rule('r', { a: text }, { ...body, looksUp: { f: berths.one({ code: 'a' }, [any('prize')]) } }),
    'there is no column "prize"; did you mean "price"?',
  ],
  [
    'look-up',
    () => rule('r', { a: day }, { ...body, looksUp: { f: berths.exists({ code: any('a') }) } }),
    'column "code" is text, role "a" is day.',
  ],
  ['entries', () => entries({}), 'entries({}) names no role: say what to read of each entry.'],
  ['slot', () => rule('r', { a: text }, { ...body, message: '{b}' }), 'Rule "r": nothing fills {b} in "{b}"; did you mean "a"?'],
  ['slot', () => rule('r', { a: text }, { ...body, message: { en: '{a}', nb: '{c}' } }), 'nothing fills {c}'],
  ['slot', () => rule('r', { a: text }, { ...body, message: '{a' }), 'is not an ICU message'],
  ['path', () => build(two(any({ x: 'a', y: 'bb' }))), 'role "y" of rule "two" is bound to "bb", which is no field; did you mean "b"?'],
  ['path', () => build(two(any({ x: 'a' }))), 'role "y" of rule "two" is bound to no field.'],
  ['path', () => build(two(any({ x: 'a', y: 'b', z: 'b' }))), 'rule "two" has no role "z".'],
  ['kind', () => build(two(any({ x: 'a', y: 'name' }))), 'role "y" of rule "two" reads day, and "name" is text.'],
  ['kind', () => build(inOrder(any({ earlier: 'a', later: 'name' }))), 'reads what has an order, and "name" is text.'],
  [
    'kinds',
    () => build(inOrder(any({ earlier: 'a', later: 'size' }))),
    'in-order compares "a", which is day, with "size", which is whole.',
  ],
  ['lists', () => build(same(any({ first: 'crew.*.name', second: 'tags.*' }))), 'reads entries of two different lists at once'],
  [
    'lists',
    () => build(rule('r', { a: entries({ n: text }) }, body)(any({ a: { n: 'name' } }))),
    'is bound to "name", which is not inside a list.',
  ],
  [
    'lists',
    () => build(rule('r', { a: entries({ n: text, m: text }) }, body)(any({ a: { n: 'crew.*.name', m: 'tags.*' } }))),
    'the roles of "a" of rule "r" are bound to different lists.',
  ],
  ['lists', () => build(rule('r', { a: entries({ n: text }) }, body)(any({ a: 'crew' }))), 'bind it with an object of paths such as'],
  [
    'two definitions',
    () => build(two({ x: 'a', y: 'b' } as never), rule('two', { x: day }, { ...body, blames: 'x' })({ x: 'a' } as never)),
    'two definitions have the id "two"',
  ],
  [
    'two names',
    () => build(two({ x: 'a', y: 'b' } as never, { as: 'n' }), two({ x: 'b', y: 'a' } as never, { as: 'n' })),
    '"n" names two uses, of two and of two',
  ],
  [
    'two collections',
    () =>
      build(unique(berths, { code: any('name') }), unique(collection('berths', { code: text }, { key: 'code' }), { code: any('pass') })),
    'two collections are named "berths"',
  ],
  [
    'parameters',
    () => build(rule('r', { a: day }, { ...body, takes: { n: whole } })({ a: 'a' } as never, any(undefined))),
    'Rule "r" needs its parameters: n.',
  ],
  [
    'parameters',
    () => build(rule('r', { a: day }, { ...body, takes: { n: whole } })({ a: 'a' } as never, { n: 1.5 })),
    'its parameter "n" has to be of kind whole.',
  ],
  [
    'parameters',
    () => build(rule('r', { a: day }, { ...body, takes: { n: whole } })({ a: 'a' } as never, any({ n: 1, m: 2 }))),
    'Rule "r" has no parameter "m"; did you mean "n"?',
  ],
  [
    'use option',
    () => build(two({ x: 'a', y: 'b' } as never, any({ serverity: 'warning' }))),
    'use of two: there is no option "serverity"; did you mean "severity"?',
  ],
  ['use option', () => build(two({ x: 'a', y: 'b' } as never, any({ severity: 'fatal' }))), 'severity is error or warning, not fatal.'],
  ['unbound rule', () => build(two), 'a rule stands here unbound; call it with the fields its roles read.'],
  ['no rule', () => build({ rule: 1 }), '[object Object] is no rule.'],
  ['rule in a list', () => intake('i', { a: text('A', any(two)) }), 'a function stands among its rules; call it'],
  [
    'value rule of another kind',
    () => intake('i', { a: text('A', any(isTrue())) }),
    'field "a": is-true is a rule for flag, and this is text.',
  ],
  [
    'cleaning of another kind',
    () => intake('i', { a: whole('A', any(foldCase())) }),
    'field "a": fold-case cleans text, and this is whole.',
  ],
  ['zone', () => intake('i', { a: day('A', notBefore(today)) }), 'not-before of "a" is relative to today, and the intake has no time zone'],
  ['zone', () => intake('i', { a: day('A') }, { zone: 'Europe/Pellwick' }), '"Europe/Pellwick" is no time zone of the IANA database'],
  ['field', () => intake('i', { a: any('text') }), '"a" is not a field; make one with a kind, such as text(\'Name\').'],
  ['field name', () => intake('i', { 'a.b': text('A') }), '"a.b" cannot name a field'],
  ['field name', () => intake('i', JSON.parse('{"__proto__": 1}')), '"__proto__" cannot name a field'],
  ['given inside', () => intake('i', { g: group('G', { a: text('A').given() }) }), '"g.a" is given, but stands inside "g"'],
  ['option', () => intake('i', { a: text('A') }, any({ rulez: [] })), 'Intake "i" has no option "rulez"; did you mean "rules"?'],
  [
    'option code',
    () => intake('i', { a: text('A') }, any({ code: 'fast' })),
    'Intake "i": code is when-busy, at-once, never, and not fast.',
  ],
  ['override', () => intake('i', { a: text('A') }, { messages: { lenght: 'x' } }), 'the message "lenght" matches no rule'],
  [
    'override',
    () => intake('i', { a: text('A', length({ max: 2 })) }, { messages: { 'length@a': '{mix}' } }),
    'message "length@a": nothing fills {mix}',
  ],
  ['override', () => intake('i', { a: text('A') }, { messages: { needed: '{min}' } }), 'message "needed": nothing fills {min}'],
  [
    'secret in a message',
    () => build(rule('r', { a: text }, { ...body, message: '{a_value}' })({ a: any('pass') })),
    'the message of r tells {a_value}, and "pass" is secret.',
  ],
  [
    'secret in a message',
    () =>
      build(
        rule('r', { a: text }, { ...body, looksUp: { f: berths.one({ code: 'a' }, ['pin']) }, message: '{f_pin}' })({ a: any('name') }),
      ),
    '{f_pin}, and that column of berths is secret.',
  ],
  [
    'condition',
    () => build(when(any({}), [])),
    'A condition is made by condition(…), equals(…), present(…), occasionIs(…), not(…), allOf(…) or anyOf(…).',
  ],
  [
    'condition',
    () => build(needed(any('a'), { when: condition('c', { n: text }, { holds: () => true })({ n: any('crew.*.name') }) })),
    'condition "c" reads each entry of "crew", and guards a rule that does not.',
  ],
  ['flag', () => intake('', { a: flag('A') }), 'An intake needs a name as its first argument.'],
];

test.each(table)('%s %#', (_what, define, sentence) => {
  let thrown: unknown;
  try {
    define();
  } catch (fault) {
    thrown = fault;
  }
  expect(thrown).toBeInstanceOf(Fault);
  expect((thrown as Fault).message).toContain(sentence);
});
