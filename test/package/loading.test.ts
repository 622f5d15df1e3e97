import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';

// What a page and a server load, of the library as it is built.

/** Builds a page by Vite's bundler, which leaves out what is not used; tells the modules and kilobytes of its first load. */
const BUILD = `
import { gzipSync } from 'node:zlib';
import { build } from 'vite';
const built = await build({ root: process.cwd(), configFile: false, logLevel: 'silent',
  build: { write: false, modulePreload: false, rollupOptions: { input: process.argv[2] } } });
const chunks = new Map([built].flat().flatMap(({ output }) => output).map((chunk) => [chunk.fileName, chunk]));
const first = new Set();
const take = (name) => { const chunk = chunks.get(name); if (chunk && !first.has(chunk)) { first.add(chunk); chunk.imports?.forEach(take); } };
take([...chunks.values()].find(({ isEntry }) => isEntry).fileName);
console.log(JSON.stringify({
  modules: [...first].flatMap(({ moduleIds = [] }) => moduleIds).map((id) => id.replace(/^.*\\/dist\\//, '')),
  kilobytes: [...first].reduce((sum, { code = '' }) => sum + gzipSync(code).length, 0) / 1024,
}));`;

/** What the first chunks have now; whoever makes them larger has a reason, and says it here. */
const MOST_KILOBYTES = { threeTexts: 26, booking: 33.8 };

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(process.cwd(), '.cache-loading-'));
  writeFileSync(join(folder, 'build.mjs'), BUILD);
});
afterAll(() => rmSync(folder, { recursive: true }));

async function loaded(code: string): Promise<{ modules: string[]; kilobytes: number }> {
  const page = join(folder, 'page.js');
  writeFileSync(page, code);
  const { stdout } = await promisify(execFile)('node', [join(folder, 'build.mjs'), page]);
  return JSON.parse(stdout);
}

test('a page of three text fields loads no rule, no other kind, and nothing that asks, changes, stores or writes code', async () => {
  const fields = "{ a: text('A'), b: text('B'), c: text('C') }";
  const { modules, kilobytes } = await loaded(
    `import { intake, text } from 'jestril'; console.log(intake('three', ${fields}).judgeLocally(globalThis.input, { as: 'form' }));`,
  );
  const own = modules.filter((id) => id.startsWith('core/'));
  expect(own).toContain('core/kinds/text.js');
  const unused =
    /core\/(rules\/(?!definition)|generated|steps\/(?!reading|scalar\.js)|changes|races|stored\/(?!found-facts|collection)|patterns|messages\/catalogues|cleaning|kinds\/(?!text|field)|asking\/(found|questions|outside)|plan\/(graph|inspect|needs))/;
  expect(own.filter((id) => unused.test(id))).toEqual([]);
  expect(kilobytes).toBeLessThan(MOST_KILOBYTES.threeTexts);
});

test('what is used is loaded, and not the proof of its patterns, which a server has shown', async () => {
  const { modules } = await loaded(
    `import { between, intake, pattern, text, whole } from 'jestril';
     console.log(intake('two', { mark: text('Mark', pattern(/^a$/, 'an a')), guests: whole('Guests', between(1, 9)) }).judgeLocally(globalThis.input));`,
  );
  expect(modules).toEqual(expect.arrayContaining(['core/rules/pattern.js', 'core/rules/range.js', 'core/patterns/unproved.js']));
  expect(modules.filter((id) => /patterns\/(?!unproved)|regexpp|rules\/(length|email|web)/.test(id))).toEqual([]);
});

test('a booking loads no more than it did', async () => {
  const booking = JSON.stringify(join(process.cwd(), 'bench/booking.mjs'));
  const { modules, kilobytes } = await loaded(
    `import { good, make } from ${booking}; console.log(good, make('booking').judgeLocally(globalThis.input, { as: 'form' }));`,
  );
  expect(modules.filter((id) => /core\/(changes|generated|steps\/(table|shapes|.*\.(changes|code)))/.test(id))).toEqual([]);
  expect(kilobytes).toBeLessThan(MOST_KILOBYTES.booking);
});

test('every entry of the package is there, for Node.js and for bundlers, with its types', () => {
  const { exports } = JSON.parse(readFileSync('package.json', 'utf8')) as { exports: Record<string, string | Record<string, string>> };
  for (const entry of Object.values(exports).flatMap((each) => (typeof each === 'string' ? [] : Object.values(each))))
    expect(readFileSync(entry, 'utf8').length).toBeGreaterThan(0);
});
