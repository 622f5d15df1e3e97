import { receivedFile } from 'jestril';

/** One kind, cleaning step or rule of the reference page. */
export interface Entry {
  readonly name: string;
  /** What must hold, in one sentence. */
  readonly law: string;
  /** Option, meaning, default. */
  readonly options?: readonly (readonly [name: string, meaning: string, byDefault: string])[];
  /** The code of a field, or of the fields and rules of an intake; it is run. */
  readonly code: string;
  readonly holds: unknown;
  readonly fails: unknown;
  /** Stored rows by collection, for the rules that ask them. */
  readonly records?: { readonly [collection: string]: readonly object[] };
  /** The examples are changes to this record, which is kept in the first collection. */
  readonly changes?: { readonly stored: object; readonly itself: object };
}

const ONE_VALUE = (entries: readonly Entry[]) => entries;

export const kinds = ONE_VALUE([
  {
    name: 'text',
    law: 'Text. A needed text must not be blank; NUL and lone surrogates are refused.',
    code: "text('Berth')",
    holds: 'A1',
    fails: 7,
  },
  {
    name: 'whole',
    law: 'A whole number that JavaScript keeps exactly. It fits decimal roles too.',
    code: "whole('Guests')",
    holds: 4,
    fails: 4.5,
  },
  { name: 'decimal', law: 'A number with decimals, as JSON carries it.', code: "decimal('Length')", holds: 11.25, fails: '11.25' },
  {
    name: 'exact',
    law: 'A decimal number kept exactly, as canonical text; a JSON number is taken by its shortest text. With `{ places: 2 }` it is written with two places at least: `12.5` becomes `12.50`.',
    code: "exact('Price')",
    holds: '38.50',
    fails: '38,50',
  },
  {
    name: 'flag',
    law: 'Yes or no. A check box that a form does not send reads `false`.',
    code: "flag('Terms')",
    holds: true,
    fails: 'yes',
  },
  {
    name: 'choice',
    law: 'One of the texts or numbers listed, of a `labelled` list, or of a TypeScript enum.',
    code: "choice('Shore power', labelled([['16A', '16 ampere'], ['32A', '32 ampere']]))",
    holds: '16A',
    fails: '64A',
  },
  {
    name: 'day',
    law: 'A day of the calendar that exists, `YYYY-MM-DD` (RFC 3339 full-date).',
    code: "day('Arrival')",
    holds: '2032-02-29',
    fails: '2031-02-29',
  },
  {
    name: 'moment',
    law: 'A date and time with an offset (RFC 3339 date-time), kept as UTC text to the millisecond.',
    code: "moment('Logged')",
    holds: '2031-05-01T09:30:00+02:00',
    fails: '2031-05-01T09:30:00',
  },
  {
    name: 'timeOfDay',
    law: 'A time of day, `HH:MM`, perhaps with seconds (RFC 3339 partial-time).',
    code: "timeOfDay('Opens')",
    holds: '09:30',
    fails: '24:00',
  },
  {
    name: 'list',
    law: 'Any number of entries, each like its item.',
    code: "list('Marks', text('Mark'))",
    holds: ['PW-2040'],
    fails: 'PW-2040',
  },
  {
    name: 'group',
    law: 'Fields under one name, with rules between them.',
    code: "group('Owner', { name: text('Name') })",
    holds: { name: 'Ida' },
    fails: ['Ida'],
  },
  {
    name: 'table',
    law: 'Entries under any names, each like the one given.',
    code: "table('Prices', decimal('Price'))",
    holds: { A1: 38.5 },
    fails: [38.5],
  },
  {
    name: 'oneOfShapes',
    law: 'An object of one of several shapes, told apart by the text under a key.',
    code: "oneOfShapes('Payment', 'method', { card: shape({ number: text('Number') }), cash: shape({}) })",
    holds: { method: 'cash' },
    fails: { method: 'barter' },
  },
  {
    name: 'inlineUpload',
    law: 'A file that stands in JSON, in base64 (RFC 4648): `name`, `mediaType` and `base64`. Its value is an `Upload`, and the rules about files fit it.',
    code: "inlineUpload('Certificate')",
    holds: { name: 'a.pdf', mediaType: 'application/pdf', base64: 'JVBERi0=' },
    fails: { name: 'a.pdf', mediaType: 'application/pdf', base64: 'JVBERi0' },
  },
  {
    name: 'upload',
    law: 'A file that a transport has received: a WHATWG `File`, an object with `name`, `mediaType` (or `type`), `size` and bytes as `content`, or a `receivedFile`. What a sender can write as JSON is none.',
    code: "upload('Certificate')",
    holds: receivedFile({ name: 'a.pdf', mediaType: 'application/pdf', size: 3200 }),
    fails: 'a.pdf',
  },
  {
    name: 'ownKind',
    law: 'A kind of your own upon another: it refuses a value, or gives its canonical form, and also counts as the other.',
    code: "ownKind('marina/berth-code', text, { reads: (code) => (/^[a-z]\\d$/i.test(code) ? code.toUpperCase() : undefined), says: '{field} must be a berth code, such as A1.' })('Berth')",
    holds: 'a1',
    fails: 'pier',
  },
]);

