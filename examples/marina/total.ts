import Big from 'big.js';

/** What an order costs, to the cent: rounded half up from the exact product. */
export function totalOf({ price, amount }: { readonly price: string; readonly amount: number }): string {
  return new Big(price).times(amount).toFixed(2);
}
