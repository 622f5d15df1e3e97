/** A decimal number kept exactly, as text without exponent and without needless zeros: `12.5`, `-0.001`. */
export type Exact = `${number}` & Record<never, never>;

/** As numbers are written by this language too. */
const NUMBER = /^-?[0-9]+(\.[0-9]+)?(e[+-]?[0-9]{1,4})?$/;
const DECIMAL = /^-?[0-9]{1,400}(\.[0-9]{1,400})?$/;

/** A whole number of units of 10^-places. */
interface Decimal {
  readonly units: bigint;
  readonly places: number;
}

/**
 * The shortest text of a number may have an exponent: `1e-7`, `1.5e+300`.
 *
 * @throws SyntaxError for a text that is no number
 */
function decimalOf(value: number | string): Decimal {
  const text = String(value);
  if (!NUMBER.test(text)) throw new SyntaxError('This is no number.');
  const [mantissa = '', exponent = '0'] = text.split('e');
  const [whole = '', fraction = ''] = mantissa.split('.');
  const places = fraction.length - Number(exponent);
  const units = BigInt(whole + fraction);
  return places < 0 ? { units: units * 10n ** BigInt(-places), places: 0 } : { units, places };
}

function unitsAt({ units, places }: Decimal, wanted: number): bigint {
  return units * 10n ** BigInt(wanted - places);
}

function textOf({ units, places }: Decimal): Exact {
  const digits = (units < 0n ? -units : units).toString().padStart(places + 1, '0');
  const whole = digits.slice(0, digits.length - places);
  const fraction = digits.slice(digits.length - places).replace(/0+$/, '');
  return `${units < 0n ? '-' : ''}${whole}${fraction && `.${fraction}`}` as Exact;
}

/** The canonical text of a decimal number, or `undefined` for what is none. */
export function exactOf(raw: unknown): Exact | undefined {
  if (typeof raw === 'number') return Number.isFinite(raw) ? textOf(decimalOf(raw)) : undefined;
  return typeof raw === 'string' && DECIMAL.test(raw) ? textOf(decimalOf(raw)) : undefined;
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
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  const [left, right] = [decimalOf(a), decimalOf(b)];
  const places = Math.max(left.places, right.places);
  const difference = unitsAt(left, places) - unitsAt(right, places);
  return difference < 0n ? -1 : difference > 0n ? 1 : 0;
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
  const [whole, part] = [decimalOf(value), decimalOf(of)];
  const places = Math.max(whole.places, part.places);
  return unitsAt(whole, places) % unitsAt(part, places) === 0n;
}

/** Digits before and after the decimal point, without needless zeros. */
export function digitsOf(value: number | string): { readonly whole: number; readonly places: number } {
  const [whole = '', places = ''] = textOf(decimalOf(value)).replace('-', '').split('.');
  return { whole: whole === '0' ? 0 : whole.length, places: places.length };
}

/** The exact sum of products, as canonical text. */
export function sumOfProducts(products: readonly (readonly (number | string)[])[]): Exact {
  let sum: Decimal = { units: 0n, places: 0 };
  for (const factors of products) {
    let product: Decimal = { units: 1n, places: 0 };
    for (const factor of factors.map(decimalOf)) product = { units: product.units * factor.units, places: product.places + factor.places };
    const places = Math.max(sum.places, product.places);
    sum = { units: unitsAt(sum, places) + unitsAt(product, places), places };
  }
  return textOf(sum);
}

/** A number, and those before and after it by a hundredth, or by its last place where it has more. */
export function aroundNumber(limit: number | string): Exact[] {
  const places = Math.max(2, digitsOf(limit).places);
  const step = `0.${'1'.padStart(places, '0')}`;
  return [`-${step}`, '0', step].map((by) => sumOfProducts([[limit], [by]]));
}
