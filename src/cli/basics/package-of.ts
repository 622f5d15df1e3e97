import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { resolvedFrom } from './loading.ts';
import { Misuse } from './misuse.ts';

/**
 * A package of the application's, or of the command's own, that is loaded only where something asks for it.
 *
 * @param who what needs it, for the sentence where it is missing
 */
export async function packageOf<T>(name: string, who: string): Promise<T> {
  for (const from of [join(process.cwd(), 'package.json'), import.meta.url]) {
    const found = resolvedFrom(from, name);
    if (found) return (await import(pathToFileURL(found).href)) as T;
  }
  throw new Misuse(`${who} needs the package ${name}; run: npm install --save-dev ${name}`);
}