const ignoringCase = ['ignoringCase', 'upper and lower case count as the same', 'false'] as const;
const of = (byDefault: string) => [['of', "`'unicode'` (all scripts) or `'ascii'`", byDefault]] as const;

export const textRules = ONE_VALUE([
  {
    name: 'length',
    law: 'So many characters (Unicode code points) or entries; both limits are allowed values.',
    options: [
      ['min', 'at least', 'none'],
      ['max', 'at most', 'none'],
    ],
    code: "text('Notes', length({ min: 2, max: 5 }))",
    holds: 'ab',
    fails: 'a',
  },
  {
    name: 'pattern',
    law: 'The expression matches. One that could take more than linear time is refused: [patterns](patterns.md).',
    code: "text('Mark', pattern(/^[A-Z]{2}-\\d{4}$/, 'two capital letters, a dash and four digits'))",
    holds: 'PW-2040',
    fails: 'pw-2040',
  },
  { name: 'letters', law: 'Letters only.', options: of("`'unicode'`"), code: "text('Name', letters())", holds: 'Łódź', fails: 'Ida 2' },
  {
    name: 'lettersAndDigits',
    law: 'Letters and digits only.',
    options: of("`'unicode'`"),
    code: "text('Code', lettersAndDigits({ of: 'ascii' }))",
    holds: 'A1',
    fails: 'Å1',
  },
  { name: 'digits', law: 'Digits only.', options: of("`'ascii'`"), code: "text('Gate code', digits())", holds: '4071', fails: '40 71' },
  { name: 'upperCase', law: 'No letter in lower case.', code: "text('Mark', upperCase())", holds: 'PW-2040', fails: 'Pw-2040' },
  { name: 'lowerCase', law: 'No letter in upper case.', code: "text('Tag', lowerCase())", holds: 'pier-4', fails: 'Pier-4' },
  {
    name: 'characterMix',
    law: 'Characters of at least so many of the classes `upper`, `lower`, `digit`, `other`.',
    options: [['least', 'of the classes named', 'all of them']],
    code: "text('Passphrase', characterMix(['upper', 'lower', 'digit', 'other'], { least: 3 }))",
    holds: 'Gulls at 4',
    fails: 'gulls',
  },
  {
    name: 'contains',
    law: 'The part is in the text.',
    options: [ignoringCase],
    code: "text('Notes', contains('pier'))",
    holds: 'near the pier',
    fails: 'near the quay',
  },
  {
    name: 'without',
    law: 'The part is not in the text.',
    options: [ignoringCase],
    code: "text('Passphrase', without('marina', { ignoringCase: true }))",
    holds: 'gulls',
    fails: 'My Marina',
  },
  {
    name: 'startsWith',
    law: 'The text starts so.',
    options: [ignoringCase],
    code: "text('Mark', startsWith('PW-'))",
    holds: 'PW-2040',
    fails: '2040',
  },
  {
    name: 'endsWith',
    law: 'The text ends so.',
    options: [ignoringCase],
    code: "text('File', endsWith('.pdf', { ignoringCase: true }))",
    holds: 'a.PDF',
    fails: 'a.png',
  },
  {
    name: 'allowed',
    law: 'One of these values, exactly.',
    code: "text('Pier', allowed(['north', 'south']))",
    holds: 'north',
    fails: 'west',
  },
  { name: 'forbidden', law: 'None of these values.', code: "text('Name', forbidden(['admin', 'root']))", holds: 'Ida', fails: 'root' },
  {
    name: 'email',
    law: 'An e-mail address as browsers check it (WHATWG HTML).',
    code: "text('E-mail', email())",
    holds: 'ida@fjordmail.example',
    fails: 'ida@',
  },
  {
    name: 'webAddress',
    law: 'An absolute URL (WHATWG URL) of one of the schemes.',
    options: [['schemes', 'without their colon', "`['https', 'http']`"]],
    code: "text('Page', webAddress())",
    holds: 'https://pellwick.example/pier?x=1',
    fails: 'pellwick.example',
  },
  {
    name: 'hostName',
    law: 'A host name in ASCII (RFC 1123).',
    code: "text('Host', hostName())",
    holds: 'quay.pellwick.example',
    fails: 'quay_1',
  },
  {
    name: 'ipAddress',
    law: 'An IP address of version 4 or 6 (RFC 4291), without a zone.',
    options: [['versions', '4, 6 or both', '`[4, 6]`']],
    code: "text('Address', ipAddress())",
    holds: '2001:db8::7',
    fails: '192.0.2.256',
  },
  {
    name: 'phone',
    law: 'An international phone number (ITU-T E.164), without blanks.',
    code: "text('Phone', phone())",
    holds: '+4712345678',
    fails: '12345678',
  },
  {
    name: 'uuid',
    law: 'A UUID (RFC 9562).',
    options: [['versions', 'of 1 to 8; naming them leaves out Nil and Max', 'all']],
    code: "text('Id', uuid({ versions: [4, 7] }))",
    holds: '01890a5d-ac96-774b-bcce-b302099a8057',
    fails: '01890a5d-ac96-174b-bcce-b302099a8057',
  },
  {
    name: 'cardNumber',
    law: 'A card number (ISO/IEC 7812) with the right check digit, digits only.',
    code: "text('Card', cardNumber())",
    holds: '79927398713',
    fails: '79927398710',
  },
  {
    name: 'iban',
    law: 'A bank account number (ISO 13616) in electronic form, of its country’s length, with the right check digits.',
    code: "text('Account', iban())",
    holds: 'NO9386011117947',
    fails: 'NO9386011117948',
  },
  {
    name: 'languageTag',
    law: 'A well-formed language tag (BCP 47).',
    code: "text('Language', languageTag())",
    holds: 'zh-Hant',
    fails: 'zh_Hant',
  },
  {
    name: 'timeZone',
    law: 'The name of a time zone (IANA), as far as the run time knows it.',
    code: "text('Zone', timeZone())",
    holds: 'Europe/Oslo',
    fails: 'Europe/Pellwick',
  },
  {
    name: 'currencyCode',
    law: 'A currency (ISO 4217), as far as the run time knows it.',
    code: "text('Currency', currencyCode())",
    holds: 'NOK',
    fails: 'NKR',
  },
  {
    name: 'countryCode',
    law: 'A country (ISO 3166-1 alpha-2), as far as the run time knows it.',
    code: "text('Country', countryCode())",
    holds: 'NO',
    fails: 'XX',
  },
  {
    name: 'base64',
    law: 'Text in base64 (RFC 4648).',
    options: [['urlSafe', 'the alphabet for URLs; its padding may be left out', 'false']],
    code: "text('Token', base64())",
    holds: 'YWhveQ==',
    fails: 'YWhveQ',
  },
  { name: 'jsonText', law: 'Text that is JSON (RFC 8259).', code: "text('Settings', jsonText())", holds: '{"a":1}', fails: '{a:1}' },
]);

