import { fault, nearest } from './fault.ts';

// Nothing that a developer writes is passed over: what a maker does not know is a mistake, mostly a slip of the pen.

/**
 * The options that a maker is given.
 *
 * @param maker how it is called, for the sentence of the fault
 * @throws Fault for what is no object of options, and for an option that is not known
 */
export function optionsOf<T extends object>(maker: string, given: T, known: readonly string[]): T {
  if (!isPlain(given)) fault(`${maker}: its options are an object such as { ${known[0]}: … }, and not ${kindOf(given)}.`);
  for (const name of Object.keys(given)) if (!known.includes(name)) fault(`${maker} has no option "${name}"; ${nearest(name, known)}`);
  return given;
}

/** What something is, for people. */
export function kindOf(value: unknown): string {
  if (value === null || value === undefined) return String(value);
  if (Array.isArray(value)) return 'a list';
  if (typeof value === 'object') return 'an object';
  if (typeof value === 'function') return 'a function';
  return typeof value === 'string' ? `the text ${JSON.stringify(value)}` : `the ${typeof value} ${String(value)}`;
}

function isPlain(value: unknown): boolean {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
