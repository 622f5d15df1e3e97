// What every command does first, on a fresh clone too: install what the lock file names, and build what is out of date.
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, rmSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** Runs a command in the project; ends this one with its exit code when it fails. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (error) throw error;
  if (status !== 0) process.exit(status ?? 1);
}

/** Installs when the lock file is newer than what is installed; `npm ci` would want the packages of every other platform too. */
export function install() {
  const installed = join(root, 'node_modules/.package-lock.json');
  if (existsSync(installed) && statSync(installed).mtimeMs >= statSync(join(root, 'package-lock.json')).mtimeMs) return;
  console.error('Installing what the lock file names …');
  run('npm', ['install', '--no-save', '--no-fund', '--no-audit', '--loglevel=error'], { stdio: ['ignore', 'ignore', 'inherit'] });
}

/** The path of a package's program, so that no shell has to find it. */
export const program = (path) => join(root, 'node_modules', path);

/** Compiles the library when a source is newer than the result. */
export function build() {
  const made = join(root, 'dist/node/index.js');
  if (existsSync(made) && statSync(made).mtimeMs > newest(join(root, 'src'))) return;
  rmSync(join(root, 'dist'), { recursive: true, force: true });
  run('node', [program('typescript/bin/tsc'), '-p', 'tsconfig.build.json']);
  run('node', ['scripts/bundle.mjs']);
  run('node', [program('vite/bin/vite.js'), 'build', '--config', 'src/workbench/page/vite.config.mjs']);
}

function newest(folder) {
  return Math.max(
    ...readdirSync(folder, { recursive: true, withFileTypes: true }).map(
      (entry) => statSync(join(entry.parentPath ?? entry.path, entry.name)).mtimeMs,
    ),
  );
}
