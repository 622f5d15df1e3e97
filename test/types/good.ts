import { receive as receiveByExpress } from '../../src/http/express.ts';
import { receive as receiveByFetch } from '../../src/http/fetch.ts';
import type { Accepted, Day, Records } from '../../src/index.ts';
import {
  above,
  allOf,
  among,
  asStored,
  atLeast,
  atLeastOneOf,
  below,
  both,
  cached,
  checkStore,
  choice,
  collection,
  column,
  compareExact,
  condition,
  day,
  decimal,
  either,
  entries,
  equals,
  exact,
  exactly,
  flag,
  fromDay,
  group,
  inSame,
  inThis,
  intake,
  isTrue,
  length,
  list,
  maybe,
  moment,
  needed,
  noOverlap,
  not,
  notAfter,
  notBelow,
  occasionIs,
  oneOfShapes,
  pattern,
  refusalOf,
  rule,
  shape,
  storedChoice,
  table,
  text,
  unchangedSince,
  unexpired,
  unique,
  untilDay,
  when,
  whole,
  yearsBeforeToday,
} from '../../src/index.ts';
import type { MemoryRecords } from '../../src/records/memory.ts';

type Same<A, B> = (<X>() => X extends A ? 1 : 2) extends <X>() => X extends B ? 1 : 2 ? true : false;
const yes = <_T extends true>() => {};

// collections by kinds: also the run-time reading of NUMERIC, DATE ...
const owners = collection('owners', { id: whole, email: text, creditLimit: decimal, passHash: text }, { key: 'id', secret: ['passHash'] });
const vessels = collection(
  'vessels',
  { id: whole, mark: text, ownerId: whole, electric: flag, insuredUntil: day, length: decimal },
  { key: 'id' },
);
const berths = collection('berths', { code: text, maxLength: decimal, price: decimal, class: text }, { key: 'code' });
const vouchers = collection('vouchers', { code: text, class: text, until: day }, { key: 'code' });
const bookings = collection('bookings', { id: whole, berth: text, arrives: day, departs: day }, { key: 'id' });

// rules with parameters
const daysApart = rule(
  'days-apart',
  { from: day, to: day },
  {
    takes: { least: whole, most: whole },
    holds: ({ from, to }, _f, { least, most }) => {
      const n = nights(from, to);
      return n >= least && n <= most;
    },
    message: { en: 'Stay {least} to {most} nights.', nb: '…' },
    blames: 'to',
  },
);
declare function nights(a: Day, b: Day): number;
const inOrder = rule(
  'in-order',
  { earlier: day, later: day },
  { holds: ({ earlier, later }) => earlier < later, message: '', blames: 'later' },
);
const same = rule('same', { first: text, second: text }, { holds: ({ first, second }) => first === second, message: '', blames: 'second' });
const insured = rule(
  'insured',
  { mark: text, until: day },
  {
    looksUp: { vessel: vessels.one({ mark: 'mark' }, ['insuredUntil']) },
    holds: ({ until }, { vessel }) => {
      yes<Same<typeof vessel, { readonly insuredUntil: Day }>>();
      return vessel.insuredUntil >= until;
    },
    message: '',
    blames: 'mark',
  },
);
const free = rule(
  'berth-free',
  { berth: text, from: day, to: day },
  {
    looksUp: { clash: bookings.exists({ berth: 'berth', arrives: below('to'), departs: above('from') }, { exceptItself: true }) },
    holds: (_r, { clash }) => !clash,
    message: '',
    blames: ['berth', 'from'],
    samples: { holds: [{ berth: 'A', from: '2031-01-01', to: '2031-01-02', clash: false }], fails: [] },
  },
);
const voucherFits = rule(
  'voucher-fits',
  { voucher: text, berth: text },
  {
    looksUp: { v: vouchers.one({ code: 'voucher' }, ['class', 'until']), b: berths.one({ code: 'berth' }, ['class']) },
    holds: (_r, { v, b }, _t, { today }) => v.until >= today && v.class === b.class,
    message: '',
    blames: 'voucher',
  },
);
// dependent look-up: mark -> vessel -> owner
const withinCredit = rule(
  'within-credit',
  { mark: text, berth: text, from: day, to: day },
  {
    looksUp: {
      vessel: vessels.one({ mark: 'mark' }, [], { owner: owners.one({ id: 'ownerId' }, ['creditLimit']) }),
      b: berths.one({ code: 'berth' }, ['price']),
    },
    holds: ({ from, to }, { b, vessel }) => b.price * nights(from, to) <= vessel.owner.creditLimit,
    message: '',
    blames: ['from', 'to'],
    samples: {
      holds: [{ mark: 'm', berth: 'A', from: '2031-01-01', to: '2031-01-02', vessel: { owner: { creditLimit: 2 } }, b: { price: 1 } }],
      fails: [],
    },
  },
);
const isElectric = condition(
  'is-electric',
  { mark: text },
  { looksUp: { v: vessels.one({ mark: 'mark' }, ['electric']) }, holds: (_r, { v }) => v.electric },
);
const isStaff = condition('is-staff', { staff: flag }, { holds: ({ staff }) => staff });

