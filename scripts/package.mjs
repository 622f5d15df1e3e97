// npm run check:package: packs the library, installs it in an empty folder, and uses it there: types with both compilers,
// values, and the command.
import { spawnSync } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, install, program, root, run } from './setup.mjs';

/** Of the library alone, itself among them. */
const MOST_PACKAGES = 7;
const MOST_BYTES = 4.9e6;

const { version } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
install();
build();
const folder = mkdtempSync(join(tmpdir(), 'jestril-package-'));
try {
  run('npm', ['pack', '--silent', '--pack-destination', folder], { stdio: ['ignore', 'ignore', 'inherit'] });
  writeFileSync(join(folder, 'package.json'), '{ "type": "module", "private": true }');
  run('npm', ['install', '--silent', '--no-audit', '--no-fund', '--omit=peer', `./jestril-${version}.tgz`], { cwd: folder });
  const installed = readdirSync(join(folder, 'node_modules'), { recursive: true, withFileTypes: true });
  const packages = installed.filter(
    ({ name, parentPath }) => name === 'package.json' && /node_modules\/(@[^/]+\/)?[^/@]+$/.test(parentPath),
  );
  const bytes = installed.reduce((sum, entry) => sum + (entry.isFile() ? statSync(join(entry.parentPath, entry.name)).size : 0), 0);
  console.log(
    `${packages.length} packages, ${(bytes / 1e6).toFixed(1)} MB: ${packages.map(({ parentPath }) => parentPath.split('node_modules/').at(-1)).join(', ')}`,
  );
  if (packages.length > MOST_PACKAGES || bytes > MOST_BYTES) throw new Error('The library alone is too large.');
  // The packages behind some entries are peers that an application brings along.
  mkdirSync(join(folder, 'node_modules/@types'));
  for (const peer of ['kysely', 're2js', 'htmlparser2', 'magic-bytes.js', 'express', '@types/express', 'react', 'vue'])
    symlinkSync(join(root, 'node_modules', peer), join(folder, 'node_modules', peer));
  writeFileSync(
    join(folder, 'app.ts'),
    `import { type Accepted, inOrder, intake, text, day } from 'jestril';
import { memoryRecords } from 'jestril/memory';
import { formObject } from 'jestril/form';
import { sqliteRecords } from 'jestril/sql';
import { de } from 'jestril/catalogues';
import { linearPattern } from 'jestril/linear';
import { bindForm } from 'jestril/browser';
import { useIntake } from 'jestril/react';
import { useIntake as useInVue } from 'jestril/vue';
import { receive } from 'jestril/fetch';
import { localeFor } from 'jestril/locale';
import { removeMarkup } from 'jestril/markup';
import { jsonSchemaOf } from 'jestril/describe';
import { intakesOf } from 'jestril/published';
import { compareIntakes } from 'jestril/compare';
import { prove } from 'jestril/proof';
import { screen } from 'jestril/screening';
export const stay = intake('stay', { name: text('Name'), from: day('From'), to: day('To') }, { rules: [inOrder({ earlier: 'from', later: 'to' })] });
export const value: Accepted<typeof stay> = { name: 'x', from: '2031-05-01', to: '2031-05-02' };
export const verdict = stay.judgeLocally(formObject(new URLSearchParams({ ...value })), { as: 'form', records: memoryRecords({}) });
// @ts-expect-error: there is no such field
export const wrong = () => intake('wrong', { from: day('From') }, { rules: [inOrder({ earlier: 'from', later: 'until' })] });
export type Sql = typeof sqliteRecords;
export const bind = [bindForm, useIntake, useInVue];
const received = receive(stay, {}, ({ name }) => ({ body: { name } }));
await import('jestril/express');
console.log((await received(new Request('http://x/', { method: 'POST', body: '{}', headers: { 'content-type': 'application/json' } }))).status);
const read = intakesOf(jsonSchemaOf(stay).schema).intake('stay');
console.log((await compareIntakes(stay, read)).length, (await prove({ intake: stay, accepts: [value], rejects: [] })).isProven);
console.log((await screen(stay, [value], async (rows) => { for await (const row of rows) void row; })).accepted);
const note = intake('note', { note: text('Note', removeMarkup(), linearPattern(/x+x+y/, 'odd')) }, { catalogues: [de] });
console.log(note.judgeLocally({ note: '<b>z</b>' }, { locale: localeFor('de-AT', ['en', 'de']) }));
`,
  );
  const options = {
    strict: true,
    exactOptionalPropertyTypes: true,
    noEmit: true,
    module: 'NodeNext',
    target: 'ES2022',
    lib: ['ES2023', 'DOM', 'DOM.Iterable'],
    types: [],
  };
  writeFileSync(join(folder, 'tsconfig.json'), JSON.stringify({ compilerOptions: options, files: ['app.ts'] }));
  for (const compiler of ['typescript', 'typescript6']) run('node', [program(`${compiler}/bin/tsc`), '-p', join(folder, 'tsconfig.json')]);
  // Rules as a package of their own: their declarations name nothing that an application cannot.
  cpSync(join(root, 'examples/marina'), join(folder, 'marina'), {
    recursive: true,
    filter: (from) => !/node_modules|proof|tour/.test(from),
  });
  for (const peer of ['big.js', '@types/big.js']) symlinkSync(join(root, 'node_modules', peer), join(folder, 'node_modules', peer));
  const emitting = {
    ...options,
    noEmit: false,
    declaration: true,
    emitDeclarationOnly: true,
    allowImportingTsExtensions: true,
    outDir: 'types',
    rootDir: '.',
  };
  writeFileSync(join(folder, 'tsconfig.marina.json'), JSON.stringify({ compilerOptions: emitting, files: ['marina/index.ts'] }));
  for (const compiler of ['typescript', 'typescript6'])
    run('node', [program(`${compiler}/bin/tsc`), '-p', join(folder, 'tsconfig.marina.json')]);
  writeFileSync(join(folder, 'data.json'), '{ "name": "x", "from": "2031-05-01", "to": "2031-05-02" }');
  const module =
    "import { day, intake, text } from 'jestril';\nexport const stay = intake('stay', { name: text('Name'), from: day('From'), to: day('To') });\n";
  for (const name of ['stay.mjs', 'stay.ts']) writeFileSync(join(folder, name), module);
  run('npx', ['jestril', 'check', 'stay.mjs', 'data.json'], { cwd: folder });
  const refused = spawnSync('npx', ['jestril', 'check', 'stay.ts', 'data.json'], { cwd: folder, encoding: 'utf8' });
  if (!process.features.typescript && !(refused.status === 3 && refused.stderr.includes('npm install --save-dev jiti')))
    throw new Error(`Without jiti the command says: ${refused.stderr}`);
  symlinkSync(join(root, 'node_modules/jiti'), join(folder, 'node_modules/jiti'));
  run('npx', ['jestril', 'check', 'stay.ts', 'data.json'], { cwd: folder });
  // And values: every entry is loaded as an application loads it.
  run('node', ['node_modules/jiti/lib/jiti-cli.mjs', 'app.ts'], { cwd: folder });
  for (const peer of ['piscina', '@napi-rs'])
    if (existsSync(join(root, 'node_modules', peer)) && !existsSync(join(folder, 'node_modules', peer)))
      symlinkSync(join(root, 'node_modules', peer), join(folder, 'node_modules', peer));
  writeFileSync(join(folder, 'rows.ndjson'), readFileSync(join(folder, 'data.json'), 'utf8'));
  // Each command brings what it needs.
  const silent = { cwd: folder, stdio: ['ignore', 'ignore', 'inherit'] };
  for (const args of [
    ['new', 'guest', 'name', 'email:email', 'nights:whole'],
    ['prove', 'guest.proof.ts'],
    ['describe', 'guest.ts', '--format', 'html'],
    ['graph', 'guest.ts', '--format', 'svg'],
    ['export', 'json-schema', 'guest.ts'],
    ['compare', 'guest.ts', 'guest.ts'],
    ['audit', 'stay.mjs', 'data.json'],
    ['compile', 'guest.ts', '--out', 'guest.code.js'],
    ['completion', 'zsh'],
    ['screen', 'start', 'stay.mjs', 'rows.ndjson', '--to', 'screened', '--workers', '2'],
  ])
    run('npx', ['jestril', ...args], silent);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
