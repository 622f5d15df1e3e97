/**
 * Applies a JSON Merge Patch (RFC 7396): `null` takes a member away, objects are merged, anything else replaces.
 * Neither argument is changed.
 */
export function mergePatch(target: unknown, patch: unknown): unknown {
  if (!isObject(patch)) return patch;
  const merged = new Map(isObject(target) ? Object.entries(target) : []);
  for (const [name, value] of Object.entries(patch)) {
    if (value === null) merged.delete(name);
    else merged.set(name, mergePatch(merged.get(name), value));
  }
  // fromEntries defines each name, `__proto__` too, and sets none.
  return Object.fromEntries(merged);
}

function isObject(value: unknown): value is { readonly [name: string]: unknown } {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