// (b)
export const booking = intake(
  'booking',
  {
    mark: text('Mark'),
    berth: text('Berth'),
    arrives: day('Arrival'),
    departs: day('Departure'),
    voucher: text('Voucher').orAbsent(),
    power: choice('Power', ['16A', '32A']).orAbsent(),
    caller: group('Caller', { id: whole('Id'), staff: flag('Staff') }).given(),
  },
  {
    storedIn: bookings,
    zone: 'Europe/Oslo',
    rules: [
      inOrder({ earlier: 'arrives', later: 'departs' }),
      daysApart({ from: 'arrives', to: 'departs' }, { least: 1, most: 28 }, { severity: 'warning', as: 'stay-length' }),
      insured({ mark: 'mark', until: 'departs' }),
      free({ berth: 'berth', from: 'arrives', to: 'departs' }),
      voucherFits({ voucher: 'voucher', berth: 'berth' }),
      withinCredit({ mark: 'mark', berth: 'berth', from: 'arrives', to: 'departs' }),
      needed('power', { when: isElectric({ mark: 'mark' }) }),
      when(not(isStaff({ staff: 'caller.staff' })), [inOrder({ earlier: 'arrives', later: 'departs' }), needed('voucher')]),
      when(equals({ power: '16A' }), [needed('voucher')]),
      when(occasionIs('create'), [unique(berths, { code: 'berth' })]),
    ],
  },
);
yes<Same<Accepted<typeof booking>, { mark: string; berth: string; arrives: Day; departs: Day; voucher?: string; power?: '16A' | '32A' }>>();
declare const records: Records;
export const v1 = booking.judge({}, { records, given: { caller: { id: 1, staff: true } } });
// (a)
export const signUp = intake(
  'sign-up',
  {
    email: text('E-mail').orAbsent(),
    phone: text('Phone').orAbsent(),
    passphrase: text('P', length({ min: 12 })).secret(),
    again: text('P again').secret().leftOut(),
    terms: flag('Terms', isTrue()).leftOut(),
    born: day('Born', notAfter(yearsBeforeToday(18))),
    nick: text('n').orNull(),
    n: whole('n').orAbsent().orElse(1),
  },
  {
    storedIn: owners,
    rules: [
      atLeastOneOf('email', 'phone'),
      same({ first: 'passphrase', second: 'again' }),
      unique(owners, { email: 'email' }, { ignoringCase: ['email'] }),
    ],
  },
);
yes<Same<Accepted<typeof signUp>, { email?: string; phone?: string; passphrase: string; born: Day; nick: string | null; n: number }>>();
export const v3 = signUp.judge({});
// (d)
const card = pattern(/x/, 'x');
export const payment = intake(
  'pay',
  {
    how: oneOfShapes('Payment', 'method', {
      card: shape({ number: text('No', card), expires: day('Exp') }),
      transfer: shape({ iban: text('IBAN'), due: day('Due') }, inOrder({ earlier: 'due', later: 'due' })),
      cash: shape({}),
    }),
    on: day('On'),
  },
  { rules: [inOrder({ earlier: 'on', later: 'how.card.expires' })] },
);
yes<
  Same<
    Accepted<typeof payment>['how'],
    { method: 'card'; number: string; expires: Day } | { method: 'transfer'; iban: string; due: Day } | { method: 'cash' }
  >
