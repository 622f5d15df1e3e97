/** JSON text in which the members of objects stand in one order: the same for values that are the same. */
export function canonical(value: unknown): string {
  return JSON.stringify(value, (_name, inner: unknown) =>
    typeof inner === 'object' && inner !== null && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([one], [other]) => (one < other ? -1 : 1)))
      : inner,
  );
}
