import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';

// The core is the whole computation: it imports nothing outside itself, but for the message formatter in one folder, exact
// decimals and the parser of patterns in one file each.
// That it uses no global of Node.js or of the DOM is checked by compiling it with tsconfig.core.json.
const src = resolve('src');
const files = readdirSync(src, { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('.ts'));

function importsOf(file: string): string[] {
  const text = readFileSync(join(src, file), 'utf8');
  return [...text.matchAll(/(?:^|\n)(?:import|export)\b[^;'"]*?\bfrom '([^']+)'|\bimport\('([^']+)'\)|(?:^|\n)import '([^']+)'/g)].map(
    (match) => (match[1] ?? match[2] ?? match[3]) as string,
  );
}

const core = files.filter((file) => file.startsWith('core/'));

test('there is a core to look at', () => {
  expect(core.length).toBeGreaterThan(30);
  expect(importsOf('core/intake.ts')).toContain('./fault.ts');
});

test.each(core)('%s stays inside the core', (file) => {
  for (const imported of importsOf(file)) {
    if (imported === 'intl-messageformat') expect(file).toMatch(/^core\/messages\//);
    else if (imported === 'big.js') expect(file).toBe('core/exact.ts');
    else if (imported === '@eslint-community/regexpp') expect(file).toBe('core/patterns/syntax.ts');
    else if (imported === '#pattern-proof') expect(file).toBe('core/rules/pattern.ts');
    else expect(imported[0]).toBe('.');
    if (imported.startsWith('.')) expect(relative(src, resolve(src, dirname(file), imported))).toMatch(/^core\//);
  }
});

test.each(files.filter((file) => !file.startsWith('core/') && !file.startsWith('cli/')))('%s knows nothing of the command line', (file) => {
  for (const imported of importsOf(file)) expect(imported).not.toContain('cli/');
});
