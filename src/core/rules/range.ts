import { fault } from '../fault.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

const NUMBERS = ['whole', 'decimal'] as const;

function finite(rule: string, ...limits: readonly number[]): void {
  for (const limit of limits) {
    if (!Number.isFinite(limit)) fault(`${rule}: ${limit} is not a number to compare with.`);
  }
}

const inRange = valueRule('between', NUMBERS, {
  check: (value: number, { min, max }: { min: number; max: number }) => value >= min && value <= max,
  facts: (takes) => takes,
  factNames: ['min', 'max'],
  refuses({ min, max }) {
    finite('between', min, max);
    if (min > max) fault(`between(${min}, ${max}): the first limit is more than the second.`);
  },
  message: { en: '{field} must be from {min, number} to {max, number}.' },
});

const notLess = valueRule('at-least', NUMBERS, {
  check: (value: number, { min }: { min: number }) => value >= min,
  facts: (takes) => takes,
  factNames: ['min'],
  refuses: ({ min }) => finite('atLeast', min),
  message: { en: '{field} must be at least {min, number}.' },
});

const notMore = valueRule('at-most', NUMBERS, {
  check: (value: number, { max }: { max: number }) => value <= max,
  facts: (takes) => takes,
  factNames: ['max'],
  refuses: ({ max }) => finite('atMost', max),
  message: { en: '{field} must be at most {max, number}.' },
});

type NumberRule = ValueRule<'whole' | 'decimal'>;

/** A number from `min` to `max`, both allowed. */
export const between = (min: number, max: number, use?: ValueUse): NumberRule => inRange({ min, max }, use);

/** A number that is `min` or more. */
export const atLeast = (min: number, use?: ValueUse): NumberRule => notLess({ min }, use);

/** A number that is `max` or less. */
export const atMost = (max: number, use?: ValueUse): NumberRule => notMore({ max }, use);