>();
// (e)
const oneAdult = rule(
  'one-adult',
  { crew: entries({ born: day }), on: day },
  {
    holds: ({ crew, on }) => {
      yes<Same<typeof crew, readonly { readonly born: Day }[]>>();
      return crew.some((c) => nights(c.born, on) > 6574);
    },
    message: '',
    blames: 'crew',
  },
);
const bill = rule(
  'bill',
  { lines: entries({ price: decimal, count: whole }), most: decimal },
  { holds: ({ lines, most }) => lines.reduce((s, l) => s + l.price * l.count, 0) <= most, message: '', blames: ['lines', 'most'] },
);
export const crew = intake(
  'crew',
  {
    on: day('On'),
    most: whole('Most'),
    crew: list('Crew', group('M', { name: text('Name'), born: day('Born'), fee: decimal('Fee'), n: whole('n') })),
  },
  {
    rules: [
      oneAdult({ crew: { born: 'crew.*.born' }, on: 'on' }),
      inOrder({ earlier: 'crew.*.born', later: 'on' }),
      bill({ lines: { price: 'crew.*.fee', count: 'crew.*.n' }, most: 'most' }),
    ],
  },
);
// (i) an outside service; entries that fail
export const registered = rule(
  'registered',
  { mark: text },
  { asks: async ({ mark }, _f, _t, { signal }) => !signal.aborted && mark !== '', within: 800, message: '', blames: 'mark' },
);
export const distinctNames = rule(
  'distinct-names',
  { people: entries({ name: text }) },
  {
    failing: ({ people }) => people.flatMap((p, i) => (people.findIndex((q) => q.name === p.name) < i ? [i] : [])),
    message: '',
    blames: 'people',
  },
);
export const inSeason = rule(
  'in-season',
  { berth: text },
  {
    looksUp: { open: bookings.count({ berth: 'berth', departs: above(exactly('2031-04-01')) }) },
    holds: (_r, { open }) => open < 3,
    message: '',
    blames: 'berth',
  },
);
// ranges, alternatives, other columns, sums, orders, keys of several columns, scopes
const readings = collection(
  'readings',
  { house: whole, number: whole, meter: text, at: moment, from: day, to: maybe(day), value: exact, state: text },
  { key: ['house', 'number'], scope: 'house', only: { state: exactly('read', 'checked') } },
);
export const plausible = rule(
  'plausible',
  { meter: text, other: maybe(text), from: day, to: day },
  {
    looksUp: {
      latest: readings.first({ meter: 'meter', from: both(notBelow('from'), below('to')) }, ['value'], { highest: 'at' }),
      total: readings.sum(both({ meter: either('meter', 'other') }, either({ to: exactly(null) }, { to: above(column('from')) })), 'value'),
      last: readings.highest({ meter: 'meter', state: exactly('read', 'checked') }, 'to', { exceptItself: true }),
    },
    holds: (_r, { latest, total, last }) => compareExact(total, latest?.value ?? 0) >= 0 && last !== '2031-05-01',
    message: '{total}',
    blames: 'meter',
  },
);
export const reading = intake(
  'reading',
  { meter: text('Meter'), from: day('From'), to: day('To'), seen: whole('Version').orAbsent().leftOut() },
  {
    storedIn: readings,
    rules: [plausible({ meter: 'meter', other: 'meter', from: 'from', to: 'to' }), unchangedSince(readings, { number: 'seen' })],
  },
);
export const judgedWithin = (records: MemoryRecords) =>
  reading.judge(
    {},
    { records: cached(records, { collections: ['readings'], seconds: 60 }).within({ house: 7 }), itself: { house: 7, number: 1 } },
  );
