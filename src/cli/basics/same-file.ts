import { type BigIntStats, fstatSync, statSync } from 'node:fs';
import { STDIN } from './context.ts';
import { Misuse } from './misuse.ts';

/**
 * Nobody writes what is still to be read, whatever it is called: files are told apart by device and inode.
 *
 * @param what the flag, for the sentence
 * @throws Misuse
 */
export function refuseSame(what: string, path: string | undefined, read: readonly (string | undefined)[]): void {
  const target = path === undefined ? undefined : statOf(path);
  if (!target?.isFile()) return;
  for (const each of read) {
    const found = each === undefined ? undefined : statOf(each);
    if (found?.ino !== target.ino || found.dev !== target.dev) continue;
    throw new Misuse(
      `${what} ${path} is what is read (${each === STDIN ? 'standard input' : each}), and would be lost; name another file.`,
    );
  }
}

function statOf(path: string): BigIntStats | undefined {
  try {
    return path === STDIN ? fstatSync(0, { bigint: true }) : statSync(path, { bigint: true });
  } catch {
    return undefined;
  }
}
