export type { ControlAttributes } from '../core/declared/kind.ts';
export { controlAttributes } from './control-attributes.ts';
export { type FieldText, fieldText } from './field-text.ts';
export { type ShownForm, shownForm } from './shown-form.ts';

import { FORM_NUMBERS } from '../core/basics/form-numbers.ts';
import { isRow, pathOf } from './names.ts';

type Branch = Map<string, Branch | unknown[]>;

/**
 * Decodes the fields of a form or query string into an object for `judge(…, { as: 'form' })`.
 *
 * Names nest by dots or brackets; parts that count `0`, `1`, … make a list, whose entries keep their order (or a table, where the
 * field is one).
 * A key that is repeated gives a list, which a single value refuses. Files stay what they are; the empty one that a
 * browser sends for a file box without a file is left out.
 *
 * @param entries pairs of name and text, such as a `URLSearchParams` or a `FormData`
 */
export function formObject(entries: Iterable<readonly [string, unknown]>): Record<string, unknown> {
  const root: Branch = new Map();
  for (const [name, value] of entries) {
    if (!isNoFile(value)) put(root, pathOf(name), value);
  }
  return objectOf(root);
}

/** Reads many forms of texts with the same names: what the names say is found out once. A column without a name is left out. */
export function formReader(names: readonly (string | undefined)[]): (values: readonly string[]) => object {
  const columns = names.flatMap((name, at) => (name === undefined ? [] : [{ parts: pathOf(name), at }]));
  const flat = columns.map(({ parts: [first = ''], at }) => ({ name: first, at }));
  const isFlat = columns.every(({ parts: [first = ''], parts }) => parts.length === 1 && first !== '__proto__');
  if (isFlat && new Set(flat.map(({ name }) => name)).size === flat.length)
    return (values) => {
      const object: Record<string, string> = {};
      for (const { name, at } of flat) object[name] = values[at] as string;
      return object;
    };
  return (values) => {
    const root: Branch = new Map();
    for (const { parts, at } of columns) put(root, parts, values[at]);
    return objectOf(root);
  };
}

function isNoFile(value: unknown): boolean {
  const { name, size } = (typeof value === 'object' && value !== null ? value : {}) as { name?: unknown; size?: unknown };
  return name === '' && size === 0;
}

function put(root: Branch, parts: readonly string[], value: unknown): void {
  let branch = root;
  for (const part of parts.slice(0, -1)) {
    let next = branch.get(part);
    if (!(next instanceof Map)) {
      // `a=1&a.b=2`: the name is a value and a group at once. The group is kept, and says what it lacks.
      next = new Map();
      branch.set(part, next);
    }
    branch = next;
  }
  const last = parts.at(-1) as string;
  const known = branch.get(last);
  if (known === undefined) branch.set(last, [value]);
  else if (Array.isArray(known)) known.push(value);
}

function valueIn(node: Branch | unknown[]): unknown {
  if (Array.isArray(node)) return node.length === 1 ? node[0] : node;
  const keys = [...node.keys()];
  if (keys.every(isRow)) {
    const numbers = keys.sort((a, b) => Number(a) - Number(b));
    const list = numbers.map((key) => valueIn(node.get(key) as Branch | unknown[]));
    return Object.defineProperty(list, FORM_NUMBERS, { value: numbers, enumerable: false });
  }
  return objectOf(node);
}

function objectOf(branch: Branch): Record<string, unknown> {
  // Without a prototype, `__proto__` is a name like any other.
  const object = Object.create(null) as Record<string, unknown>;
  for (const [key, node] of branch) object[key] = valueIn(node);
  return object;
}
