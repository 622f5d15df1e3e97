import fc from 'fast-check';
import { intake, pattern, text } from 'jestril';
import { whyNotLinear } from '../../src/core/patterns/linear.ts';
import { stepsOf, UNITS } from '../support/backtracking.ts';

/** An expression that the compiler would not have in a file: without the flag u it means something else. */
const plain = (source: string) => new RegExp(source);

const linear = [
  /^[A-Z]{2}-\d{4}$/,
  /^\+[1-9]\d{6,14}$/,
  /^[a-z]+(?:-[a-z]+)*$/,
  /x/,
  /^\w*$/,
  /^\p{L}+$/u,
  /foo|bar/,
  /^(?:ab|cd)+$/,
  /^a*b*c*$/,
  /^[^@\s]+@[^@\s.]+(?:\.[^@\s.]+)*$/,
  /^[0-9]+(?:\.[0-9]{1,2})?$/,
  /^(?<year>\d{4})-(?<month>\d\d)$/,
  /^#[0-9a-f]{6}$/i,
  /[\u{1F600}-\u{1F64F}]/u,
  /^.{1,40}$/,
  /^[^<>]*$/,
  /^a{0,61}a$/,
  /\d{3}/,
  /^$/,
  /^[-a]+$/,
  /^[\w-]+$/,
  /^\x41\u0042\u{43}$/u,
  /^(a|ab)*$/,
  /^(?=.*\d)(?=.*[a-z]).{8,}$/,
  // Sources that mean something else without the flag u.
  plain('^\\u{3}$'),
  /^a{0}$/,
  /^(?:a(?!b)|b)*$/,
  /^x(?<=x)y$/,
  /^(?:(?=a)a)*$/,
];
const notLinear = [
  /^(a+)+$/,
  /^(a|a)*$/,
  /^(a*)*$/,
  /^(?:a?){30}a{30}$/,
  /\s+$/,
  /^\S+@\S+\.\S+$/,
  /^.*x.*y.*$/,
  /\d+x/,
  /^(.*)\1$/,
  /(?=.*\d)x/,
  /^(?:a(?=.*b))*$/,
  /^x(?<=a*)y$/,
  /^(?:(?:a?|b?)c)*$/,
  /^(?:[^\p{L}]|€)+$/u,
  plain('^(?:\\101|A)+$'),
  /^a{0}(?:b{1,}b{1,})+$/,
  /^a{1,9999}a{1,9999}a{1,9999}$/,
  /^(?:😀|\ud83d\ude00)+$/,
  plain('^(?:\\u{61}|u)+$'),
  /^(.+)@(.+)$/,
  /^[^\s@]+@[^\s@]+\.[^\s@]+$/,
  /^(\w+\s?)+$/,
  /^(?:a?){20}b$/,
  /^(?:a|b|ab)+$/,
  /^[-+]?\d*\.?\d+$/,
  /^\/(?:[\w-]+\/?)*$/,
  /^(?:a{1,2})*$/,
  /^a*a*$/,
  /^(?:k|\u212a)+$/iu,
  /^(?:é|É)*x$/i,
  /^\d*[0-9]*x$/,
  /^(?:\w|\d)+$/,
  /^(?:.|x)+$/,
  /a{1,5000}b/,
  /^x|y+z/,
  /^(?:(^a)|b)*$/m,
  /^(?:\p{L}|é)+$/u,
];

test.each(linear)('%s is linear', (expression) => {
  expect(whyNotLinear(expression)).toBeUndefined();
});

test.each(notLinear)('%s cannot be shown to be', (expression) => {
  expect(whyNotLinear(expression)).toEqual(expect.any(String));
});

test('an expression that is not linear is refused where it is written down', () => {
  expect(() => pattern(/^(a+)+$/, 'letters a')).toThrow(
    'pattern /^(a+)+$/: linear time on hostile text cannot be shown (the same text may be walked through in more and more ways); write it otherwise, or use linearPattern of jestril/linear.',
  );
});

