// What Node.js loads: every entry with what it needs in few files, since reading two hundred takes longer than judging a thousand
// submissions. Bundlers take the files as the compiler makes them, and leave out what is not used.
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'vite';
import { root } from './setup.mjs';

async function bundle() {
  const { exports, dependencies, peerDependencies } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
  const outside = [...Object.keys(dependencies), ...Object.keys(peerDependencies)].filter((name) => name !== PARSER);
  const entries = Object.values(exports).flatMap((entry) => (entry.node ? [entry.node.replace(/^\.\/dist\/node\/|\.js$/g, '')] : []));
  const input = Object.fromEntries(
    [...entries, 'cli/main', 'cli/serve/bench/process', 'cli/screening/thread'].map((entry) => [entry, join(root, 'src', `${entry}.ts`)]),
  );
  await build({
    root,
    configFile: false,
    logLevel: 'error',
    // What only the command uses is part of it, with what that needs, so that the package brings no more than applications need.
    ssr: { noExternal: true },
    resolve: {
      alias: {
        '#catalogue-check': join(root, 'src/core/messages/check-catalogues.ts'),
        '#pattern-proof': join(root, 'src/core/patterns/linear.ts'),
        '#zone-names': join(root, 'src/core/basics/zones.ts'),
      },
    },
    plugins: [parserWhenNeeded],
    build: {
      ssr: true,
      outDir: join(root, 'dist/node'),
      emptyOutDir: true,
      copyPublicDir: false,
      target: 'node20',
      minify: false,
      rollupOptions: {
        input,
        // Where something of the core is loaded at once anyway, asking for it later does no harm.
        checks: { ineffectiveDynamicImport: false },
        external: (id) => id.startsWith('node:') || outside.some((name) => id === name || id.startsWith(`${name}/`)),
        output: {
          format: 'es',
          // Small to read, and a stack still tells names.
          minify: { mangle: false, compress: true, codegen: { removeWhitespace: true } },
          entryFileNames: '[name].js',
          chunkFileNames: 'shared/[name].js',
          codeSplitting: { groups: [{ name: 'core', test: isCore }] },
        },
      },
    },
  });
}

const PARSER = '@eslint-community/regexpp';
/** The parser of patterns takes as long to load as all the rest: it waits for the first pattern. */
const parserWhenNeeded = {
  name: 'parser-when-needed',
  enforce: 'pre',
  resolveId: (id) => (id === PARSER ? '\0parser' : undefined),
  load: (id) =>
    id === '\0parser'
      ? `import { createRequire } from 'node:module';
const require = createRequire(import.meta.url);
export class RegExpParser {
  constructor(options) {
    return new (require('${PARSER}').RegExpParser)(options);
  }
}`
      : undefined,
};

/** What every judgement needs; the rest of the core is loaded when it is used. */
const LATER =
  /src\/core\/(races\/store|generated|messages\/catalogues|asking\/(found|questions|shapes|stored-values|outside|time-limit)|judging\/(decide|judge-many))\b/;
function isCore(id) {
  return id.includes('/src/core/') && !LATER.test(id);
}

await bundle();
// Text of one byte a character is read a third faster.
const made = join(root, 'dist/node');
for (const name of readdirSync(made, { recursive: true }).filter((each) => each.endsWith('.js'))) {
  const code = readFileSync(join(made, name), 'utf8');
  if (/\\[^\t\n\r -~]/.test(code)) throw new Error(`${name}: a character beyond ASCII is escaped, and would be escaped twice.`);
  const ascii = code.replaceAll(/[^\t\n\r -~]/g, (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, '0')}`);
  if (ascii !== code) writeFileSync(join(made, name), ascii);
}
