import fc from 'fast-check';
import { intake, pattern, text } from 'jestril';
import { whyNotLinear } from '../../src/core/patterns/linear.ts';

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
];
const notLinear = [
  /^(a+)+$/,
  /^(a|a)*$/,
  /^(a|ab)*$/,
  /^(a*)*$/,
  /^(?:a?){30}a{30}$/,
  /\s+$/,
  /^\S+@\S+\.\S+$/,
  /^.*x.*y.*$/,
  /\d+x/,
  /^(.*)\1$/,
  /^(?=.*\d).{8,}$/,
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
    'pattern /^(a+)+$/: linear time on hostile text cannot be shown (after a repetition, the same character may go on with it or with what follows); write it otherwise, or use linearPattern of jestril/linear.',
  );
});

/** Sources of small expressions, and texts of the same few letters. */
const source = fc.letrec<{ node: string }>((tie) => ({
  node: fc.oneof(
    { maxDepth: 4, depthSize: 'small' },
    fc.constantFrom('a', 'b', '[ab]', '[^a]', '.', 'ab', 'ba', '$', '\\b', 'c'),
    fc.tuple(tie('node'), tie('node')).map(([one, two]) => one + two),
    fc.tuple(tie('node'), tie('node')).map(([one, two]) => `(?:${one}|${two})`),
    fc.tuple(tie('node'), fc.constantFrom('*', '+', '?', '{2}', '{1,3}', '*?')).map(([one, count]) => `(?:${one})${count}`),
  ),
})).node;

test('no expression that passes takes more than its share of time on hostile text', () => {
  // A step counter cannot look into the engine, so the worst texts known for small alphabets are tried: an engine that
  // backtracks exponentially or quadratically would not end within the time that the whole test has.
  fc.assert(
    fc.property(source, fc.constantFrom('', '^'), (body, anchor) => {
      const expression = new RegExp(`${anchor}${body}`);
      if (whyNotLinear(expression) !== undefined) return;
      for (const unit of ['a', 'b', 'ab', 'ba', 'aab', 'c']) expect(typeof expression.test(`${unit.repeat(50_000)}!`)).toBe('boolean');
    }),
    { numRuns: 1500 },
  );
}, 60_000);

test('every expression of the marina and of this library is taken on hostile text within the time of a test', () => {
  const form = intake('form', { a: text('A', ...linear.map((expression) => pattern(expression, 'so'))) });
  for (const unit of ['a', 'A', '1', '-', '@', '.', 'ab', 'a-', ' ', '\u00e9'])
    expect(form.judgeLocally({ a: unit.repeat(100_000) }).outcome).toBe('rejected');
});
