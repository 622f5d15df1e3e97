import { sumOfProducts } from '../basics/exact.ts';

type Entries<E> = readonly E[];

/** How many entries have each value: `countBy(crew, 'cabin').get('A')`. */
export function countBy<E extends object, const K extends keyof E>(entries: Entries<E>, key: K): ReadonlyMap<E[K], number> {
  const counts = new Map<E[K], number>();
  for (const entry of entries) counts.set(entry[key], (counts.get(entry[key]) ?? 0) + 1);
  return counts;
}

/**
 * What an amount comes to for each value of a key: `sumBy(lines, 'article', 'pieces').get('rope')`. Counted exactly; the sum of exact decimals
 * is one, that of numbers a number. An entry without an amount adds nothing, and a value that only such entries have is none of its keys.
 */
export function sumBy<E extends object, const K extends keyof E, const A extends keyof E>(
  entries: Entries<E>,
  key: K,
  amount: A,
): ReadonlyMap<E[K], NonNullable<E[A]>> {
  const amounts = new Map<E[K], (string | number)[]>();
  for (const entry of entries) {
    const value = entry[amount] as string | number | null | undefined;
    if (value === undefined || value === null) continue;
    const known = amounts.get(entry[key]) ?? [];
    amounts.set(entry[key], known);
    known.push(value);
  }
  const sums = [...amounts].map(([of, values]) => {
    const sum = sumOfProducts(values.map((value) => [value]));
    return [of, (values.some((value) => typeof value === 'string') ? sum : Number(sum)) as NonNullable<E[A]>] as const;
  });
  return new Map(sums);
}
