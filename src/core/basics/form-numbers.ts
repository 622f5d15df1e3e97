/**
 * Of a list that the names of a form made (`rates.7`, `rates.12`): its numbers as they stood there. A table with such names
 * takes them for the names of its entries.
 */
export const FORM_NUMBERS: unique symbol = Symbol.for('jestril.form-numbers');

/** The entries of a table as an object, where a form has made a list of them. */
export function namedByNumbers(raw: unknown): unknown {
  const numbers = (raw as { readonly [FORM_NUMBERS]?: readonly string[] } | null | undefined)?.[FORM_NUMBERS];
  return Array.isArray(raw) && numbers ? Object.fromEntries(numbers.map((name, index) => [name, raw[index]])) : raw;
}

/** The numbers of the rows of a list that the names of a form made, where some are left out: people know their rows by these. */
export function rowNumbers(raw: unknown): readonly number[] | undefined {
  const numbers = (raw as { readonly [FORM_NUMBERS]?: readonly string[] })[FORM_NUMBERS];
  return numbers?.some((number, index) => Number(number) !== index) ? numbers.map(Number) : undefined;
}
