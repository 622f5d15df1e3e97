import type { Element } from './parse.ts';

/** A message with names in the place of what is not known: of branches that depend on it, the one for all others. */
export function generally(elements: readonly Element[], unknown: (slot: string) => string | undefined, count?: string): Element[] {
  return elements.flatMap((element): Element[] => {
    if (element.type === 0) return [element];
    if (element.type === 7) return count === undefined ? [element] : [{ type: 0, value: count }];
    const name = unknown(element.value);
    if (element.type === 5 || element.type === 6) {
      const { other } = element.options;
      if (name !== undefined) return other ? generally(other.value, unknown, element.type === 6 ? name : count) : [];
      const options = Object.fromEntries(
        Object.entries(element.options).map(([key, { value }]) => [
          key,
          { value: generally(value, unknown, element.type === 6 ? undefined : count) },
        ]),
      );
      return [{ ...element, options }];
    }
    return name === undefined ? [element] : [{ type: 0, value: name }];
  });
}