// reuse by spread
export const more = intake(
  'more',
  { ...crew.fields, extra: whole('Extra') },
  { rules: [...crew.rules, distinctNames({ people: { name: 'crew.*.name' } })] },
);
export interface Crew extends Accepted<typeof more> {}

// many rows, changes, storing, start-up
const kept = collection(
  'kept',
  { id: whole, mark: text, from: day, until: maybe(day), gone: flag },
  { key: 'id', only: { gone: exactly(false), until: exactly(null) } },
);
export const stay = intake(
  'stay',
  { mark: text('Mark'), from: day('From'), until: day('Until'), marks: list('Marks', text('Mark')), house: text('House').given() },
  {
    storedIn: kept,
    rules: [
      unique(kept, { mark: 'marks.*' }, { only: { from: 'from', gone: exactly(true) }, ignoringCase: ['mark'], constraint: 'kept_mark' }),
      noOverlap(kept, { mark: 'mark', from: 'from', until: 'until' }, { interval: ['from', 'until'], touching: 'refused' }),
      storedChoice(kept, { mark: 'mark' }, { shows: 'id' }),
      unexpired(kept, { mark: 'mark' }, { until: 'until', as: 'still-good' }),
    ],
  },
);
export async function run(records: Records) {
  const given = { house: 'x' };
  for await (const { row, verdict } of stay.judgeMany(new Set([1]), { records, given, chunk: 10, itself: () => ({ id: 1 }) }))
    if (verdict.outcome === 'accepted') verdict.value.marks.at(row)?.trim();
  const amended = await stay.amend({ mark: 'x' }, {}, { records, given, itself: { id: 1 }, whole: true });
  const paths: readonly ('mark' | 'from' | 'until' | 'marks' | 'marks.*' | 'house')[] =
    amended.outcome === 'accepted' ? amended.changed : [];
  const stored = await stay.judgeAndStore({}, { records, given }, ({ mark }) => mark.length);
  const length: number = stored.outcome === 'accepted' ? stored.stored : 0;
  const refused = refusalOf(stay, new Error('x'), {
    records,
    locale: 'de',
    value: { mark: 'x', from: '2031-05-01', until: '2031-05-02', marks: [] },
  });
  return [paths, length, refused?.outcome, (await checkStore(records, [stay, more]))[0]?.statement];
}

// in front of a handler
const desk = intake('desk', { mark: text('Mark'), from: day('From'), who: whole('Who').given() });
const paging = intake('paging', { page: whole('Page').orElse(1) });
receiveByFetch(
  desk,
  { caller: () => ({ id: 3 }), given: ({ caller }) => ({ who: caller.id }), allows: ({ caller }) => caller.id > 2 },
  ({ mark }, { caller, request }) => ({ location: `/${mark}/${caller.id}`, body: request.url }),
);
receiveByExpress(
  { body: desk, query: paging },
  { given: ({ params }) => ({ body: { who: Number(params.who) } }) },
  ({ body, query }, { response }) => {
    const page: number = query.page;
    response.status(200).json({ page, from: body.from });
  },
);
// the caller's type is known from the function that finds the caller, whichever way it is written
receiveByFetch(
  desk,
  { caller: (request) => (request.url ? { id: 1 } : undefined), given: ({ caller }) => ({ who: caller.id }) },
  ({ mark }, { caller }) => ({ body: [mark, caller.id] }),
);
receiveByExpress(
  desk,
  { caller: async (request) => (request.ip ? { id: 1 } : undefined), given: async ({ caller }) => ({ who: caller.id }) },
  ({ mark }, { caller }) => ({ body: [mark, caller.id] }),
);

