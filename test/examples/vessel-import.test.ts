import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'libsql';
import type { Browser } from 'playwright-core';
import { vesselImport } from '../../examples/vessel-import/server/app.ts';
import { openVessels } from '../../examples/vessel-import/server/store.ts';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';

// From an uploaded list to stored rows, and back to the office what is to be mended.

const LIST = readFileSync('examples/vessel-import/vessels.csv', 'utf8');
const folder = mkdtempSync(join(tmpdir(), 'jestril-import-'));
const database = join(folder, 'vessels.sqlite');
openVessels(database);
// Left behind by a server that ended.
const LEFT = '00000000-0000-4000-8000-000000000000';
mkdirSync(join(folder, 'imports', LEFT), { recursive: true });
writeFileSync(join(folder, 'imports', LEFT, 'list.csv'), `${LIST.split('\n')[0]}\nPW-6000,Eider,9,3,true,2041-01-01\n`);
const { app, imports } = vesselImport({ folder: join(folder, 'imports'), rules: 'examples/vessel-import/rules.ts', database });

let server: Server;
beforeAll(async () => {
  server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  await imports.idle();
});
afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await imports.idle();
  rmSync(folder, { recursive: true });
});
const at = (path: string) => `http://127.0.0.1:${(server.address() as AddressInfo).port}${path}`;
const marks = () =>
  (new Sqlite(database).prepare('select mark from vessels order by id').all() as { mark: string }[]).map(({ mark }) => mark);
const send = (text: string, type = 'text/csv') => {
  const body = new FormData();
  body.set('list', new File([text], 'vessels.csv', { type }));
  return fetch(at('/imports'), { method: 'POST', body, redirect: 'manual', headers: { accept: 'text/html' } });
};
const done = async (location: string) => {
  for (;;) {
    const page = await (await fetch(at(location))).text();
    if (!page.includes('http-equiv="refresh"')) return page;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
};

test('accepted rows are stored, the others come back to be mended and are sent again', async () => {
  expect(marks()).toEqual(['PW-6000']);
  const answer = await send(LIST);
  expect([answer.status, answer.headers.get('location')]).toEqual([303, expect.stringMatching(/^\/imports\/[0-9a-f-]{36}$/)]);
  const location = answer.headers.get('location') as string;
  const page = await done(location);
  expect(page).toMatch(/<dt>Stored<\/dt><dd>3<\/dd>\s*<dt>Not accepted<\/dt><dd>5<\/dd>/);
  expect(page).toContain('Registration mark is already used in row 2. (line 4)');
  expect(marks()).toEqual(['PW-6000', 'PW-7001', 'PW-7002', 'PW-7007']);
  const file = await fetch(at(`${location}/to-mend.csv`));
  expect(file.headers.get('content-disposition')).toContain('attachment');
  const toMend = await file.text();
  expect(toMend.trim().split('\n')).toHaveLength(6);
  const mended = toMend
    .replace('PW-7002,Twite', 'PW-7012,Twite')
    .replace('7003,', 'PW-7003,')
    .replace('"Knot" and Ruff', 'Knot and Ruff')
    .replace('6,4.9', '6,2')
    .replace('2019-', '2049-');
  const second = await done((await send(mended, 'application/vnd.ms-excel')).headers.get('location') as string);
  expect(second).toContain('All 5 rows are in.');
  expect(marks()).toHaveLength(9);
});

test('what is no list, or nothing, is told beside the field', async () => {
  const picture = await send('x', 'image/png');
  expect([picture.status, await picture.text()]).toEqual([
    422,
    expect.stringMatching(/aria-invalid="true"[\s\S]*id="list-finding">List of vessels must be/),
  ]);
  expect((await send('')).status).toBe(422);
  const odd = await done((await send('"mark,name\nPW-7009,Ruff\n')).headers.get('location') as string);
  expect(odd).toMatch(/The import has stopped[\s\S]*the names of the columns cannot be read/);
  expect((await fetch(at('/imports/../secret'))).status).toBe(404);
});

const AXE = readFileSync('node_modules/axe-core/axe.min.js', 'utf8');

describeInBrowser('in a browser (needs Chromium)', () => {
  let browser: Browser;
  beforeAll(async () => {
    browser = await launchBrowser();
  });
  afterAll(() => browser?.close());

  test.each([1280, 390])('by keyboard, %i pixels wide', async (width) => {
    const page = await browser.newPage({ viewport: { width, height: 800 } });
    const complaints: string[] = [];
    page.on('console', (message) => message.type() === 'error' && complaints.push(message.text()));
    const isFine = async () => {
      const violations = await page.evaluate(`${AXE}; axe.run().then(({ violations }) => violations.map(({ id }) => id))`);
      expect([violations, await page.evaluate('document.documentElement.scrollWidth <= innerWidth')]).toEqual([[], true]);
    };
    await page.goto(at('/'));
    await isFine();
    await page.getByLabel('List of vessels').setInputFiles({ name: 'vessels.csv', mimeType: 'text/csv', buffer: Buffer.from(LIST) });
    await page.getByLabel('List of vessels').focus();
    await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'What came of the list' }).waitFor();
    await isFine();
    expect(await page.getByRole('link', { name: /to be mended/ }).count()).toBe(1);
    expect(complaints).toEqual([]);
    await page.close();
  });
});
