import Big from 'big.js';

/** Whether a number is so many times another, in decimals and not in the machine's fractions. */
export function multipleIn(value: number, step: number): boolean {
  return new Big(value).mod(new Big(step)).eq(0);
}
