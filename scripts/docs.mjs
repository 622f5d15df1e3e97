// npm run docs: the guide as a site, with the API made from the docstrings, in site/dist. `npm run docs -- dev` shows it while it is written.
// It has packages of its own, which nobody else needs.
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, run } from './setup.mjs';

const site = join(root, 'site');
const pages = join(site, 'pages');
const here = (path) => join(site, 'node_modules', path);
const inSite = { cwd: site };

const installed = join(site, 'node_modules/.package-lock.json');
if (!existsSync(installed) || statSync(installed).mtimeMs < statSync(join(site, 'package-lock.json')).mtimeMs)
  run('npm', ['install', '--no-save', '--no-fund', '--no-audit', '--loglevel=error'], inSite);

rmSync(pages, { recursive: true, force: true });
mkdirSync(pages, { recursive: true });
for (const name of readdirSync(join(root, 'docs')).filter((each) => each.endsWith('.md')))
  page(join(root, 'docs', name), name === 'README.md' ? 'index.md' : name);
page(join(root, 'CONTRIBUTING.md'), 'contributing.md');
page(join(root, 'examples/README.md'), 'examples.md');
cpSync(join(root, 'docs/screenshots'), join(pages, 'screenshots'), { recursive: true });

const { exports } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
const sources = Object.values(exports).flatMap((entry) => (entry['jestril-source'] ? [join(root, entry['jestril-source'])] : []));
run('node', [here('typedoc/bin/typedoc'), '--options', 'typedoc.json', ...sources], inSite);
run('node', [here('vitepress/bin/vitepress.js'), process.argv[2] === 'dev' ? 'dev' : 'build', '.'], inSite);

/** A page of the project as one of the site: its links stay inside of it, and what is no page is told by its name. */
function page(from, to) {
  const text = readFileSync(from, 'utf8')
    .replaceAll(/\]\((?:\.\.\/)?CONTRIBUTING\.md/g, '](/contributing')
    .replaceAll(/\]\((?:\.\.\/)?examples\/README\.md/g, '](/examples')
    .replaceAll(/\[([^\]]+)\]\((?!https?:|#|\/|screenshots\/)(?![^)]*\.md(?:#[^)]*)?\))[^)]+\)/g, '`$1`');
  writeFileSync(join(pages, to), text);
}
