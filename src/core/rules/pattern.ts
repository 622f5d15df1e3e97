import { whyNotLinear } from '#pattern-proof';
import { fault } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { valueRule } from './value-rule.ts';

interface PatternTakes {
  readonly expression: RegExp;
  readonly description: Texts;
}

const matching = valueRule('pattern', ['text'], {
  check: (value: string, { expression }: PatternTakes) => expression.test(value),
  matches: ({ expression }) => expression,
  control: ({ expression: { source, flags } }) => (isWhole(source, flags) ? { pattern: source.slice(1, -1) } : {}),
  words: ({ description }) => ({ description }),
  wordNames: ['description'],
  refuses({ expression, description }) {
    if (!(expression instanceof RegExp)) fault('pattern needs a regular expression as its first argument.');
    // With g or y an expression remembers where it stopped, and gives another answer the next time.
    if (/[gy]/.test(expression.flags))
      fault(`pattern ${expression}: take off the flag ${expression.flags.match(/[gy]/)?.[0]}, which makes it remember its last match.`);
    const why = whyNotLinear(expression);
    if (why)
      fault(
        `pattern ${expression}: linear time on hostile text cannot be shown (${why}); write it otherwise, or use linearPattern of jestril/linear.`,
      );
    if (!description) fault(`pattern ${expression} needs a description in words, such as 'four digits'.`);
  },
  message: { en: '{field} must be {description}.' },
});

/** Whether a browser would read it alike: it compiles the expression with the flag v, and matches the whole text. */
function isWhole(source: string, flags: string): boolean {
  // Alternatives at the top would be anchored otherwise.
  if (flags !== '' || !/^\^.*\$$/s.test(source) || /\|/.test(source.replaceAll(/\(.*\)|\[.*\]/g, ''))) return false;
  try {
    new RegExp(source, 'v');
    return true;
  } catch {
    return false;
  }
}

/**
 * Text that the expression matches. Anchor it (`^…$`) to speak of the whole text.
 * An expression that could take more than linear time on hostile text is refused: see docs/patterns.md.
 *
 * @param description completes the sentence "… must be", such as `two capital letters and four digits`
 *
 * @law The expression matches. One that could take more than linear time is refused (docs/patterns.md).
 * @example text('Mark', pattern(/^[A-Z]{2}-\d{4}$/, 'two capital letters, a dash and four digits'))
 * @holds 'PW-2040'
 * @fails 'pw-2040'
 */
export const pattern = (expression: RegExp, description: Texts, use?: ValueUse): ValueRule<'text'> =>
  matching({ expression, description }, use);
