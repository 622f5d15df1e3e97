import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import type { Context } from './context.ts';
import { Misuse } from './misuse.ts';

/** Writes to a file that is named, else to standard output. */
export async function writeOut(text: string, out: string | undefined, context: Context): Promise<void> {
  if (out === undefined) {
    await context.out(text);
    return;
  }
  try {
    mkdirSync(dirname(resolve(out)), { recursive: true });
    writeFileSync(out, text);
  } catch (cause) {
    throw new Misuse(`${out} cannot be written: ${(cause as Error).message}.`);
  }
}

/** Writes a file that is not there yet: what a person has written is never overwritten. */
export function writeNew(path: string, text: string): void {
  try {
    mkdirSync(dirname(resolve(path)), { recursive: true });
    writeFileSync(path, text, { flag: 'wx' });
  } catch (cause) {
    if ((cause as { readonly code?: string }).code === 'EEXIST')
      throw new Misuse(`${path} is there already, and is not overwritten; choose another name.`);
    throw new Misuse(`${path} cannot be written: ${(cause as Error).message}.`);
  }
}