// what the application supplies may be missing, for one judgement or for each row
const signed = intake('signed', {
  mark: text('Mark'),
  who: group('Who', { id: whole('Id') })
    .given()
    .orAbsent(),
});
signed.judgeLocally({}, { given: {} });
signed.judgeMany([], { given: (_row, row) => (row > 1 ? { who: { id: row } } : {}), rowsBefore: 3 }).counts.trials satisfies object;

// a rule that reads the value before the change, conditions on a choice, on a shape, on the calendar, and a use on trial
const later = rule(
  'later',
  { before: maybe(day), now: day },
  { holds: ({ before, now }) => (before ?? now) <= now, message: '', blames: 'now' },
);
const priced = intake(
  'priced',
  {
    from: day('From'),
    power: choice('Power', ['16A', '32A']).orAbsent(),
    price: exact('Price', { places: 2 }, atLeast('0.01')),
    pay: oneOfShapes('Pay', 'by', { card: shape({ holder: text('Holder') }), bill: shape({}) }),
  },
  {
    zone: 'UTC',
    rules: [
      later({ before: asStored('from'), now: 'from' }, { trial: true }),
      needed('power', { when: allOf(equals({ pay: 'card' }), fromDay('2032-01-01'), untilDay('2032-12-31')) }),
      atLeastOneOf('power', 'pay.card.holder', { as: 'reachable', when: not(equals({ power: ['16A', '32A'] })) }),
    ],
  },
);
priced.amend({ from: '2031-05-01', power: null }, {}, { complete: true });
priced.amendAndStore({}, {}, {}, async ({ price }, changed) => [price, ...changed]);

// 21. All entries of the list in which an entry stands, the first rows in an order, stretches of the calendar, a choice that is text.
const stretches = collection('stretches', { id: whole, owner: text, pier: text, arrives: day, made: moment }, { key: 'id' });
const reached = rule(
  'good/reached',
  { pier: text, arrives: day, perhaps: maybe(text), those: entries({ id: text }) },
  {
    looksUp: {
      last: stretches.firstRows({ pier: 'pier' }, ['arrives'], { highest: 'made', most: 5 }),
      count: stretches.count({ pier: 'pier', arrives: inSame('month', 'arrives'), made: inThis('year') }),
      some: stretches.one(either({ pier: 'pier' }, { owner: 'perhaps' }), ['id']),
    },
    holds: ({ those }, { last, count, some }) => {
      yes<Same<typeof last, readonly { readonly arrives: Day }[]>>();
      return count + some.id < those.length;
    },
    message: '',
    blames: 'pier',
  },
);
intake(
  'reach',
  {
    pier: choice('Pier', ['north', 'south']),
    arrives: day('Arrival'),
    note: text('Note').orAbsent(),
    nodes: list('Nodes', group('Node', { id: text('Id'), parent: text('Parent').orAbsent() })).entryLabel('Node {number}'),
  },
  {
    zone: 'Europe/Oslo',
    rules: [
      reached({ pier: 'pier', arrives: 'arrives', perhaps: 'note', those: { id: 'nodes.*.id' } }),
      among({ value: 'nodes.*.parent', those: 'nodes.*.id' }),
      unique(stretches, { pier: 'pier' }),
    ],
  },
);
exact('Price', { places: 2 }, below('100'));

// 22. Items that count as several kinds: whole numbers, choices of texts, bare or inside lists and tables.
const counted = rule(
  'good/counted',
  { n: whole, word: text, one: choice },
  { holds: ({ n, word }) => word.length < n, message: '', blames: 'n' },
);
intake(
  'items',
  {
    counts: list('Counts', whole('Count')),
    words: table('Words', choice('Word', ['a', 'b'])),
    houses: list('Houses', group('House', { prices: table('Prices', whole('Price')) })).orEmpty(),
    towns: table('Towns', list('Towns', list('Words', choice('Word', ['a', 'b'])))),
  },
  {
    rules: [
      counted({ n: 'counts.*', word: 'words.*', one: 'words.*' }),
      counted({ n: asStored('houses.*.prices.*'), word: 'towns.*.*.*', one: 'towns.*.*.*' }),
    ],
  },
);
