// Names of form fields may nest: `crew.0.name` or `crew[0][name]`. Whoever reads one reads it here.

/** Names with more parts than this are not taken apart; they are strangers to any intake. */
const DEEPEST = 16;

/**
 * The parts of a name: of what is too deep, or has an empty part, there is one, the whole. `tags[]` is the plain name `tags`, which may be
 * repeated.
 */
export function pathOf(name: string): string[] {
  const parts = beginningOf(name);
  return parts.length > DEEPEST || parts.includes('') ? [name] : parts;
}

/** The first parts of a name, whether or not it can be taken apart. */
export function beginningOf(name: string): string[] {
  return name
    .replace(/\[\]$/, '')
    .replaceAll(/\[([^[\]]*)\]/g, '.$1')
    .split('.', DEEPEST + 1);
}

/** The JSON Pointer (RFC 6901) of a path. */
export function pointerOf(path: readonly string[]): string {
  return path.map((part) => `/${segmentOf(part)}`).join('');
}

/** A name as it stands in a pointer. */
export function segmentOf(part: string): string {
  return /[~/]/.test(part) ? part.replaceAll('~', '~0').replaceAll('/', '~1') : part;
}

/** `crew[0][name]` and `crew.0.name` are the same place: `/crew/0/name`. */
export const pointerOfName = (name: string): string => pointerOf(pathOf(name));

/** The segments of a JSON Pointer (RFC 6901). */
export function segmentsOf(pointer: string): string[] {
  return pointer
    .split('/')
    .slice(1)
    .map((segment) => segment.replaceAll('~1', '/').replaceAll('~0', '~'));
}

/** The part of a name that counts a row. */
export const isRow = (part: string): boolean => /^(?:0|[1-9]\d{0,8})$/.test(part);