// What people write every day, of names, numbers, codes and addresses.
const everyday = [
  /^[\w,\s-]+\.[A-Za-z]{3}$/, // a file with an extension
  /^.*\.(?:pdf|png|jpe?g)$/i,
  /^[\w.-]+\.(?:csv|ndjson|json)$/,
  /^(?:[\w-]+\/)*[\w.-]+$/,
  /^(0|[1-9]\d*)\.(0|[1-9]\d*)\.(0|[1-9]\d*)$/, // versions
  /^(0|[1-9]\d*)\.(0|[1-9]\d*)\.(0|[1-9]\d*)(?:-((?:0|[1-9]\d*|\d*[a-zA-Z-][0-9a-zA-Z-]*)(?:\.(?:0|[1-9]\d*|\d*[a-zA-Z-][0-9a-zA-Z-]*))*))?(?:\+([0-9a-zA-Z-]+(?:\.[0-9a-zA-Z-]+)*))?$/,
  /^v?\d+(?:\.\d+){0,2}$/,
  /^(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z]{2,}$/, // domain names
  /^(?:(?:[a-zA-Z0-9]|[a-zA-Z0-9][a-zA-Z0-9-]*[a-zA-Z0-9])\.)*(?:[A-Za-z0-9]|[A-Za-z0-9][A-Za-z0-9-]*[A-Za-z0-9])$/,
  /^[a-z0-9]+(?:-[a-z0-9]+)*$/,
  /^[+-]?(?:90(?:\.0+)?|[1-8]?\d(?:\.\d+)?)$/, // latitudes and longitudes
  /^[+-]?(?:180(?:\.0+)?|(?:1[0-7]\d|[1-9]?\d)(?:\.\d+)?)$/,
  /^[-+]?\d+(?:\.\d+)?$/, // signed decimals
  /^[-+]?(?:\d+|\d*\.\d+)$/,
  /^[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?$/,
  /^-?(?:0|[1-9]\d{0,2}(?:,\d{3})*)(?:\.\d{2})?$/,
  /^(?:\d{1,3}(?:\.\d{3})*|\d+)(?:,\d{1,2})?$/,
  /^\$?\d+(?:\.\d\d)?$/,
  /^\d{1,3}%$/,
  /^(?:100|[1-9]?\d)%?$/,
  /^#(?:[0-9a-f]{3}){1,2}$/i, // colours
  /^rgb\(\s*\d{1,3}\s*,\s*\d{1,3}\s*,\s*\d{1,3}\s*\)$/,
  /^\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])$/, // dates and times
  /^(?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:\.\d+)?)?$/,
  /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d+)?(?:Z|[+-]\d\d:\d\d)$/,
  /^P(?:\d+Y)?(?:\d+M)?(?:\d+W)?(?:\d+D)?(?:T(?:\d+H)?(?:\d+M)?(?:\d+S)?)?$/,
  /^(?:0?[1-9]|[12]\d|3[01])[/.-](?:0?[1-9]|1[0-2])[/.-](?:\d{2}|\d{4})$/,
  /^\d{4}-W(?:0[1-9]|[1-4]\d|5[0-3])$/,
  /^[A-Z]{2}\d{2}[A-Z0-9]{11,30}$/, // accounts, cards, registrations
  /^[A-Z]{6}[A-Z0-9]{2}(?:[A-Z0-9]{3})?$/,
  /^(?:\d{4}[ -]?){3}\d{4}$/,
  /^\d{5}(?:-\d{4})?$/,
  /^[A-Z]{1,2}\d[A-Z\d]? ?\d[A-Z]{2}$/i,
  /^\d{4} ?[A-Z]{2}$/,
  /^[A-HJ-NPR-Z0-9]{17}$/,
  /^(?:97[89])?\d{9}[\dX]$/,
  /^\d{4}-\d{3}[\dX]$/,
  /^[A-Z]{2}-\d{4}$/,
  /^[A-Z]{3}\d{4}$/,
  /^\+?\d{1,3}[ -]?\d{2,4}[ -]?\d{2,4}[ -]?\d{2,4}$/, // phones
  /^\+[1-9]\d{1,14}$/,
  /^\(\d{3}\) \d{3}-\d{4}$/,
  /^[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}$/i, // identifiers
  /^[0-9a-fA-F]{24}$/,
  /^[0-9A-HJKMNP-TV-Z]{26}$/,
  /^(?:[A-Za-z0-9+/]{4})*(?:[A-Za-z0-9+/]{2}==|[A-Za-z0-9+/]{3}=)?$/,
  /^[A-Za-z0-9_-]+\.[A-Za-z0-9_-]+\.[A-Za-z0-9_-]*$/,
  /^[a-zA-Z_$][\w$]*$/,
  /^[a-z]+(?:[A-Z][a-z0-9]*)*$/,
  /^[A-Z][A-Z0-9]*(?:_[A-Z0-9]+)*$/,
  /^@?[a-z0-9-~][a-z0-9-._~]*(?:\/[a-z0-9-._~]+)?$/,
  /^[\p{L}\p{M}]+(?:[ '’-][\p{L}\p{M}]+)*$/u, // names of people
  /^\p{Lu}\p{L}*$/u,
  /^\S+$/,
  /^\S(?:.*\S)?$/,
  /^(?=.*\d)(?=.*[a-z])(?=.*[A-Z])(?=.*[^\w\s]).{8,}$/, // passphrases
  /^[^@\s]+@[^@\s.]+(?:\.[^@\s.]+)+$/, // addresses of mail, web and networks
  /^https?:\/\/[\w.-]+(?::\d+)?(?:\/\S*)?$/,
  /^(?:(?:25[0-5]|2[0-4]\d|1\d\d|[1-9]?\d)\.){3}(?:25[0-5]|2[0-4]\d|1\d\d|[1-9]?\d)$/,
  /^(?:[0-9A-F]{2}:){5}[0-9A-F]{2}$/i,
  /^(?:\/[\w-]+)*\/?$/,
  /^[a-z]{2}(?:-[A-Z]{2})?$/,
  /^(?:yes|no|true|false|[01])$/i,
  /^[^\\/:*?"<>|]+$/,
  /^(?:\d+|\*)(?:,(?:\d+|\*))*$/,
  /^"(?:[^"\\]|\\.)*"$/,
  /^(?:mon|tue|wed|thu|fri|sat|sun)(?:,(?:mon|tue|wed|thu|fri|sat|sun))*$/, // lists of words
  /^(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)(?:[ ,](?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec))*$/i,
  /^(?:read|write|delete)(?: (?:read|write|delete))*$/,
  /^(?:north|south|east|west)(?:-(?:north|south|east|west))?$/,
  /^(?:small|medium|large)(?:\|(?:small|medium|large))*$/,
  /^[a-z]+(?:, ?[a-z]+)*$/,
  /^\w+(?:;\w+)*;?$/,
  /^(?:[^,]+,)*[^,]+$/,
  /^(?!000|666|9\d\d)\d{3}-(?!00)\d\d-(?!0000)\d{4}$/, // numbers of people and firms
  /^(?!0)\d{9}$/,
  /^\d{6}(?:[-+A]\d{3}[0-9A-Y])$/,
  /^\d{2}[01]\d[0-3]\d-?\d{5}$/,
  /^[A-Z]{5}\d{4}[A-Z]$/,
  /^\d{3}\.\d{3}\.\d{3}-\d{2}$/,
  /^[A-Z]\d{8}[A-Z]?$/,
  /^[A-CEGHJ-PR-TW-Z]{2}(?:\d{2}){3}[A-D]$/,
  /^(?:DE)?\d{9}$/,
  /^(?:NO)?\d{9}(?:MVA)?$/,
  /^FR[0-9A-Z]{2}\d{9}$/,
  /^(?:EE|EL)\d{9}$/,
  /^[a-z](?:[a-z\d]|-(?=[a-z\d])){0,38}$/i, // names of accounts, hosts and things
  /^(?!-)[A-Za-z0-9-]{1,63}(?<!-)$/,
  /^(?!\d+$)[a-z0-9][a-z0-9-]{0,61}[a-z0-9]$/,
  /^(?!xn--)[a-z0-9-]+$/,
  /^[a-z0-9](?:[a-z0-9._-]{0,28}[a-z0-9])?$/,
  /^(?!.*\.\.)[a-z0-9.]{3,30}$/,
  /^(?![_.])[a-zA-Z0-9._]{3,20}(?<![_.])$/,
  /^@[A-Za-z0-9_]{1,15}$/,
  /^#[\p{L}\p{N}_]+$/u,
  /^r\/[A-Za-z0-9_]{3,21}$/,
  /^[A-Z]{3}-[0-9]{3,4}(?:-[A-Z])?$/,
  /^[A-Z]{1,3}[ -]?[A-Z]{1,2}[ -]?\d{1,4}[EH]?$/,
  /^[A-Z]{2}\d{2} ?[A-Z]{3}$/,
  /^[BCDFGHJKLMNPRSTVWXYZ]{2,4}-?\d{2}$/,
  /^\d{1,2}[A-HJ-NP-Z]$/,
  /^[A-Z]\d[A-Z] ?\d[A-Z]\d$/, // postal codes
  /^(?:0[1-9]|[1-4]\d|5[0-2])\d{3}$/,
  /^\d{3}-\d{4}$/,
  /^\d{3} ?\d{2}$/,
  /^[1-9]\d{3}(?:-\d{3})?$/,
  /^L-?\d{4}$/,
  /^(?:\+47)?[2-9]\d{7}$/, // phones
  /^00\d{6,14}$/,
  /^0\d{2,4}[ /-]?\d{3,9}$/,
  /^1?[-. ]?\(?\d{3}\)?[-. ]?\d{3}[-. ]?\d{4}$/,
  /^\+44 ?7\d{3} ?\d{6}$/,
  /^(?:(?:\+|00)33|0)[1-9](?:[ .-]?\d{2}){4}$/,
  /^[0-9A-F]{2}(?:[:-][0-9A-F]{2}){5}$/i, // machines and networks
  /^(?:[0-9a-f]{1,4}:){7}[0-9a-f]{1,4}$/i,
  /^(?:\d{1,3}\.){3}\d{1,3}(?:\/(?:[12]?\d|3[0-2]))?$/,
  /^(?:6553[0-5]|655[0-2]\d|65[0-4]\d{2}|6[0-4]\d{3}|[1-5]\d{4}|[1-9]\d{0,3})$/,
  /^[a-z][a-z0-9+.-]*:\/\/[^\s]+$/i,
  /^(?:[a-z0-9-]+\.)*example\.org$/,
  /^\/(?:[^/\s]+\/)*[^/\s]*$/,
  /^[A-Za-z]:\\(?:[^\\/:*?"<>|]+\\)*[^\\/:*?"<>|]*$/,
  /^\.{0,2}\/[\w./-]*$/,
  /^[\w.+-]+\/[\w.+-]+$/,
  /^[a-z]+\/[a-z0-9][a-z0-9.+-]*(?:; ?charset=[\w-]+)?$/i,
  /^Bearer [A-Za-z0-9._~+/-]+=*$/,
  /^W\/"[^"]*"$|^"[^"]*"$/,
  /^bytes=\d*-\d*(?:,\d*-\d*)*$/,
  /^(?:no-store|no-cache|max-age=\d+)(?:, ?(?:no-store|no-cache|max-age=\d+))*$/,
  /^[a-z]{2,3}(?:-[A-Z][a-z]{3})?(?:-(?:[A-Z]{2}|\d{3}))?$/,
  /^[a-z]{2}_[A-Z]{2}(?:\.UTF-8)?$/,
  /^(?:UTC|GMT)(?:[+-](?:0?\d|1[0-4])(?::[0-5]\d)?)?$/,
  /^[+-](?:0\d|1[0-4]):(?:00|15|30|45)$/,
  /^(?:[01]?\d|2[0-3])(?:[:.h][0-5]\d)?$/, // times
  /^(?:0?[1-9]|1[0-2]):[0-5]\d ?[AP]M$/i,
  /^\d+(?:ms|s|m|h|d)$/,
  /^(?:\d+d)?(?:\d+h)?(?:\d+m)?(?:\d+s)?$/,
  /^(?:\*|[0-5]?\d)(?:\/\d+)? (?:\*|1?\d|2[0-3]) \* \* \*$/,
  /^(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun), \d{2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) \d{4}$/,
  /^\d{4}-Q[1-4]$/,
  /^\d{4}\/\d{2}$/,
  /^(?:19|20)\d{2}$/,
  /^[1-9]\d*$/, // numbers
  /^(?:0|[1-9]\d{0,8})(?:\.\d{1,2})?$/,
  /^-?\d{1,3}(?:[ .,']\d{3})*$/,
  /^[IVXLCDM]+$/,
  /^M{0,3}(?:CM|CD|D?C{0,3})(?:XC|XL|L?X{0,3})(?:IX|IV|V?I{0,3})$/,
  /^0x[0-9a-f]+$/i,
  /^0b[01]+$/,
  /^\d+(?:\/\d+)?$/,
  /^\d+(?:\.\d+)? ?(?:mm|cm|m|km|in|ft)$/,
  /^\d+(?:[.,]\d+)? ?(?:kg|g|t|lb)$/,
  /^(?:€|\$|£) ?\d+(?:[.,]\d{2})?$/,
  /^\d{1,2}(?:\+\d{1,2})?$/,
  /^(?:[A-Z]{3} )?\d+\.\d{2}$/,
  /^[A-Z][a-z]+(?: [A-Z][a-z]+)*$/, // names and texts
  /^[\p{L}'’. -]{1,80}$/u,
  /^(?!\s)(?:[^\n]{1,200})(?<!\s)$/,
  /^[^<>&"']*$/,
  /^(?=.{8,64}$)(?=.*\p{L})(?=.*\p{N})\S+$/u,
  /^(?!.*(?:password|qwerty)).{8,}$/i,
  /^(?=\S{12,}$)[ -~]+$/,
  /^[\x20-\x7e]*$/,
  /^\p{Script=Latin}+$/u,
  /^[\p{L}\p{N}]+(?:[ _-][\p{L}\p{N}]+)*$/u,
  /^[ACGTU]+$/,
  /^(?:[A-G][#b]?(?:m|maj|min|dim|aug)?7?)(?: (?:[A-G][#b]?(?:m|maj|min|dim|aug)?7?))*$/,
  /^[a-h][1-8][a-h][1-8][qrbn]?$/,
  /^v\d+\.\d+\.\d+(?:-(?:alpha|beta|rc)\.\d+)?$/,
  /^(?:feat|fix|docs|chore|test)(?:\([a-z-]+\))?!?: .{1,72}$/,
  /^(?:refs\/heads\/)?(?!\/)[\w/.-]+(?<!\/)$/,
  /^[0-9a-f]{7,40}$/,
  /^[A-Z][A-Z0-9]+-\d+$/,
];

test.each(everyday)('%s is taken', (expression) => {
  expect(whyNotLinear(expression)).toBeUndefined();
});

/** Sources of small expressions, and texts of the same few letters. */
const source = fc.letrec<{ node: string }>((tie) => ({
  node: fc.oneof(
    { maxDepth: 5, depthSize: 'small' },
    fc.constantFrom('a', 'b', '[ab]', '[^a]', '.', 'ab', 'ba', '$', '\\b', 'c', '[a-c]'),
    fc
      .tuple(fc.constantFrom('(?=', '(?!', '(?<=', '(?<!'), fc.constantFrom('a', 'b', '[ab]', 'ab', 'a{0,3}', 'a|bc', '(?:ab?){0,2}', '$'))
      .map(([look, at]) => `${look}${at})`),
    fc.tuple(tie('node'), tie('node')).map(([one, two]) => one + two),
    fc.tuple(tie('node'), tie('node')).map(([one, two]) => `(?:${one}|${two})`),
    fc
      .tuple(tie('node'), fc.constantFrom('*', '+', '?', '{2}', '{1,3}', '*?', '{0}', '{0,40}', '{2,}', '{5,9}'))
      .map(([one, count]) => `(?:${one})${count}`),
  ),
})).node;

// A few seconds here; by hand as long as wanted: JESTRIL_RANDOM=100000 npm test -- test/core/patterns.test.ts
const RUNS = Number(process.env.JESTRIL_RANDOM ?? 1500);

test('no expression that passes takes more than its share of steps on texts that are pumped up for it', () => {
  let taken = 0;
  fc.assert(
    fc.property(source, fc.constantFrom('^', '^', '^', '', '^(?=.*a)'), (body, anchor) => {
      const expression = new RegExp(`${anchor}${body}`);
      if (whyNotLinear(expression) !== undefined) return;
      taken++;
      for (const unit of UNITS) {
        const [once, twice] = [60, 120].map((times) => stepsOf(expression, `${'ac'.slice(unit.length % 3)}${unit.repeat(times)}!`));
        // Twice the text takes twice the steps; squares and more would take four times as many.
        expect({ expression, unit, isLinear: (twice as number) < 3 * (once as number) + 2000 }).toEqual({
          expression,
          unit,
          isLinear: true,
        });
      }
    }),
    { numRuns: RUNS },
  );
  expect(taken).toBeGreaterThan(RUNS / 10);
}, 86_400_000);

test('every expression of the marina and of this library is taken on hostile text within the time of a test', () => {
  const form = intake('form', { a: text('A', ...linear.map((expression) => pattern(expression, 'so'))) });
  for (const unit of ['a', 'A', '1', '-', '@', '.', 'ab', 'a-', ' ', '\u00e9'])
    expect(form.judgeLocally({ a: unit.repeat(100_000) }).outcome).toBe('rejected');
});
