// What an import costs in Node.js, and what a page loads.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { build } from 'vite';
import { median } from './paired.mjs';

const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** Milliseconds of an import in a new process. */
function importing(url) {
  const code = `const start = process.hrtime.bigint(); await import(${JSON.stringify(url)}); console.log(Number(process.hrtime.bigint() - start) / 1e6);`;
  return Number(spawnSync('node', ['--input-type=module', '-e', code], { encoding: 'utf8', cwd: root }).stdout);
}

/** Kilobytes (gzip) that a page loads at first for a module. */
async function kilobytes(folder, code) {
  const entry = join(folder, 'page.js');
  writeFileSync(entry, code);
  const built = await build({
    root,
    configFile: false,
    logLevel: 'silent',
    build: { write: false, minify: true, modulePreload: false, rollupOptions: { input: entry } },
  });
  const chunks = new Map(
    [built]
      .flat()
      .flatMap(({ output }) => output)
      .map((chunk) => [chunk.fileName, chunk]),
  );
  const first = new Set();
  const take = (name) => {
    const chunk = chunks.get(name);
    if (!chunk || first.has(chunk)) return;
    first.add(chunk);
    chunk.imports?.forEach(take);
  };
  take([...chunks.values()].find(({ isEntry }) => isEntry).fileName);
  return [...first].reduce((sum, { code: text = '' }) => sum + gzipSync(text).length, 0) / 1024;
}

/** @returns rows of what is measured, its ratio or size, and its target */
export async function loading() {
  const folder = mkdtempSync(join(root, '.cache-'));
  try {
    writeFileSync(join(folder, 'empty.mjs'), 'export {};');
    const empty = `file://${join(folder, 'empty.mjs')}`;
    const pairs = Array.from({ length: 11 }, () => [importing(empty), importing('jestril')]);
    const judged = "console.log(form.judgeLocally(globalThis.input, { as: 'form' }));";
    const three = `import { intake, text } from 'jestril'; const form = intake('three', { a: text('A'), b: text('B'), c: text('C') }); ${judged}`;
    const booking = `import { good, make } from ${JSON.stringify(join(root, 'bench/booking.mjs'))}; const form = make('booking'); console.log(good); ${judged}`;
    return [
      { what: 'import, cold, beside an empty module', value: median(pairs.map(([none, own]) => own / none)), target: 4 },
      { what: 'three text fields with sentences', value: await kilobytes(folder, three), target: 20, unit: 'KB' },
      { what: 'the booking with English', value: await kilobytes(folder, booking), target: 30, unit: 'KB' },
    ];
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
