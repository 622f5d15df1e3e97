import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';

// The core is the whole computation: it imports nothing outside itself, but for the parser of patterns in one file.
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

/** What a browser's bundle goes without, since a server or a test has seen to it: by its name in package.json the files that use it. */
const SHOWN_ON_SERVERS: { readonly [name: string]: readonly string[] } = {
  '#pattern-proof': ['core/rules/pattern.ts'],
  '#catalogue-check': ['core/compile/compile.ts'],
  '#zone-names': ['core/basics/days.ts', 'core/rules/codes.ts'],
};

test('there is a core to look at', () => {
  expect(core.length).toBeGreaterThan(30);
  expect(importsOf('core/intake.ts')).toContain('./basics/fault.ts');
});

test.each(core)('%s stays inside the core', (file) => {
  for (const imported of importsOf(file)) {
    if (imported === '@eslint-community/regexpp') expect(file).toBe('core/patterns/syntax.ts');
    else if (imported.startsWith('#')) expect(SHOWN_ON_SERVERS[imported]).toContain(file);
    else expect(imported[0]).toBe('.');
    if (imported.startsWith('.')) expect(relative(src, resolve(src, dirname(file), imported))).toMatch(/^core\//);
  }
});

test('nobody asks a database for its name', () => {
  expect(files.filter((file) => /'(postgres|mysql|sqlite)'/.test(readFileSync(join(src, file), 'utf8')))).toEqual([]);
});

test('every language that intakes are written in is offered', () => {
  const folder = 'cli/export/languages/';
  const written = files.filter((file) => file.startsWith(folder) && file !== `${folder}language.ts`);
  const offered = importsOf('cli/export/languages.ts').filter((file) => file.includes('/languages/') && !file.endsWith('/language.ts'));
  expect(offered.map((file) => file.split('/').at(-1)).sort()).toEqual(written.map((file) => file.split('/').at(-1)).sort());
});

/** Where steps and conditions are given to what is made for their sort; a trace tells the name. */
const BY_SORT = [
  'core/changes/steps.ts',
  'core/generated/steps.ts',
  'core/loop/traced.ts',
  'core/plan/by-condition.ts',
  'core/plan/by-sort.ts',
];

test('steps and conditions are asked for what they do, and not for the name of their sort', () => {
  const asks = (file: string) => /\bsort\.name\b|\b(step|condition)\.(op|sort) ===/.test(readFileSync(join(src, file), 'utf8'));
  expect(files.filter(asks).sort()).toEqual(BY_SORT);
});

test.each(files.filter((file) => !file.startsWith('core/') && !file.startsWith('cli/')))('%s knows nothing of the command line', (file) => {
  for (const imported of importsOf(file)) expect(imported).not.toContain('cli/');
});

/** What can be reached from itself again, by way of others. */
function circlesIn(graph: ReadonlyMap<string, ReadonlySet<string>>): string[] {
  const reached = (from: string, seen = new Set<string>()): Set<string> => {
    for (const to of graph.get(from) ?? []) {
      if (seen.has(to)) continue;
      seen.add(to);
      reached(to, seen);
    }
    return seen;
  };
  return [...graph.keys()].filter((name) => reached(name).has(name));
}

test.each([
  ['files', (file: string) => file],
  ['rooms', dirname],
])('no circle of imports among %s', (_what, of) => {
  const graph = new Map<string, Set<string>>();
  for (const file of files) {
    const to = graph.get(of(file)) ?? new Set<string>();
    graph.set(of(file), to);
    for (const imported of importsOf(file)) if (imported.startsWith('.')) to.add(of(relative(src, resolve(src, dirname(file), imported))));
    to.delete(of(file) === file ? '' : of(file));
  }
  expect(circlesIn(graph)).toEqual([]);
});
