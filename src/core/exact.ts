import Big from 'big.js';

/** A decimal number kept exactly, as text without exponent and without needless zeros: `12.5`, `-0.001`. */
export type Exact = `${number}` & Record<never, never>;

const DECIMAL = /^-?[0-9]{1,400}(\.[0-9]{1,400})?$/;

/** The canonical text of a decimal number, or `undefined` for what is none. */
export function exactOf(raw: unknown): Exact | undefined {
  if (typeof raw === 'number') return Number.isFinite(raw) ? canonical(new Big(raw)) : undefined;
  return typeof raw === 'string' && DECIMAL.test(raw) ? canonical(new Big(raw)) : undefined;
}

function canonical(big: Big): Exact {
  // -0 is 0.
  return (big.eq(0) ? '0' : big.toFixed()) as Exact;
}

/** The same number, written with so many decimal places at least. */
export function padded(value: Exact, places: number): Exact {
  const [whole = '0', fraction = ''] = value.split('.');
  return places === 0 ? value : (`${whole}.${fraction.padEnd(places, '0')}` as Exact);
}

/** Whether two values are the same; two exact decimals are, however many zeros they are written with. */
export function isSameValue(a: unknown, b: unknown, isExact?: boolean): boolean {
  return a === b || (isExact === true && typeof a === 'string' && typeof b === 'string' && compareNumbers(a, b) === 0);
}

/** Negative, zero or positive, as the first number is less than, equal to or more than the second. */
export function compareNumbers(a: number | string, b: number | string): number {
  return typeof a === 'number' && typeof b === 'number' ? a - b : new Big(a).cmp(b);
}

/**
 * Negative, zero or positive, as the first number is less than, equal to or more than the second; exact decimals with all their digits.
 *
 * @throws for a text that is no number
 */
export const compareExact: (a: number | string, b: number | string) => number = compareNumbers;

/**
 * The sum of numbers, with all their digits: `exactSum('0.1', '0.2')` is `'0.3'`.
 *
 * @throws for a text that is no number
 */
export function exactSum(...numbers: (number | string)[]): Exact {
  return sumOfProducts(numbers.map((number) => [number]));
}

/** Whether a number is so many times another, counted in decimals: 0.3 is three times 0.1. */
export function isMultiple(value: number | string, of: number | string): boolean {
  return new Big(value).mod(of).eq(0);
}

/** Digits before and after the decimal point, without needless zeros. */
export function digitsOf(value: number | string): { readonly whole: number; readonly places: number } {
  const [whole = '', places = ''] = new Big(value).abs().toFixed().split('.');
  return { whole: whole === '0' ? 0 : whole.length, places: places.length };
}

/** The exact sum of products, as canonical text. */
export function sumOfProducts(products: readonly (readonly (number | string)[])[]): Exact {
  return canonical(
    products.reduce((sum, factors) => sum.plus(factors.reduce((product, factor) => product.times(factor), new Big(1))), new Big(0)),
  );
}
