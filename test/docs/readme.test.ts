import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

const readme = readFileSync('README.md', 'utf8');

test.each([
  'README.md',
  ...readdirSync('docs')
    .filter((name) => name.endsWith('.md') && readFileSync(`docs/${name}`, 'utf8').includes('```ts') && name !== 'reference.md')
    .map((name) => `docs/${name}`),
])(
  'the examples of %s, taken together, compile and print what it says',
  (page) => {
    const written = readFileSync(page, 'utf8');
    const blocks = (language: string) =>
      [...written.matchAll(new RegExp(`\`\`\`${language}\\n(.*?)\`\`\``, 'gs'))].map(([, code]) => code as string);
    // Inside the examples, where the library has the name that an application uses.
    const folder = mkdtempSync('examples/readme-');
    try {
      const file = join(folder, 'readme.ts');
      writeFileSync(file, blocks('ts').join('\n'));
      writeFileSync(join(folder, 'tsconfig.json'), '{ "extends": "../tsconfig.json", "include": ["readme.ts"] }');
      const types = spawnSync('node', ['node_modules/typescript/bin/tsc', '-p', folder], { encoding: 'utf8' });
      expect(types.stdout).toBe('');
      const { stdout, stderr } = spawnSync('node', ['node_modules/jiti/lib/jiti-cli.mjs', file], { encoding: 'utf8' });
      expect(stderr).toBe('');
      expect(stdout).toBe(blocks('text').join(''));
    } finally {
      rmSync(folder, { recursive: true });
    }
  },
  60_000,
);

/** The anchors of a page, as its headings make them. */
function anchorsIn(file: string): string[] {
  const page = readFileSync(file, 'utf8').replaceAll(/```.*?```/gs, '');
  const seen = new Map<string, number>();
  return [...page.matchAll(/^#+ (.+)$/gm)].map(([, heading = '']) => {
    const slug = heading
      .toLowerCase()
      .replaceAll(/[^\p{L}\p{N} _-]/gu, '')
      .replaceAll(' ', '-');
    const count = seen.get(slug) ?? 0;
    seen.set(slug, count + 1);
    return count === 0 ? slug : `${slug}-${count}`;
  });
}

test('every link to a file of the project leads somewhere, and to a heading of it', () => {
  const pages = ['README.md', 'CONTRIBUTING.md', 'CHANGELOG.md', 'SECURITY.md', 'examples/README.md'];
  for (const name of readdirSync('docs').filter((each) => each.endsWith('.md'))) pages.push(`docs/${name}`);
  for (const file of pages) {
    for (const [, link = '', anchor] of readFileSync(file, 'utf8').matchAll(/\]\((?!https?:)([^)#]*)(?:#([^)]+))?\)/g)) {
      const target = link === '' ? file : join(dirname(file), link);
      expect([file, link, existsSync(target)]).toEqual([file, link, true]);
      if (anchor !== undefined) expect([file, link, anchor, anchorsIn(target).includes(anchor)]).toEqual([file, link, anchor, true]);
    }
  }
});

test('the page of servers shows the examples as they are', () => {
  const page = readFileSync('docs/servers.md', 'utf8');
  for (const name of readdirSync('examples/servers').filter((each) => each.endsWith('.ts'))) {
    const code = readFileSync(`examples/servers/${name}`, 'utf8').trim();
    expect([name, page.includes(code) || page.includes(`](../examples/servers/${name})`)]).toEqual([name, true]);
  }
});

test('the page of the browser shows the examples as they are', () => {
  const files = ['react-form/src/main.tsx', 'vue-form/src/FormField.vue', 'vue-form/src/SignUp.vue'];
  const examples = files.map((file) => readFileSync(`examples/${file}`, 'utf8'));
  const blocks = [...readFileSync('docs/browser.md', 'utf8').matchAll(/```(?:tsx|vue)\n(.*?)```/gs)].map(([, code]) => code as string);
  expect(blocks.length).toBe(4);
  expect(blocks.filter((code) => !examples.some((example) => example.includes(code)))).toEqual([]);
});

test('the guide names every page', () => {
  const guide = readFileSync('docs/README.md', 'utf8');
  for (const name of readdirSync('docs').filter((each) => each.endsWith('.md') && each !== 'README.md'))
    expect(guide).toContain(`(${name})`);
});

test('what the README lists is exported', async () => {
  const jestril = await import('jestril');
  const listed = [...(readme.split('## What there is')[1]?.split('## On the command line')[0] ?? '').matchAll(/`([a-z][A-Za-z]+)`/g)].map(
    ([, name]) => name as string,
  );
  const elsewhere = [
    'withCode',
    'one',
    'oneOrNone',
    'all',
    'count',
    'exists',
    'holds',
    'failing',
    'asks',
    'formObject',
    'shownForm',
    'fieldText',
    'fileContent',
    'filesIn',
    'telemetry',
    'controlAttributes',
    'receive',
    'bindForm',
    'useIntake',
    'removeMarkup',
    'prove',
    'describeProof',
    'describeRecords',
    'serially',
    'storeRows',
    'first',
    'sum',
    'highest',
    'lowest',
    'within',
    'localeFor',
    'judge',
    'judgeLocally',
    'judgeMany',
    'amend',
    'amendLocally',
    'amendAndStore',
    'judgeAndStore',
    'refusalOf',
  ];
  expect(listed.length).toBeGreaterThan(40);
  const exported = [
    jestril,
    await import('jestril/screening'),
    await import('jestril/describe'),
    await import('jestril/published'),
    await import('jestril/compare'),
  ].flatMap((entry) => Object.keys(entry));
  for (const name of listed.filter((name) => !elsewhere.includes(name))) expect(exported).toContain(name);
});
