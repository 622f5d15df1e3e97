import { isStorable } from './text.ts';

// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what no name has
const UNFIT = /[/\\\u0000-\u001f\u007f-\u009f\u2028\u2029]|^[A-Za-z]:|^\.{1,2}$/;

/** Whether a name is that of a file and nothing else: no way through folders, no drive, no control character. */
export function isBaseName(name: string): boolean {
  return name !== '' && isStorable(name) && !UNFIT.test(name);
}
