import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import { codePoints } from '../basics/text.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { valueRule } from './value-rule.ts';

interface LengthLimits {
  readonly min?: number;
  readonly max?: number;
}

const limited = valueRule('length', ['text', 'list'], {
  check(value: string | readonly unknown[], { min = 0, max = Number.POSITIVE_INFINITY }: LengthLimits) {
    const units = value.length;
    // A code point takes one or two units, so most texts are settled without counting.
    if (typeof value !== 'string' || units < min || units <= 1) return units >= min && units <= max;
    if (units <= max && units >= 2 * min) return true;
    if (units > 2 * max) return false;
    const points = codePoints(value);
    return points >= min && points <= max;
  },
  control: ({ min, max }) => ({ ...(min !== undefined && { minlength: min }), ...(max !== undefined && { maxlength: max }) }),
  edges: ({ min, max }) => ({ sizes: [min, max].filter((limit) => limit !== undefined) }),
  schema: ({ min, max }, { is }) => {
    const [least, most] = is.includes('list') ? ['minItems', 'maxItems'] : ['minLength', 'maxLength'];
    return { schema: { ...(min !== undefined && { [least as string]: min }), ...(max !== undefined && { [most as string]: max }) } };
  },
  countsOnly: true,
  isFixed: true,
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

/**
 * The number of a text's characters (Unicode code points) or of a list's entries. Both limits are allowed values.
 *
 * @law So many characters (Unicode code points) or entries; both limits are allowed values.
 * @option min | at least | none
 * @option max | at most | none
 * @example text('Notes', length({ min: 2, max: 5 }))
 * @holds 'ab'
 * @fails 'a'
 */
export const length = (limits: LengthLimits, use?: ValueUse): ValueRule<'text' | 'list'> =>
  limited(optionsOf('length', limits, ['min', 'max']), use);
