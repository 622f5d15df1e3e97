import { chmodSync, existsSync, lstatSync, realpathSync, statSync } from 'node:fs';
import { Misuse } from './misuse.ts';
import { writeWhole } from './whole-file.ts';

/**
 * Writes another text into a file that may be there: whole or not at all, where a link leads, readable to the same as before. A file that
 * nobody is to write stays as it is.
 *
 * @throws Misuse where it cannot be written
 */
export function rewrite(path: string, text: string): void {
  if (!existsSync(path)) {
    if (isLink(path)) throw new Misuse(`${path} is a link that leads nowhere; take it away, or make what it leads to.`);
    return writeWhole(path, [text]);
  }
  const real = realpathSync(path);
  const stat = statSync(real);
  if (!stat.isFile()) throw new Misuse(`${path} is no file, and cannot be written.`);
  // Another file can be put in its place, whatever its own mode says, so that this is asked here.
  if ((stat.mode & 0o222) === 0) throw new Misuse(`${path} is read-only, and was left as it is; make it writable first.`);
  writeWhole(real, [text], stat.mode & 0o777);
  chmodSync(real, stat.mode & 0o777);
}

function isLink(path: string): boolean {
  return lstatSync(path, { throwIfNoEntry: false }) !== undefined;
}
