// JSON Pointers (RFC 6901) in a JSON value.

export function segmentsOf(pointer: string): string[] {
  return pointer
    .split('/')
    .slice(1)
    .map((segment) => segment.replaceAll('~1', '/').replaceAll('~0', '~'));
}

export function pointerOf(segments: readonly string[]): string {
  return segments.map((segment) => `/${segment.replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
}

export function valueAt(value: unknown, segments: readonly string[]): unknown {
  return segments.reduce<unknown>((inner, segment) => (inner as { readonly [key: string]: unknown } | null | undefined)?.[segment], value);
}

/** A copy with another value at a place; `undefined` takes it away. */
export function withValue(value: unknown, [first, ...rest]: readonly string[], put: unknown): unknown {
  if (first === undefined) return put;
  if (Array.isArray(value)) {
    const copy = [...value];
    if (rest.length === 0 && put === undefined) copy.splice(Number(first), 1);
    else copy[Number(first)] = withValue(copy[Number(first)], rest, put);
    return copy;
  }
  const { [first]: inner, ...others } = (typeof value === 'object' && value !== null ? value : {}) as { readonly [key: string]: unknown };
  if (rest.length === 0 && put === undefined) return others;
  // A member that was there keeps its place.
  return first in ((value ?? {}) as object)
    ? Object.fromEntries(Object.entries(value as object).map(([key, each]) => [key, key === first ? withValue(inner, rest, put) : each]))
    : { ...others, [first]: withValue(undefined, rest, put) };
}

/** The declared path of a place: `/crew/2/born` is `crew.*.born`. */
export function declaredPath(pointer: string): string {
  return segmentsOf(pointer)
    .map((segment) => (/^\d+$/.test(segment) ? '*' : segment))
    .join('.');
}

/** The pointers of all single values in a value, as far as they are few. */
export function leavesOf(value: unknown, most = 400): { readonly pointer: string; readonly value: unknown }[] {
  const leaves: { pointer: string; value: unknown }[] = [];
  const walk = (inner: unknown, at: readonly string[]): void => {
    if (leaves.length >= most) return;
    if (typeof inner === 'object' && inner !== null) for (const [key, each] of Object.entries(inner)) walk(each, [...at, key]);
    else leaves.push({ pointer: pointerOf(at), value: inner });
  };
  walk(value, []);
  return leaves;
}

/** The declared paths at which two values differ, with those of what they stand in. */
export function changedPaths(before: unknown, after: unknown): ReadonlySet<string> {
  const changed = new Set<string>();
  const walk = (one: unknown, other: unknown, at: readonly string[]): boolean => {
    if (Object.is(one, other)) return false;
    const isInside = typeof one === 'object' && typeof other === 'object' && one !== null && other !== null;
    let isChanged = !isInside;
    if (isInside) {
      for (const key of new Set([...Object.keys(one), ...Object.keys(other)])) {
        const inner = walk((one as never)[key], (other as never)[key], [...at, /^\d+$/.test(key) ? '*' : key]);
        isChanged ||= inner;
      }
    }
    if (isChanged && at.length > 0) changed.add(at.join('.'));
    return isChanged;
  };
  walk(before, after, []);
  return changed;
}

export function parsed(text: string): { readonly value: unknown } | undefined {
  try {
    return { value: JSON.parse(text) };
  } catch {
    return undefined;
  }
}
