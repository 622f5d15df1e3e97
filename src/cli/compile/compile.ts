import { mkdirSync, writeFileSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { writtenOf } from '../../core/generated/ahead.ts';
import { planOf } from '../../core/intake.ts';
import { loadIntakes } from '../basics/loading.ts';
import { EXIT, type Exit, Misuse } from '../basics/misuse.ts';
import { refuseSame } from '../basics/same-file.ts';

export interface CompileFlags {
  readonly intake?: string;
  readonly out?: string;
}

/** Writes the code of a module's intakes as an ES module with its types. */
export async function compile(path: string, { intake: wanted, out }: CompileFlags, warn: (text: string) => void): Promise<Exit> {
  const chosen = [...(await loadIntakes(path, wanted))];
  const file = resolve(out ?? join(dirname(path), `${basename(path).replace(/\.[cm]?[jt]sx?$/, '')}.code.js`));
  if (!file.endsWith('.js')) throw new Misuse(`--out ${out} has to end in .js.`);
  refuseSame('--out', file, [path]);
  const head = `// Written by jestril compile from ${basename(path)}; write it again when an intake changes.\n`;
  const code = chosen.map(([exported, intake]) => `export const ${exported}Code = ${writtenOf(planOf(intake))};\n`);
  const types = chosen.map(([exported]) => `export declare const ${exported}Code: WrittenCode;\n`);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, head + code.join('\n'));
  writeFileSync(file.replace(/\.js$/, '.d.ts'), `${head}import type { WrittenCode } from 'jestril/code';\n\n${types.join('')}`);
  warn(`${file}: ${chosen.map(([exported]) => `${exported}Code`).join(', ')}\n`);
  return EXIT.accepted;
}
