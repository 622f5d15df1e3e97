import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { valueRule } from './value-rule.ts';

const confirmed = valueRule('is-true', ['flag'], {
  check: (value: boolean) => value,
  examples: () => [true],
  schema: () => ({ schema: { const: true } }),
  control: () => ({ required: true }),
  message: { en: '{field} must be confirmed.' },
});
const denied = valueRule('is-false', ['flag'], {
  check: (value: boolean) => !value,
  examples: () => [false],
  schema: () => ({ schema: { const: false } }),
  message: { en: '{field} must be left unticked.' },
});

/**
 * A flag that has to be set, such as the acceptance of terms.
 *
 * @law The flag is set.
 * @example flag('Harbour rules', isTrue())
 * @holds true
 * @fails false
 */
export const isTrue = (use?: ValueUse): ValueRule<'flag'> => confirmed({}, use);

/**
 * A flag that must not be set.
 *
 * @law The flag is not set.
 * @example flag('Subscription', isFalse())
 * @holds false
 * @fails true
 */
export const isFalse = (use?: ValueUse): ValueRule<'flag'> => denied({}, use);
