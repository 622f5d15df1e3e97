import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';

/** A folder of a test's own, gone when its tests are done, and the command run as a person would. What it tells has the folder's name taken out. */
export function commandIn() {
  const folder = mkdtempSync(join(tmpdir(), 'jestril-'));
  afterAll(() => rmSync(folder, { recursive: true, force: true, maxRetries: 3 }));
  return {
    folder,
    library: join(process.cwd(), 'dist/index.js'),
    /** Writes a file into the folder; gives its path. */
    file(name: string, text: string | Uint8Array): string {
      const path = join(folder, name);
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, text);
      return path;
    },
    jestril(args: readonly string[], input = '', cwd = process.cwd()) {
      const command = join(process.cwd(), 'bin/jestril.js');
      const { status, stdout, stderr } = spawnSync('node', [command, ...args], { input, encoding: 'utf8', cwd, maxBuffer: 1e9 });
      return { status, stdout: stdout.replaceAll(folder, ''), stderr: stderr.replaceAll(folder, '') };
    },
  };
}

/** The objects of a text with one a line. */
export function linesOf(text: string) {
  return text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line));
}
