import { readFileSync } from 'node:fs';
import { defineConfig } from 'vitepress';

/** The guide in its own order: the links of docs/README.md, its lists as sections. */
const guide = readFileSync(new URL('../../docs/README.md', import.meta.url), 'utf8');
const [inOrder = '', others = ''] = guide.split('To look things up:');
const linksIn = (text) =>
  [...text.matchAll(/\[([^\]]+)\]\(([^)]+\.md)\)/g)].map(([, title, link]) => ({
    text: title[0].toUpperCase() + title.slice(1),
    link: pageOf(link),
  }));

function pageOf(link) {
  return `/${link.replace('../', '').replace('examples/README.md', 'examples').replace('CONTRIBUTING.md', 'contributing').replace(/\.md$/, '')}`;
}

export default defineConfig({
  title: 'Jestril',
  description: 'Judges incoming data: rules over values, fields and stored records, declared once and run everywhere.',
  srcDir: 'pages',
  outDir: 'dist',
  cacheDir: '.cache',
  cleanUrls: true,
  // What the API says of types is not always a page.
  ignoreDeadLinks: [/^\.?\/?api\//],
  // What stands in a page is text: angle brackets and braces of prose are no markup.
  markdown: {
    attrs: { disable: true },
    config(md) {
      md.set({ html: false });
      const asText = (tokens, at) => md.utils.escapeHtml(tokens[at].content).replaceAll('{{', '&#123;&#123;');
      md.renderer.rules.text = asText;
      md.renderer.rules.code_inline = (tokens, at) => `<code>${asText(tokens, at)}</code>`;
    },
  },
  themeConfig: {
    nav: [
      { text: 'Guide', link: '/first-intake' },
      { text: 'Recipes', link: '/recipes' },
      { text: 'Reference', link: '/reference' },
      { text: 'API', link: '/api/' },
    ],
    sidebar: [
      { text: 'The guide', items: linksIn(inOrder) },
      { text: 'To look things up', items: [...linksIn(others), { text: 'API', link: '/api/' }] },
    ],
    search: { provider: 'local' },
    outline: [2, 3],
  },
});
