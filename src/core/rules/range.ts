import { compareNumbers } from '../basics/exact.ts';
import { fault } from '../basics/fault.ts';
import type { KindSpec } from '../declared/kind.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import type { SchemaWords } from '../declared/schema-words.ts';
import { valueRule } from './value-rule.ts';

/** A limit; as text where a number would not be exact. */
export type Limit = number | `${number}`;
export type NumberRule = ValueRule<'whole' | 'decimal' | 'exact'>;
type Bounded = number | string;

export const NUMBERS = ['whole', 'decimal', 'exact'] as const;

/** Refuses a limit that is no number. */
export function checkLimits(rule: string, ...limits: readonly Limit[]): void {
  for (const limit of limits) {
    if (!(typeof limit === 'string' ? /^-?[0-9]+(\.[0-9]+)?$/.test(limit) : Number.isFinite(limit)))
      fault(`${rule}: ${limit} is not a number to compare with.`);
  }
}

/** Limits as JSON numbers; exact decimals are sent as text, of which a schema knows no order. */
function limited({ is }: KindSpec, limits: { readonly [keyword: string]: Limit }): SchemaWords | undefined {
  const numbers = Object.entries(limits).map(([keyword, limit]) => [keyword, Number(limit)] as const);
  const isKept = numbers.every(([keyword, number]) => compareNumbers(number, limits[keyword] as Limit) === 0);
  return is.includes('exact') || !isKept ? undefined : { schema: Object.fromEntries(numbers) };
}

const inRange = valueRule('between', NUMBERS, {
  check: (value: Bounded, { min, max }: { min: Limit; max: Limit }) => compareNumbers(value, min) >= 0 && compareNumbers(value, max) <= 0,
  edges: ({ min, max }) => ({ bounds: [min, max] }),
  schema: ({ min, max }, kind) => limited(kind, { minimum: min, maximum: max }),
  facts: (takes) => takes,
  factNames: ['min', 'max'],
  refuses({ min, max }) {
    checkLimits('between', min, max);
    if (compareNumbers(min, max) > 0) fault(`between(${min}, ${max}): the first limit is more than the second.`);
  },
  message: { en: '{field} must be from {min, number} to {max, number}.' },
});

const least = valueRule('at-least', NUMBERS, {
  check: (value: Bounded, { min }: { min: Limit }) => compareNumbers(value, min) >= 0,
  edges: ({ min }) => ({ bounds: [min] }),
  schema: ({ min }, kind) => limited(kind, { minimum: min }),
  facts: (takes) => takes,
  factNames: ['min'],
  refuses: ({ min }) => checkLimits('atLeast', min),
  message: { en: '{field} must be at least {min, number}.' },
});

const most = valueRule('at-most', NUMBERS, {
  check: (value: Bounded, { max }: { max: Limit }) => compareNumbers(value, max) <= 0,
  edges: ({ max }) => ({ bounds: [max] }),
  schema: ({ max }, kind) => limited(kind, { maximum: max }),
  facts: (takes) => takes,
  factNames: ['max'],
  refuses: ({ max }) => checkLimits('atMost', max),
  message: { en: '{field} must be at most {max, number}.' },
});

const more = valueRule('above', NUMBERS, {
  check: (value: Bounded, { limit }: { limit: Limit }) => compareNumbers(value, limit) > 0,
  edges: ({ limit }) => ({ bounds: [limit] }),
  schema: ({ limit }, kind) => limited(kind, { exclusiveMinimum: limit }),
  facts: (takes) => takes,
  factNames: ['limit'],
  refuses: ({ limit }) => checkLimits('moreThan', limit),
  message: { en: '{field} must be more than {limit, number}.' },
});

const less = valueRule('below', NUMBERS, {
  check: (value: Bounded, { limit }: { limit: Limit }) => compareNumbers(value, limit) < 0,
  edges: ({ limit }) => ({ bounds: [limit] }),
  schema: ({ limit }, kind) => limited(kind, { exclusiveMaximum: limit }),
  facts: (takes) => takes,
  factNames: ['limit'],
  refuses: ({ limit }) => checkLimits('lessThan', limit),
  message: { en: '{field} must be less than {limit, number}.' },
});

/**
 * A number from `min` to `max`, both allowed.
 *
 * @law From the first limit to the second, both allowed. Limits may be text where a number would not be exact.
 * @example whole('Nights', between(1, 28))
 * @holds 28
 * @fails 29
 */
export const between = (min: Limit, max: Limit, use?: ValueUse): NumberRule => inRange({ min, max }, use);

/**
 * A number that is `min` or more.
 *
 * @law That number or more.
 * @example exact('Price', atLeast('0.10'))
 * @holds '0.10'
 * @fails '0.09'
 */
export const atLeast = (min: Limit, use?: ValueUse): NumberRule => least({ min }, use);

/**
 * A number that is `max` or less.
 *
 * @law That number or less.
 * @example decimal('Beam', atMost(15.5))
 * @holds 15.5
 * @fails 15.51
 */
export const atMost = (max: Limit, use?: ValueUse): NumberRule => most({ max }, use);

/** A number that is more than the limit. */
export const moreThan = (limit: Limit, use?: ValueUse): NumberRule => more({ limit }, use);

/** A number that is less than the limit. */
export const lessThan = (limit: Limit, use?: ValueUse): NumberRule => less({ limit }, use);
