import type { KindSpec } from './kind.ts';
import { UNREADABLE } from './kind.ts';

// What a function of the application gives back is looked at here, and nowhere else: whether it is what was asked for, of the kind, text that
// can be stored, and no promise that is left alone.

/** In place of an answer: what was thrown. */
export class Thrown {
  constructor(readonly cause: unknown) {}
}

/**
 * What was given instead of what was asked for, without its content. A promise is waited for by nobody: one that is rejected would end the
 * process, so that it is caught here, and kept as the cause.
 *
 * @param who gave it, such as `Rule "marina/fits-berth"`
 * @param wanted what was asked for
 */
export function notAsked(who: string, given: unknown, wanted: string): TypeError {
  const error = new TypeError(`${who} gave ${told(given)}, and not ${wanted}.`);
  if (isPromise(given))
    given.then(undefined, (reason: unknown) => Object.defineProperty(error, 'cause', { value: reason, enumerable: false }));
  return error;
}

function told(given: unknown): string {
  if (isPromise(given)) return 'a Promise (what waits is said by `asks`)';
  return given === null || given === undefined ? String(given) : `a value of type ${typeof given}`;
}

function isPromise(given: unknown): given is Promise<unknown> {
  return typeof given === 'object' && given !== null && Object.prototype.toString.call(given) === '[object Promise]';
}

/**
 * A value that the application has made, as its kind keeps it.
 *
 * @throws TypeError for what is no value of the kind: text with a NUL among it, a number that is none, a promise
 */
export function valueGiven(kind: Pick<KindSpec, 'name' | 'json' | 'value'>, given: unknown, who: string): unknown {
  const value = (kind.value ?? kind.json)(given);
  if (value === UNREADABLE) throw notAsked(who, given, `a value of kind ${kind.name}`);
  return value;
}
