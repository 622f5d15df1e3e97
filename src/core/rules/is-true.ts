import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

const confirmed = valueRule('is-true', ['flag'], {
  check: (value: boolean) => value,
  message: { en: '{field} must be confirmed.' },
});
const denied = valueRule('is-false', ['flag'], {
  check: (value: boolean) => !value,
  message: { en: '{field} must be left unticked.' },
});

/** A flag that has to be set, such as the acceptance of terms. */
export const isTrue = (use?: ValueUse): ValueRule<'flag'> => confirmed({}, use);

/** A flag that must not be set. */
export const isFalse = (use?: ValueUse): ValueRule<'flag'> => denied({}, use);