export const numberRules = ONE_VALUE([
  {
    name: 'between',
    law: 'From the first limit to the second, both allowed. Limits may be text where a number would not be exact.',
    code: "whole('Nights', between(1, 28))",
    holds: 28,
    fails: 29,
  },
  { name: 'atLeast', law: 'That number or more.', code: "exact('Price', atLeast('0.10'))", holds: '0.10', fails: '0.09' },
  { name: 'atMost', law: 'That number or less.', code: "decimal('Beam', atMost(15.5))", holds: 15.5, fails: 15.51 },
  {
    name: 'above',
    law: 'More than that number. (With a role’s name it compares a column in a look-up.)',
    code: "decimal('Depth', above(0))",
    holds: 0.1,
    fails: 0,
  },
  {
    name: 'below',
    law: 'Less than that number. (With a role’s name it compares a column in a look-up.)',
    code: "whole('Guests', below(13))",
    holds: 12,
    fails: 13,
  },
  {
    name: 'multipleOf',
    law: 'So many times a step, counted in decimals.',
    code: "decimal('Amount', multipleOf(0.1))",
    holds: 0.3,
    fails: 0.35,
  },
  {
    name: 'places',
    law: 'At most so many digits after the decimal point.',
    code: "decimal('Length', places(2))",
    holds: 11.25,
    fails: 11.255,
  },
  {
    name: 'precision',
    law: 'At most so many digits before and after the decimal point, as a NUMERIC column takes them.',
    options: [
      ['whole', 'digits before', 'to be given'],
      ['places', 'digits after', 'to be given'],
    ],
    code: "exact('Price', precision({ whole: 4, places: 2 }))",
    holds: '9999.99',
    fails: '10000',
  },
  { name: 'isTrue', law: 'The flag is set.', code: "flag('Harbour rules', isTrue())", holds: true, fails: false },
  { name: 'isFalse', law: 'The flag is not set.', code: "flag('Subscription', isFalse())", holds: false, fails: true },
]);

