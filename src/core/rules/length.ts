import { fault } from '../fault.ts';
import { codePoints } from '../text.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

interface Limits {
  readonly min?: number;
  readonly max?: number;
}

const limited = valueRule('length', ['text', 'list'], {
  check(value: string | readonly unknown[], { min = 0, max = Number.POSITIVE_INFINITY }: Limits) {
    const units = value.length;
    // A code point takes one or two units, so most texts are settled without counting.
    if (typeof value !== 'string' || units < min || units <= 1) return units >= min && units <= max;
    if (units <= max && units >= 2 * min) return true;
    if (units > 2 * max) return false;
    const points = codePoints(value);
    return points >= min && points <= max;
  },
  countsOnly: true,
  facts: ({ min, max }) => ({ ...(min !== undefined && { min }), ...(max !== undefined && { max }) }),
  factNames: ['min', 'max'],
  words: ({ min, max }, value) => ({
    of: typeof value === 'string' ? 'text' : 'list',
    limits: min === undefined ? 'most' : max === undefined ? 'least' : min === max ? 'exactly' : 'both',
  }),
  wordNames: ['of', 'limits'],
  refuses({ min, max }) {
    for (const limit of [min, max]) {
      if (limit !== undefined && !(Number.isInteger(limit) && limit >= 0))
        fault(`length: ${limit} is not a number of characters or entries.`);
    }
    if (min === undefined && max === undefined) fault('length needs min or max.');
    if (min !== undefined && max !== undefined && min > max) fault(`length: min ${min} is more than max ${max}.`);
  },
  message: {
    en: `{of, select, list {{limits, select,
      most {{field} must have at most {max, plural, one {# entry} other {# entries}}.}
      least {{field} must have at least {min, plural, one {# entry} other {# entries}}.}
      exactly {{field} must have exactly {max, plural, one {# entry} other {# entries}}.}
      other {{field} must have {min, number} to {max, plural, one {# entry} other {# entries}}.}
    }} other {{limits, select,
      most {{field} must have at most {max, plural, one {# character} other {# characters}}.}
      least {{field} must have at least {min, plural, one {# character} other {# characters}}.}
      exactly {{field} must have exactly {max, plural, one {# character} other {# characters}}.}
      other {{field} must have {min, number} to {max, plural, one {# character} other {# characters}}.}
    }}}`,
  },
});

/** The number of a text's characters (Unicode code points) or of a list's entries. Both limits are allowed values. */
export const length = (limits: Limits, use?: ValueUse): ValueRule<'text' | 'list'> => limited(limits, use);
