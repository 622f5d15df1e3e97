import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, relative, resolve } from 'node:path';
import { Misuse } from '../basics/misuse.ts';

/** A module of the file system, or of a revision that was taken out into a folder of its own. */
export interface Version {
  readonly path: string;
  /** Where a folder of the file system is in it. */
  folderOf(folder: string): string;
  close(): void;
}

/** @param same the module to take, where only a revision is named */
export function versionOf(named: string, same?: string): Version {
  if (existsSync(named)) return { path: named, folderOf: (folder) => folder, close: () => undefined };
  const [, revision, path] = /^([^:]+):(.+)$/.exec(named) ?? [];
  if (revision !== undefined && path !== undefined && !isFlag(revision)) return takenOut(revision, resolve(path), named);
  if (same === undefined || !isRevision(named)) throw new Misuse(`There is no module ${named}, and no revision of git by that name.`);
  return takenOut(named, resolve(same.replace(/^[^:]+:(?!\\)/, '')), named);
}

function isRevision(name: string): boolean {
  if (isFlag(name)) return false;
  try {
    execFileSync('git', ['rev-parse', '--verify', '--quiet', `${name}^{commit}`], { stdio: 'pipe' });
    return true;
  } catch {
    return false;
  }
}

/** What git would take for one of its options is no revision. */
function isFlag(name: string): boolean {
  return name.startsWith('-');
}

/** The files of a revision, with the packages that are installed now. */
function takenOut(revision: string, file: string, named: string): Version {
  const folder = mkdtempSync(join(tmpdir(), 'jestril-revision-'));
  const close = () => rmSync(folder, { recursive: true, force: true });
  try {
    const top = execFileSync('git', ['rev-parse', '--show-toplevel'], {
      encoding: 'utf8',
      stdio: 'pipe',
      cwd: existing(dirname(file)),
    }).trim();
    const tar = execFileSync('git', ['-C', top, 'archive', '--format=tar', revision], { maxBuffer: 2 ** 30, stdio: 'pipe' });
    execFileSync('tar', ['-x', '-C', folder], { input: tar, stdio: 'pipe' });
    linkPackages(top, folder, dirname(relative(top, file)));
    const path = join(folder, relative(top, file));
    if (!existsSync(path)) throw new Misuse(`Revision ${revision} has no ${relative(top, file)}.`);
    return { path, folderOf: (inner) => join(folder, relative(top, inner)), close };
  } catch (cause) {
    close();
    if (cause instanceof Misuse) throw cause;
    const [first = ''] = String((cause as { readonly stderr?: Buffer }).stderr ?? (cause as Error).message).split('\n');
    throw new Misuse(`${named} cannot be taken out of git: ${first.replace(/^fatal: /, '')}.`);
  }
}

/** The nearest folder that is there: the module itself may be gone. */
function existing(folder: string): string {
  return existsSync(folder) || dirname(folder) === folder ? folder : existing(dirname(folder));
}

function linkPackages(top: string, folder: string, inside: string): void {
  const parts = inside === '.' ? [] : inside.split('/');
  for (let count = 0; count <= parts.length; count++) {
    const here = parts.slice(0, count).join('/');
    const packages = join(top, here, 'node_modules');
    const link = join(folder, here, 'node_modules');
    if (existsSync(packages) && existsSync(dirname(link)) && !existsSync(link)) symlinkSync(packages, link, 'dir');
  }
}