export const timeRules = ONE_VALUE([
  {
    name: 'notBefore',
    law: 'That day, moment or time, or a later one. The bound may be relative: `today`, `daysFromToday(30)`, `now`, `minutesFromNow(-5)`.',
    code: "day('Arrival', notBefore(today))",
    holds: '2031-04-30',
    fails: '2031-04-29',
  },
  {
    name: 'notAfter',
    law: 'That day, moment or time, or an earlier one.',
    code: "day('Arrival', notAfter(daysFromToday(365)))",
    holds: '2032-04-29',
    fails: '2032-04-30',
  },
  {
    name: 'before',
    law: 'Earlier than that day, moment or time.',
    code: "timeOfDay('Arrival', before('22:00'))",
    holds: '21:59',
    fails: '22:00',
  },
  {
    name: 'after',
    law: 'Later than that day, moment or time.',
    code: "moment('Logged', after('2031-01-01T00:00:00Z'))",
    holds: '2031-01-01T00:00:01Z',
    fails: '2031-01-01T01:00:00+01:00',
  },
  {
    name: 'yearsOld',
    law: 'A day of birth at least so many years ago; 29 February comes of age on 1 March.',
    code: "day('Born', yearsOld(18))",
    holds: '2013-04-30',
    fails: '2013-05-01',
  },
  {
    name: 'onWeekdays',
    law: 'A day that falls on one of these days of the week.',
    code: "day('Inspection', onWeekdays(['tuesday', 'thursday']))",
    holds: '2031-05-01',
    fails: '2031-05-02',
  },
]);

