import { compareNumbers } from '../exact.ts';
import { fault } from '../fault.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

/** A limit; as text where a number would not be exact. */
export type Limit = number | `${number}`;
export type NumberRule = ValueRule<'whole' | 'decimal' | 'exact'>;
type Value = number | string;

export const NUMBERS = ['whole', 'decimal', 'exact'] as const;

/** Refuses a limit that is no number. */
export function checkLimits(rule: string, ...limits: readonly Limit[]): void {
  for (const limit of limits) {
    if (!(typeof limit === 'string' ? /^-?[0-9]+(\.[0-9]+)?$/.test(limit) : Number.isFinite(limit)))
      fault(`${rule}: ${limit} is not a number to compare with.`);
  }
}

const inRange = valueRule('between', NUMBERS, {
  check: (value: Value, { min, max }: { min: Limit; max: Limit }) => compareNumbers(value, min) >= 0 && compareNumbers(value, max) <= 0,
  facts: (takes) => takes,
  factNames: ['min', 'max'],
  refuses({ min, max }) {
    checkLimits('between', min, max);
    if (compareNumbers(min, max) > 0) fault(`between(${min}, ${max}): the first limit is more than the second.`);
  },
  message: { en: '{field} must be from {min, number} to {max, number}.' },
});

const least = valueRule('at-least', NUMBERS, {
  check: (value: Value, { min }: { min: Limit }) => compareNumbers(value, min) >= 0,
  facts: (takes) => takes,
  factNames: ['min'],
  refuses: ({ min }) => checkLimits('atLeast', min),
  message: { en: '{field} must be at least {min, number}.' },
});

const most = valueRule('at-most', NUMBERS, {
  check: (value: Value, { max }: { max: Limit }) => compareNumbers(value, max) <= 0,
  facts: (takes) => takes,
  factNames: ['max'],
  refuses: ({ max }) => checkLimits('atMost', max),
  message: { en: '{field} must be at most {max, number}.' },
});

const more = valueRule('more-than', NUMBERS, {
  check: (value: Value, { limit }: { limit: Limit }) => compareNumbers(value, limit) > 0,
  facts: (takes) => takes,
  factNames: ['limit'],
  refuses: ({ limit }) => checkLimits('moreThan', limit),
  message: { en: '{field} must be more than {limit, number}.' },
});

const less = valueRule('less-than', NUMBERS, {
  check: (value: Value, { limit }: { limit: Limit }) => compareNumbers(value, limit) < 0,
  facts: (takes) => takes,
  factNames: ['limit'],
  refuses: ({ limit }) => checkLimits('lessThan', limit),
  message: { en: '{field} must be less than {limit, number}.' },
});

/** A number from `min` to `max`, both allowed. */
export const between = (min: Limit, max: Limit, use?: ValueUse): NumberRule => inRange({ min, max }, use);

/** A number that is `min` or more. */
export const atLeast = (min: Limit, use?: ValueUse): NumberRule => least({ min }, use);

/** A number that is `max` or less. */
export const atMost = (max: Limit, use?: ValueUse): NumberRule => most({ max }, use);

/** A number that is more than the limit. */
export const moreThan = (limit: Limit, use?: ValueUse): NumberRule => more({ limit }, use);

/** A number that is less than the limit. */
export const lessThan = (limit: Limit, use?: ValueUse): NumberRule => less({ limit }, use);
