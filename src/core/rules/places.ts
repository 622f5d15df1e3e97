import { digitsOf, isMultiple } from '../basics/exact.ts';
import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { checkLimits, type Limit, NUMBERS, type NumberRule } from './range.ts';
import { valueRule } from './value-rule.ts';

type PlacedNumber = number | string;
type DecimalRule = ValueRule<'decimal' | 'exact'>;

function checkCount(rule: string, name: string, count: number): void {
  if (!(Number.isInteger(count) && count >= 0 && count <= 100)) fault(`${rule}: ${name} ${count} is not a whole number from 0 to 100.`);
}

function hasPlaces(value: PlacedNumber, most: number): boolean {
  if (typeof value === 'number' && most <= 15) {
    // A number was written with no more places than these when rounding to them gives the number itself.
    const factor = 10 ** most;
    const scaled = value * factor;
    if (Math.abs(scaled) < Number.MAX_SAFE_INTEGER) return Math.round(scaled) / factor === value;
  }
  return digitsOf(value).places <= most;
}

const atMostPlaces = valueRule('places', ['decimal', 'exact'], {
  check: (value: PlacedNumber, { places }: { places: number }) => hasPlaces(value, places),
  examples: ({ places }) =>
    places > 14 ? [] : [5 + 10 ** -places, 5 + 10 ** -(places + 1)].map((value) => Number(value.toFixed(places + 1))),
  schema: ({ places }, { is }) => (is.includes('exact') || places > 10 ? undefined : { schema: { multipleOf: Number(`1e-${places}`) } }),
  facts: (takes) => takes,
  factNames: ['places'],
  refuses: ({ places }) => checkCount('places', 'places', places),
  message: {
    en: `{places, plural,
      =0 {{field} must have no decimal places.}
      one {{field} must have at most # decimal place.}
      other {{field} must have at most # decimal places.}
    }`,
  },
});

/**
 * At most so many digits after the decimal point.
 *
 * @example decimal('Length', places(2))
 * @holds 11.25
 * @fails 11.255
 */
export const places = (places: number, use?: ValueUse): DecimalRule => atMostPlaces({ places }, use);

const precise = valueRule('precision', NUMBERS, {
  check(value: PlacedNumber, { whole, places }: { whole: number; places: number }) {
    const digits = digitsOf(value);
    return digits.whole <= whole && digits.places <= places;
  },
  facts: (takes) => takes,
  factNames: ['whole', 'places'],
  refuses({ whole, places }) {
    checkCount('precision', 'whole', whole);
    checkCount('precision', 'places', places);
  },
  message: {
    en: '{field} must have at most {whole, plural, one {# digit} other {# digits}} before the decimal point and {places, plural, one {# digit} other {# digits}} after it.',
  },
});

/**
 * At most so many digits before and after the decimal point, as a NUMERIC column takes them.
 *
 * @option whole | digits before | to be given
 * @option places | digits after | to be given
 * @example exact('Price', precision({ whole: 4, places: 2 }))
 * @holds '9999.99'
 * @fails '10000'
 */
export const precision = (digits: { readonly whole: number; readonly places: number }, use?: ValueUse): NumberRule =>
  precise({ ...optionsOf('precision', digits, ['whole', 'places']) }, use);

const multiple = valueRule('multiple-of', NUMBERS, {
  check: (value: PlacedNumber, { step }: { step: Limit }) => isMultiple(value, step),
  examples: ({ step }) => [Number(step), Number(step) * 2, 0, Number(step) * 1.5],
  schema: ({ step }, { is }) => (is.includes('exact') ? undefined : { schema: { multipleOf: Number(step) } }),
  facts: (takes) => takes,
  factNames: ['step'],
  refuses({ step }) {
    checkLimits('multipleOf', step);
    if (Number(step) <= 0) fault(`multipleOf(${step}) needs a number above 0.`);
  },
  message: { en: '{field} must be a multiple of {step, number}.' },
});

/**
 * So many times a step, counted in decimals: 0.3 is a multiple of 0.1.
 *
 * @law So many times a step, counted in decimals.
 * @example decimal('Amount', multipleOf(0.1))
 * @holds 0.3
 * @fails 0.35
 */
export const multipleOf = (step: Limit, use?: ValueUse): NumberRule => multiple({ step }, use);