export const otherRules = ONE_VALUE([
  {
    name: 'distinct',
    law: 'No two entries alike.',
    options: [['by', 'the field of the entries that is compared', 'the whole entry']],
    code: "list('Crew', group('Member', { name: text('Name') }), distinct({ by: 'name' }))",
    holds: [{ name: 'Ida' }, { name: 'Bo' }],
    fails: [{ name: 'Ida' }, { name: 'Ida' }],
  },
  {
    name: 'mustContain',
    law: 'Some entry is this text, number or flag.',
    code: "list('Languages', text('Language'), mustContain('en'))",
    holds: ['nb', 'en'],
    fails: ['nb'],
  },
  {
    name: 'uploadSize',
    law: 'The size of a file in bytes.',
    options: [
      ['min', 'at least', '1'],
      ['max', 'at most', 'to be given'],
    ],
    code: "upload('Certificate', uploadSize({ max: 2000 }))",
    holds: receivedFile({ name: 'a.pdf', mediaType: 'application/pdf', size: 2000 }),
    fails: receivedFile({ name: 'a.pdf', mediaType: 'application/pdf', size: 2001 }),
  },
  {
    name: 'mediaTypes',
    law: 'A file of one of these media types, as its sender says.',
    code: "upload('Photo', mediaTypes(['image/*', 'application/pdf']))",
    holds: receivedFile({ name: 'a.png', mediaType: 'image/png', size: 9 }),
    fails: receivedFile({ name: 'a.txt', mediaType: 'text/plain', size: 9 }),
  },
  {
    name: 'satisfiesAll',
    law: 'Every one of these rules holds; one finding, with a message of its own.',
    code: "text('Code', satisfiesAll([length({ max: 4 }), digits()], { message: '{field} must be up to four digits.' }))",
    holds: '407',
    fails: '40a',
  },
  {
    name: 'satisfiesAny',
    law: 'At least one of these rules holds.',
    code: "text('Contact', satisfiesAny([email(), phone()], { message: '{field} must be an e-mail address or a phone number.' }))",
    holds: '+4712345678',
    fails: 'ida',
  },
  {
    name: 'satisfiesNone',
    law: 'None of these rules holds.',
    code: "text('Nickname', satisfiesNone([email(), phone()], { message: '{field} must not be a way to reach you.' }))",
    holds: 'ida',
    fails: 'ida@fjordmail.example',
  },
]);

export const cleaning = ONE_VALUE([
  { name: 'trim', law: 'Takes white space off both ends.', code: "text('F', trim())", holds: ' A1 ', fails: ' ' },
  {
    name: 'collapse',
    law: 'Makes every run of white space one blank.',
    code: "text('F', collapse())",
    holds: 'near\n\n  the pier',
    fails: ' ',
  },
  { name: 'foldCase', law: 'Turns letters into lower case.', code: "text('F', foldCase())", holds: 'Ida@Fjordmail.Example', fails: ' ' },
  {
    name: 'unicodeForm',
    law: 'Writes the same characters the same way (Unicode TR 15); NFC unless another form is named.',
    code: "text('F', unicodeForm())",
    holds: 'A\u030a',
    fails: ' ',
  },
  { name: 'lineEnds', law: 'Makes every line end a line feed.', code: "text('F', lineEnds())", holds: 'a\r\nb', fails: ' ' },
  {
    name: 'dropControls',
    law: 'Drops control characters but for tabs and line feeds, and those that turn the direction of text.',
    code: "text('F', dropControls())",
    holds: 'a\u202e\u0007b',
    fails: '\u0007',
  },
  {
    name: 'escapeMarkup',
    law: 'Writes what HTML reads as markup as entities; what is an entity already stays.',
    code: "text('F', escapeMarkup())",
    holds: '<b> & &amp;',
    fails: ' ',
  },
  {
    name: 'cleaning',
    law: 'A step of your own.',
    code: "text('F', cleaning('marina/no-blanks', text, (value) => value.replaceAll(' ', '')))",
    holds: 'PW 2040',
    fails: ' ',
  },
]);

