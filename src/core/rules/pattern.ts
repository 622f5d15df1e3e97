import { whyNotLinear } from '#pattern-proof';
import { fault } from '../fault.ts';
import type { Texts } from '../text.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

interface Takes {
  readonly expression: RegExp;
  readonly description: Texts;
}

const matching = valueRule('pattern', ['text'], {
  check: (value: string, { expression }: Takes) => expression.test(value),
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

/**
 * Text that the expression matches. Anchor it (`^…$`) to speak of the whole text.
 * An expression that could take more than linear time on hostile text is refused: see docs/patterns.md.
 *
 * @param description completes the sentence "… must be", such as `two capital letters and four digits`
 */
export const pattern = (expression: RegExp, description: Texts, use?: ValueUse): ValueRule<'text'> =>
  matching({ expression, description }, use);
