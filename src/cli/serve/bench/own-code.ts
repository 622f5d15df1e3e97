import { existsSync, realpathSync } from 'node:fs';
import { dirname, resolve, sep } from 'node:path';
import { Misuse } from '../../basics/misuse.ts';

/**
 * The modules that a workbench loads: those of the folder of its own module, in the file system or in a revision, and what its command line
 * names. Anything else that a page, a case or a link asks for is refused.
 */
export class OwnCode {
  readonly folder: string;
  readonly #named: readonly string[];

  constructor(module: string, named: readonly string[] = []) {
    this.folder = dirname(realOf(module));
    this.#named = named.map(realOf);
  }

  /**
   * @param folder where the own folder is in what was taken out of a revision
   * @throws Misuse
   */
  check(path: string, folder = this.folder): void {
    const real = realOf(path);
    if (real.startsWith(realOf(folder) + sep) || this.#named.includes(real)) return;
    throw new Misuse(`${path} is not in ${this.folder}, and the workbench loads modules from there alone; copy it there.`);
  }
}

/** Where a file really is, behind links; what is not there is where its name says. */
function realOf(path: string): string {
  return existsSync(path) ? realpathSync(path) : resolve(path);
}
