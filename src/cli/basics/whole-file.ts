import { closeSync, fsyncSync, openSync, renameSync, rmSync } from 'node:fs';
import { Misuse } from './misuse.ts';
import { writeAll } from './write-all.ts';

/**
 * Writes a file beside, and puts it in its place: whoever reads finds all of it, or what stood there before.
 *
 * @param mode who may read it, as far as the process lets anybody
 * @throws Misuse where it cannot be written
 */
export function writeWhole(path: string, parts: readonly (string | Uint8Array)[], mode = 0o666): void {
  const beside = besideOf(path);
  try {
    const file = openSync(beside, 'wx', mode);
    try {
      for (const part of parts) writeAll(file, typeof part === 'string' ? Buffer.from(part) : part);
      fsyncSync(file);
    } finally {
      closeSync(file);
    }
    renameSync(beside, path);
  } catch (cause) {
    rmSync(beside, { force: true });
    throw unwritable(path, cause as NodeJS.ErrnoException);
  }
}

/** A name beside a file that nobody else writes. */
export function besideOf(path: string): string {
  return `${path}.${process.pid}-${Math.random().toString(36).slice(2)}`;
}

/** Why a file cannot be written, and what to do. */
export function unwritable(path: string, { code, message }: NodeJS.ErrnoException, more = ''): Misuse {
  return new Misuse(code === 'ENOSPC' ? `There is no room left for ${path}; make some${more}.` : `${path} cannot be written: ${message}.`);
}