/** Rules between fields: `code` makes the fields and the rules of an intake. */
export const betweenRules: readonly Entry[] = [
  {
    name: 'same',
    law: 'Two fields have the same value; blames the second.',
    code: "[{ pass: text('Passphrase').secret(), again: text('Passphrase again').secret() }, [same({ first: 'pass', second: 'again' })]]",
    holds: { pass: 'gulls', again: 'gulls' },
    fails: { pass: 'gulls', again: 'Gulls' },
  },
  {
    name: 'inOrder',
    law: 'Two days, moments, times or numbers, the first before (less than) the second; blames the later one.',
    options: [['orEqual', 'two that are equal are in order, too', 'false']],
    code: "[{ from: day('Arrival'), to: day('Departure') }, [inOrder({ earlier: 'from', later: 'to' })]]",
    holds: { from: '2031-05-01', to: '2031-05-02' },
    fails: { from: '2031-05-01', to: '2031-05-01' },
  },
  {
    name: 'needed',
    law: 'A field that may be absent is needed after all: under a condition, or on an occasion.',
    code: "[{ power: flag('Power'), plug: text('Plug').orAbsent() }, [needed('plug', { when: equals({ power: true }) })]]",
    holds: { power: false },
    fails: { power: true },
  },
  {
    name: 'absent',
    law: 'A field must not be there.',
    code: "[{ power: flag('Power'), plug: text('Plug').orAbsent() }, [absent('plug', { when: equals({ power: false }) })]]",
    holds: { power: false },
    fails: { power: false, plug: '16A' },
  },
  {
    name: 'atLeastOneOf',
    law: 'At least one of these fields is there; blames all of them.',
    code: "[{ email: text('E-mail').orAbsent(), phone: text('Phone').orAbsent() }, [atLeastOneOf('email', 'phone')]]",
    holds: { phone: '+4712345678' },
    fails: {},
  },
  {
    name: 'different',
    law: 'Two fields have different values; blames the second.',
    code: "[{ old: text('Old passphrase').secret(), next: text('New passphrase').secret() }, [different({ first: 'old', second: 'next' })]]",
    holds: { old: 'gulls', next: 'terns' },
    fails: { old: 'gulls', next: 'gulls' },
  },
  {
    name: 'daysApart',
    law: 'The days from one day to another are within limits, both allowed; blames the second.',
    options: [
      ['least', 'days at least', 'none'],
      ['most', 'days at most', 'none'],
    ],
    code: "[{ from: day('Arrival'), to: day('Departure') }, [daysApart({ from: 'from', to: 'to' }, { least: 1, most: 28 })]]",
    holds: { from: '2031-05-01', to: '2031-05-29' },
    fails: { from: '2031-05-01', to: '2031-05-30' },
  },
  {
    name: 'together',
    law: 'All of these fields are there, or none; blames all of them.',
    code: "[{ power: text('Plug').orAbsent(), amount: whole('Amount').orAbsent() }, [together('power', 'amount')]]",
    holds: {},
    fails: { power: '16A' },
  },
  {
    name: 'exactlyOneOf',
    law: 'One of these fields is there, and no other of them; blames all of them.',
    code: "[{ card: text('Card').orAbsent(), voucher: text('Voucher').orAbsent() }, [exactlyOneOf('card', 'voucher')]]",
    holds: { card: '1' },
    fails: { card: '1', voucher: '2' },
  },
  {
    name: 'totalAtMost',
    law: 'A sum of products of fields, or over the entries of a list, stays within a number or the value of a field; counted exactly.',
    code: "[{ price: exact('Price'), amount: whole('Amount'), limit: exact('Limit') }, [totalAtMost([['price', 'amount']], 'limit')]]",
    holds: { price: '0.10', amount: 3, limit: '0.30' },
    fails: { price: '0.10', amount: 4, limit: '0.30' },
  },
  {
    name: 'among',
    law: 'A value that some entry of a list has too; blames the value.',
    code: "[{ skipper: text('Skipper'), crew: list('Crew', text('Name')) }, [among({ value: 'skipper', those: 'crew.*' })]]",
    holds: { skipper: 'Ida', crew: ['Bo', 'Ida'] },
    fails: { skipper: 'Liv', crew: ['Bo', 'Ida'] },
  },
];

const OWNERS = { owners: [{ id: 1, email: 'ida@fjordmail.example', version: 3 }] };
const PLUGS = { plugs: [{ code: '16A' }, { code: '32A' }] };
const VOUCHERS = {
  vouchers: [
    { code: 'SPRING', until: '2031-05-31' },
    { code: 'WINTER', until: '2031-02-28' },
  ],
};
const BOOKINGS = { bookings: [{ id: 1, berth: 'A1', arrives: '2031-05-10', departs: '2031-05-14' }] };
const ONLY: readonly [string, string, string] = [
  'only',
  'only rows count that have these values, of fields or fixed with `exactly(…)`',
  'all rows',
];
const CONSTRAINT: readonly [string, string, string] = [
  'constraint',
  'the name of the database’s constraint that enforces the same',
  'known by its columns',
];

