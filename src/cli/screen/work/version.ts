import { createHash } from 'node:crypto';
import { existsSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join, relative, resolve } from 'node:path';
import { fingerprintOf } from '../../../core/beside.ts';
import { type LoadedIntake, resolvedFrom } from '../../basics/loading.ts';

/**
 * The version of an intake's rules: its plan, the programs that its module is made of, and Jestril. Machines that agree in it judge alike;
 * packages that are installed are known by the application's own lock file.
 */
export function versionOf(module: string, intake: LoadedIntake): string {
  const first = realpathSync(resolve(module));
  const digest = createHash('sha256');
  const { version } = createRequire(import.meta.url)('jestril/package.json') as { readonly version: string };
  digest.update(JSON.stringify([version, fingerprintOf(intake)]));
  const files = programsOf(first);
  for (const file of [...files.keys()].sort()) {
    digest.update(JSON.stringify(relative(dirname(first), file)));
    digest.update(files.get(file) as string);
  }
  return digest.digest('hex').slice(0, 20);
}

const IMPORTED = /\b(?:from|import|require)\s*\(?\s*['"]([^'"\n]+)['"]/g;
const ENDINGS = ['', '.ts', '.js', '.mts', '.mjs', '.cts', '.cjs', '.tsx', '.jsx', '.json', '/index.ts', '/index.js'];

/** A module and all that it imports of the application's own, by path. */
function programsOf(first: string): Map<string, string> {
  const found = new Map<string, string>();
  const waiting = [first];
  for (let file = waiting.pop(); file !== undefined; file = waiting.pop()) {
    if (found.has(file)) continue;
    const text = readFileSync(file, 'utf8');
    found.set(file, text);
    for (const [, name = ''] of text.matchAll(IMPORTED)) {
      const imported = name.startsWith('.') ? fileOf(resolve(dirname(file), name)) : ownPackage(file, name);
      if (imported !== undefined) waiting.push(imported);
    }
  }
  return found;
}

function fileOf(path: string): string | undefined {
  const ended = ENDINGS.map((ending) => path + ending);
  // What is written as .js may be a program in TypeScript.
  return [...ended, path.replace(/\.([cm]?)js$/, '.$1ts')].find((each) => existsSync(each) && statSync(each).isFile());
}

/** A package that is no installed one: part of the same workspace. Jestril itself is known by its version. */
function ownPackage(from: string, name: string): string | undefined {
  if (name.startsWith('node:') || name === 'jestril' || name.startsWith('jestril/')) return undefined;
  const found = resolvedFrom(from, name);
  if (!found || !existsSync(found)) return undefined;
  const real = realpathSync(found);
  return real.includes(join('/', 'node_modules', '/')) ? undefined : real;
}
