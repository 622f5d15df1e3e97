import { readersOf, above, among, asStored, exact, inSame, inThis, maybe, atLeastOneOf, both, column, daysApart, either, exactlyOneOf, totalAtMost, between, choice, collection, condition, day, decimal, entries, equals, exactly, flag, group, inOrder, intake, isTrue, same, length, list, needed, noOverlap, notBefore, rule, storedChoice, text, unchangedSince, unexpired, unique, when, whole } from '../../src/index.ts';
import { receive } from '../../src/http/fetch.ts';
import type { Records } from '../../src/index.ts';
// Must not compile: the line after each mark is refused by both compilers, at the word that the mark names and nowhere else.
const vessels = collection('vessels', { id: whole, mark: text, ownerId: whole, electric: flag, until: day }, { key: 'id' });
const owners = collection('owners', { id: whole, limit: decimal }, { key: 'id' });
const stayOf = rule('stay-of', { earlier: day, later: day }, { takes: { least: whole }, holds: ({ earlier, later }) => earlier < later, message: '', blames: 'later' });
const fields = { power: choice('P', ['16A', '32A']), mark: text('M'), a: day('A'), b: day('B'), crew: list('C', group('m', { born: day('B'), n: text('n') })), staff: flag('S').given(), size: whole('N') };
const isE = condition('e', { m: text }, { holds: ({ m }) => m === 'x' });
const adult = rule('adult', { crew: entries({ born: day }) }, { holds: () => true, message: '', blames: 'crew' });
// wrong: length | no length of a number
whole('Nights', length({ min: 1 }));
// wrong: between | no range of a text
text('Name', between(1, 2));
// wrong: 'tomorrow' | neither a day nor today
day('Day', notBefore('tomorrow'));
// wrong: '1' | default of another type
whole('Nights').orElse('1');
// wrong: '32A' | not one of the options
choice('Power', ['none', '16A']).orElse('32A');
const i = intake('i', fields, { storedIn: vessels, rules: [
  // wrong: later | misspelt field in a ready-made rule of several kinds
  inOrder({ earlier: 'a', later: 'departs' }),
  // wrong: earlier | misspelt field in the first role
  inOrder({ earlier: 'arives', later: 'b' }),
  // wrong: later | a day against a text
  inOrder({ earlier: 'a', later: 'mark' }),
  // wrong: second | a text where passphrases are compared
  same({ first: 'mark', second: 'marck' }),
  // wrong: serverity | misspelt field of a use
  inOrder({ earlier: 'a', later: 'b' }, { serverity: 'warning' }),
  // wrong: 'amout' | misspelt field in a sum
  totalAtMost([['size', 'amout']], 'size'),
  // wrong: 'mark' | a text in a sum
  totalAtMost([['size', 'mark']], 3),
  // wrong: from | misspelt field of days apart
  daysApart({ from: 'aa', to: 'b' }, { most: 3 }),
  // wrong: those | entries of another kind
  among({ value: 'mark', those: 'crew.*.born' }),
  // wrong: 'bb' | misspelt field among several
  exactlyOneOf('a', 'bb'),
  // wrong: isTrue | a value rule among the rules of an intake
  isTrue(),
  // wrong: stayOf | the parameters are missing
  stayOf({ earlier: 'a', later: 'b' }),
  // wrong: least | a parameter of another type
  stayOf({ earlier: 'a', later: 'b' }, { least: '1' }),
  // wrong: later | misspelt field
  stayOf({ earlier: 'a', later: 'bb' }, { least: 1 }, { when: isE({ m: 'mark' }) }),
  // wrong: m | misspelt field in a condition
  stayOf({ earlier: 'a', later: 'b' }, { least: 1 }, { when: isE({ m: 'marck' }) }),
  // wrong: m | a day in a text role of a condition
  when(isE({ m: 'a' }), [stayOf({ earlier: 'a', later: 'b' }, { least: 1 })]),
  // wrong: later | a text in a day role of a guarded rule
  when(isE({ m: 'mark' }), [stayOf({ earlier: 'a', later: 'mark' }, { least: 1 })]),
  // wrong: 'mrk' | misspelt field
  needed('mrk'),
  // wrong: 'ab' | misspelt field
  atLeastOneOf('mark', 'ab'),
  // wrong: born | a text in a day role of entries
  adult({ crew: { born: 'crew.*.n' } }),
  // wrong: born | not a path of entries
  adult({ crew: { born: 'a' } }),
  // wrong: until | a text field for a day column
  unique(vessels, { until: 'mark' }),
  // wrong: mark | a day where the rows that count have a text
  unique(vessels, { id: 'size' }, { only: { mark: 'a' } }),
  // wrong: until | a fixed value of another type
  unique(vessels, { mark: 'mark' }, { only: { until: exactly(3) } }),
  // wrong: until | misspelt column of the last good day
  unexpired(vessels, { mark: 'mark' }, { until: 'untill' }),
  // wrong: id | a text that is the version of a number
  unchangedSince(vessels, { id: 'mark' }),
  // wrong: 'ends' | misspelt column of an interval
  noOverlap(vessels, { until: 'a' }, { interval: ['until', 'ends'] }),
  // wrong: mark | a number where the table has texts
  storedChoice(vessels, { mark: 'size' }),
  // wrong: marc | misspelt field in a condition
  when(equals({ marc: 'x' }), []),
  // wrong: power | no option of the choice
  when(equals({ power: '64A' }), []),
  // wrong: size | a text where the field is a number
  when(equals({ size: '5' }), []),
  // wrong: earlier | a misspelt field as it is stored
  stayOf({ earlier: asStored('aa'), later: 'b' }, { least: 1 }),
  // wrong: earlier | a text as it is stored, in a day role
  stayOf({ earlier: asStored('mark'), later: 'b' }, { least: 1 }),
] });
// wrong: judge | the given fields are missing
i.judge({});
// wrong: staff | a given field of another type
i.judge({}, { given: { staff: 1 } });
// wrong: mark | not the key of the collection
i.judge({}, { itself: { mark: "x" }, given: { staff: true } });
// wrong: { given | a change without the record that is changed
i.amend({ mark: 'x' }, {}, { given: { staff: true } });
// wrong: size | a stored value of another type
i.amend({ size: 'x' }, {}, { itself: { id: 1 }, given: { staff: true } });
// wrong: itself | the key of a row of another type
i.judgeMany([], { given: { staff: true }, itself: () => ({ id: 'x' }) });
// wrong: storred | what was stored is called otherwise
i.judgeAndStore({}, { given: { staff: true } }, async ({ mark }) => mark).then((v) => v.outcome === 'accepted' && v.storred);
// wrong: deletd | misspelt column of the rows that count
collection('v', { id: whole, deleted: flag }, { key: 'id', only: { deletd: exactly(false) } });
// wrong: mark | misspelt role in a look-up
rule('r', { m: text, d: day }, { looksUp: { v: vessels.one({ mark: 'mm' }, ['ownerId']) }, holds: () => true, message: '', blames: 'm' });
// wrong: 'ownr' | misspelt column
rule('r', { m: text, d: day }, { looksUp: { v: vessels.one({ mark: 'm' }, ['ownr']) }, holds: () => true, message: '', blames: 'm' });
// wrong: until | a text compared with a day column
rule('r', { m: text, d: day }, { looksUp: { v: vessels.exists({ until: above('m') }) }, holds: () => true, message: '', blames: 'm' });
// wrong: id | a flag column where the inner look-up needs a whole
rule('r', { m: text }, { looksUp: { v: vessels.one({ mark: 'm' }, [], { o: owners.one({ id: 'electric' }, ['limit']) }) }, holds: () => true, message: '', blames: 'm' });
// wrong: lim | misspelt column of a found record
rule('r', { m: text }, { looksUp: { v: vessels.one({ mark: 'm' }, [], { o: owners.one({ id: 'ownerId' }, ['limit']) }) }, holds: (_r, { v }) => v.o.lim > 0, message: '', blames: 'm' });
// wrong: blames | misspelt role
rule('r', { m: text }, { holds: () => true, message: '', blames: 'n' });
// wrong: holds | an asynchronous predicate must be `asks`
rule('r', { m: text }, { holds: async () => true, message: '', blames: 'm' });
// wrong: { holds | two kinds of predicate
rule('r', { m: text }, { holds: () => true, failing: () => [], message: '', blames: 'm' });
// wrong: 'marck' | misspelt field of readers
readersOf(i, 'marck');
// wrong: marck | a label for what is no field
intake('j', { mark: text('M') }, { languages: { de: { labels: { marck: 'K' } } } });
// wrong: n | a sample of another kind
rule('r', { n: whole }, { holds: () => true, message: '', blames: 'n', samples: { holds: [{ n: 'x' }], fails: [] } });
// wrong: { records | the given fields of the intake are not supplied
receive(i, { records: {} as Records }, () => {});
// wrong: given: () => ({ stafff | a given field of another name
receive(i, { given: () => ({ stafff: true }) }, () => {});
// wrong: marck | a field that the accepted value has not
receive(i, { given: () => ({ staff: true }) }, ({ marck }) => { marck; });
// wrong: boddy | no part of a request
receive({ boddy: i }, { given: () => ({}) }, () => {});
// wrong: below | misspelt role in a range
rule('r', { m: text, d: day }, { looksUp: { v: vessels.exists({ until: both(above('d'), below('dd')) }) }, holds: () => true, message: '', blames: 'm' });
// wrong: 3 | a number among texts
rule('r', { m: text, d: day }, { looksUp: { v: vessels.exists({ mark: exactly('x', 3) }) }, holds: () => true, message: '', blames: 'm' });
// wrong: 'limit' | a sum of a column that is not there
rule('r', { m: text, d: day }, { looksUp: { v: vessels.sum({ mark: 'm' }, 'limit') }, holds: () => true, message: '', blames: 'm' });
// wrong: 'mark' | a sum of texts
rule('r', { m: text, d: day }, { looksUp: { v: vessels.sum({ mark: 'm' }, 'mark') }, holds: () => true, message: '', blames: 'm' });
// wrong: highest | an order by a column that is not there
rule('r', { m: text, d: day }, { looksUp: { v: vessels.first({ mark: 'm' }, ['id'], { highest: 'untill' }) }, holds: () => true, message: '', blames: 'm' });
// wrong: until | a column compared with one of another kind
rule('r', { m: text, d: day }, { looksUp: { v: vessels.exists({ mark: 'm', until: above(column('mark')) }) }, holds: () => true, message: '', blames: 'm' });
// wrong: either | misspelt column in an alternative
rule('r', { m: text, d: day }, { looksUp: { v: vessels.exists(either({ mark: 'm' }, { marc: 'm' })) }, holds: () => true, message: '', blames: 'm' });
// wrong: key | misspelt column of a key
collection('x', { id: whole }, { key: ['id', 'idd'] });
// wrong: scope | misspelt scope
collection('x', { id: whole }, { key: 'id', scope: 'tenant' });
// wrong: mark | that something must exist asked with what may be absent
rule('r', { m: maybe(text) }, { looksUp: { v: vessels.one({ mark: 'm' }, ['id']) }, holds: () => true, message: '', blames: 'm' });
// wrong: place | a misspelt option of a kind
exact('Price', { place: 2 });
// wrong: until | a stretch of the calendar of a text
rule('r', { m: text }, { looksUp: { v: vessels.exists({ until: inSame('month', 'm') }) }, holds: () => true, message: '', blames: 'm' });
// wrong: 'decade' | no stretch of the calendar
inThis('decade');
// wrong: entryLabel | words for the entries of a text
text('A').entryLabel('{number}');
// wrong: most | how many of the first rows
rule('r', { m: text }, { looksUp: { v: vessels.firstRows({ mark: 'm' }, ['id'], { highest: 'until', most: '5' }) }, holds: () => true, message: '', blames: 'm' });