/** Rules against stored records. */
export const storedRules: readonly Entry[] = [
  {
    name: 'unique',
    law: 'No stored row has these values in these columns, but for the record that is judged again (`itself`); nor has an earlier entry of the same list, or an earlier row of a `judgeMany`.',
    options: [
      ['ignoringCase', 'columns in which upper and lower case count as the same, as the store folds them', 'none'],
      ONLY,
      CONSTRAINT,
    ],
    code: "[{ email: text('E-mail') }, [unique(collection('owners', { id: whole, email: text }, { key: 'id' }), { email: 'email' }, { ignoringCase: ['email'] })]]",
    holds: { email: 'bo@fjordmail.example' },
    fails: { email: 'IDA@fjordmail.example' },
    records: OWNERS,
  },
  {
    name: 'known',
    law: 'Some stored row has these values in these columns.',
    options: [
      ['ignoringCase', 'columns in which upper and lower case count as the same, as the store folds them', 'none'],
      ONLY,
      CONSTRAINT,
    ],
    code: "[{ owner: whole('Owner') }, [known(collection('owners', { id: whole, email: text }, { key: 'id' }), { id: 'owner' })]]",
    holds: { owner: 1 },
    fails: { owner: 2 },
    records: OWNERS,
  },
  {
    name: 'storedChoice',
    law: 'One of the values that a table allows. The finding lists them, up to twenty.',
    options: [['shows', 'the column that the message lists', 'the column compared'], ONLY],
    code: "[{ plug: text('Plug') }, [storedChoice(collection('plugs', { code: text }, { key: 'code' }), { code: 'plug' })]]",
    holds: { plug: '16A' },
    fails: { plug: '64A' },
    records: PLUGS,
  },
  {
    name: 'unexpired',
    law: 'The record that these values lead to is still good today (a day), or now (a moment). One that is not there is a finding `known`; one without a limit does not expire.',
    options: [['until', 'the column of the last good day, or of the moment when it ends', 'needed'], ONLY],
    code: "[{ voucher: text('Voucher') }, [unexpired(collection('vouchers', { code: text, until: day }, { key: 'code' }), { code: 'voucher' }, { until: 'until' })]]",
    holds: { voucher: 'SPRING' },
    fails: { voucher: 'WINTER' },
    records: VOUCHERS,
  },
  {
    name: 'unchangedSince',
    law: 'The stored record that is changed (`itself`) still has the version that the field says. The field is needed on `amend`, and has to be left out of something new.',
    options: [['on', 'the occasions of changing', '`amend`']],
    code: "[{ version: whole('Version').orAbsent().leftOut() }, [unchangedSince(collection('owners', { id: whole, version: whole }, { key: 'id' }), { version: 'version' })]]",
    holds: { version: 3 },
    fails: { version: 2 },
    records: OWNERS,
    changes: { stored: {}, itself: { id: 1 } },
  },
  {
    name: 'noOverlap',
    law: 'The interval shares nothing with that of a stored row which is alike in the other columns, but for the record that is judged again (`itself`); nor with that of an earlier entry or row.',
    options: [
      ['interval', 'the columns of its beginning and its end', 'needed'],
      ['touching', '`refused`: one must not end as the other begins', '`allowed`'],
      ONLY,
      CONSTRAINT,
    ],
    code: "[{ berth: text('Berth'), from: day('Arrival'), to: day('Departure') }, [noOverlap(collection('bookings', { id: whole, berth: text, arrives: day, departs: day }, { key: 'id' }), { berth: 'berth', arrives: 'from', departs: 'to' }, { interval: ['arrives', 'departs'] })]]",
    holds: { berth: 'A1', from: '2031-05-14', to: '2031-05-15' },
    fails: { berth: 'A1', from: '2031-05-13', to: '2031-05-15' },
    records: BOOKINGS,
  },
];
