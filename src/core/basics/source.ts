// The one way in which names of a definition get into code.

/** A text as a literal; the line ends that are none in JSON are written out. */
export function literal(text: string): string {
  return JSON.stringify(text).replaceAll('\u2028', '\\u2028').replaceAll('\u2029', '\\u2029');
}

const NAME = /^[A-Za-z_$][\w$]*$/;

/** The member of an object, for reading and setting. */
export function member(of: string, key: string): string {
  return NAME.test(key) ? `${of}.${key}` : `${of}[${literal(key)}]`;
}

/** The name of a member in an object literal; `__proto__` names a member like any other there. */
export function property(key: string): string {
  return NAME.test(key) && key !== '__proto__' ? key : `[${literal(key)}]`;
}

/** Part of a function's name, so that a profile or a stack tells which field it is for. */
export function partOfName(key: string): string {
  return key.replaceAll(/\W/g, '_').slice(0, 40);
}

/** A comment that names the code in stack traces. */
export function sourceNamed(name: string, number: number): string {
  return `//# sourceURL=jestril/${name.replaceAll(/[^\p{L}\p{N}._-]/gu, '_')}/${number}.js`;
}
