// npm run check:package: packs the library, installs it in an empty folder, and uses it there: types with both compilers,
// values, and the command.
import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build, install, program, root, run } from './setup.mjs';

const { version } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
install();
build();
const folder = mkdtempSync(join(tmpdir(), 'jestril-package-'));
try {
  run('npm', ['pack', '--silent', '--pack-destination', folder], { stdio: ['ignore', 'ignore', 'inherit'] });
  writeFileSync(join(folder, 'package.json'), '{ "type": "module", "private": true }');
  run('npm', ['install', '--silent', '--no-audit', '--no-fund', '--omit=peer', `./jestril-${version}.tgz`], { cwd: folder });
  // The packages behind some entries are peers that an application brings along.
  mkdirSync(join(folder, 'node_modules/@types'));
  for (const peer of ['kysely', 're2js', 'htmlparser2', 'magic-bytes.js', 'express', '@types/express'])
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
import { receive } from 'jestril/fetch';
import { localeFor } from 'jestril/locale';
import { removeMarkup } from 'jestril/markup';
export const stay = intake('stay', { name: text('Name'), from: day('From'), to: day('To') }, { rules: [inOrder({ earlier: 'from', later: 'to' })] });
export const value: Accepted<typeof stay> = { name: 'x', from: '2031-05-01', to: '2031-05-02' };
export const verdict = stay.judgeLocally(formObject(new URLSearchParams({ ...value })), { as: 'form', records: memoryRecords({}) });
// @ts-expect-error: there is no such field
intake('wrong', { from: day('From') }, { rules: [inOrder({ earlier: 'from', later: 'until' })] });
export type Sql = typeof sqliteRecords;
export const bind = bindForm;
const received = receive(stay, {}, ({ name }) => ({ body: { name } }));
await import('jestril/express');
console.log((await received(new Request('http://x/', { method: 'POST', body: '{}', headers: { 'content-type': 'application/json' } }))).status);
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
  writeFileSync(join(folder, 'data.json'), '{ "name": "x", "from": "2031-05-01", "to": "2031-05-02" }');
  writeFileSync(
    join(folder, 'stay.ts'),
    "import { day, intake, text } from 'jestril';\nexport const stay = intake('stay', { name: text('Name'), from: day('From'), to: day('To') });\n",
  );
  run('npx', ['jestril', 'check', 'stay.ts', 'data.json'], { cwd: folder });
} finally {
  rmSync(folder, { recursive: true, force: true });
}
