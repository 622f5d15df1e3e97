import { existsSync, lstatSync, mkdirSync, readFileSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import { homedir } from 'node:os';
import { dirname, join, relative, resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { isFault, nearest } from '../../core/basics/fault.ts';
import { graphOf } from '../../core/beside.ts';
import type { Fields } from '../../core/declared/field.ts';
import { type Intake, isIntake } from '../../core/intake.ts';
import { Misuse } from './misuse.ts';

export type LoadedIntake = Intake<Fields>;

/** Loads the module, TypeScript or JavaScript, without a build step, and picks the intake of that name. */
export async function loadIntake(path: string, wanted: string | undefined): Promise<LoadedIntake> {
  const chosen = chosenOf(path, await intakesOf(path), wanted);
  if (chosen.size > 1)
    throw new Misuse(
      `${path} exports several intakes; choose one with --intake: ${[...chosen.values()].map(({ name }) => name).join(', ')}.`,
    );
  return [...chosen.values()][0] as LoadedIntake;
}

/** The intakes of a module, by the names that it exports them under: all of them, or the one wanted. */
export async function loadIntakes(path: string, wanted: string | undefined): Promise<Map<string, LoadedIntake>> {
  return chosenOf(path, await intakesOf(path), wanted);
}

function chosenOf(path: string, intakes: Map<string, LoadedIntake>, wanted: string | undefined): Map<string, LoadedIntake> {
  const names = [...intakes.values()].map(({ name }) => name);
  if (intakes.size === 0)
    throw new Misuse(`${path} exports no intake; export one, such as: export const booking = intake('booking', { … }).`);
  if (wanted === undefined) return intakes;
  const chosen = [...intakes].filter(([exported, { name }]) => name === wanted || exported === wanted);
  if (chosen.length === 0) throw new Misuse(`${path} exports no intake named "${wanted}"; ${nearest(wanted, names)}`);
  return new Map(chosen.slice(0, 1));
}

async function intakesOf(path: string): Promise<Map<string, LoadedIntake>> {
  // The same intake exported under two names is one intake.
  const seen = new Set<unknown>();
  return new Map(
    Object.entries(await loadModule(path)).filter((entry): entry is [string, LoadedIntake] => {
      if (!isIntake(entry[1]) || seen.has(entry[1])) return false;
      seen.add(entry[1]);
      return true;
    }),
  );
}

/** What a module exports. */
export async function loadModule(path: string): Promise<{ readonly [name: string]: unknown }> {
  const file = resolve(path);
  if (!existsSync(file)) throw new Misuse(`There is no module ${path}.`);
  if (statSync(file).isDirectory()) throw new Misuse(`${path} is a folder; name the module in it, such as ${join(path, 'index.ts')}.`);
  try {
    // What a module writes is not what the command writes.
    return await import_(file);
  } catch (cause) {
    if (cause instanceof Misuse) throw cause;
    throw new Misuse(`${path} ${isFault(cause) ? 'does not describe an intake' : 'does not load'}: ${told(cause)}${whereOf(cause, path)}`);
  }
}

async function import_(file: string): Promise<{ readonly [name: string]: unknown }> {
  const isScript = /\.m?js$/.test(file);
  const loader = isScript ? undefined : await loaderNear(file);
  return loader ? await loader(file) : ((await import(pathToFileURL(file).href)) as { readonly [name: string]: unknown });
}

/**
 * What loads TypeScript: the package jiti, where the application or the command has it; Node.js alone (22.18 and later) loads modules that
 * only need their types taken away.
 */
async function loaderNear(file: string): Promise<((file: string) => Promise<{ readonly [name: string]: unknown }>) | undefined> {
  for (const from of [file, join(process.cwd(), 'package.json'), import.meta.url]) {
    const found = resolvedFrom(from, 'jiti');
    if (!found) continue;
    const { createJiti } = (await import(pathToFileURL(found).href)) as typeof import('jiti');
    const jiti = createJiti(pathToFileURL(file).href, {
      interopDefault: false,
      fsCache: privateCache(),
      tsconfigPaths: true,
      alias: resolvedFrom(file, 'jestril') === undefined ? ownNames() : {},
    });
    return (path) => jiti.import<{ readonly [name: string]: unknown }>(path);
  }
  const isTypeScript = /\.[cm]?tsx?$/.test(file);
  if (isTypeScript && !('typescript' in process.features && process.features.typescript))
    throw new Misuse(`${file} is TypeScript, which this Node.js does not load by itself; run: npm install --save-dev jiti`);
  return undefined;
}

/** What a module imports of Jestril where it is not installed: the command's own. */
function ownNames(): { [name: string]: string } {
  const root = packageRoot();
  const { exports } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')) as {
    exports: { [name: string]: string | { node?: string } };
  };
  return Object.fromEntries(
    Object.entries(exports).flatMap(([name, entry]) =>
      typeof entry === 'object' && entry.node ? [[`jestril${name.slice(1)}`, join(root, entry.node)]] : [],
    ),
  );
}

/** The folder of the command's own package. */
export function packageRoot(): string {
  return dirname(createRequire(import.meta.url).resolve('jestril/package.json'));
}

/** Where compiled modules are kept: a folder that nobody else can write into, since what is in it is run. None where there is no such. */
function privateCache(): string | false {
  try {
    const folder = join(process.env.XDG_CACHE_HOME || join(homedir(), '.cache'), 'jestril');
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const { uid, mode } = lstatSync(folder);
    const isOurs = process.getuid === undefined || uid === process.getuid();
    return isOurs && (process.platform === 'win32' || (mode & 0o022) === 0) ? folder : false;
  } catch {
    return false;
  }
}

/** Where the application, or else the command, has a package; `undefined` where neither has it. */
export function resolvedFrom(from: string, name: string): string | undefined {
  try {
    return createRequire(from).resolve(name);
  } catch {
    return undefined;
  }
}

/** The first sentence of an error, with what is missing and who wants it. */
function told(cause: unknown): string {
  const { message = String(cause) } = cause as Error;
  const [first = ''] = message.split('\n');
  return first
    .replace(/^(?:TransformError|ParseError|SyntaxError):\s*/, '')
    .replaceAll(/file:\/\/\S+/g, (url) => shortened(fileURLToPath(url)))
    .trim();
}

/** The file, line and column that an error comes from: of the application's own files the innermost. */
function whereOf(cause: unknown, path: string): string {
  const { stack = '', message = '' } = cause as Error;
  const text = `${stack}\n${message}`;
  const places = [...text.matchAll(/(?:file:\/\/)?(\/[^\s():'"]+\.[cm]?[jt]sx?):(\d+)(?::(\d+))?/g)];
  const own = places.find(([, file = '']) => !/node_modules|node:internal/.test(file) && !file.startsWith(join(packageRoot(), 'dist')));
  if (!own) {
    const [, line, column] = /\((\d+):(\d+)\)/.exec(message) ?? [];
    return line === undefined ? '' : ` (${path}:${line}:${column})`;
  }
  const [, file = '', line, counted] = own;
  // Where the text itself is wrong, columns are counted from 0.
  const column = counted !== undefined && /^ParseError/.test(message) ? String(Number(counted) + 1) : counted;
  const where = `${shortened(file)}:${line}${column === undefined ? '' : `:${column}`}`;
  return told(cause).includes(where) ? '' : ` (${where})`;
}

/** A path as a person would type it. */
function shortened(file: string): string {
  const short = relative(process.cwd(), file);
  return short.startsWith('..') ? file : short;
}

/** The names of the given fields, which the caller has to supply. */
export function givenNames(intake: LoadedIntake): string[] {
  return graphOf(intake).fields.flatMap(({ path, isGiven }) => (isGiven && !path.includes('.') ? [path] : []));
}
