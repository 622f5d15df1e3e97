import { readFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { ownerSignUp } from '@pellwick/marina';
import express from 'express';
import { receive } from 'jestril/express';
import { memoryRecords } from 'jestril/memory';
import type { Browser, Page } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';

const AXE = readFileSync('node_modules/axe-core/axe.min.js', 'utf8');

describeInBrowser.each(['react', 'vue'])('the form of %s in a browser (needs Chromium)', (framework) => {
  let server: Server;
  let browser: Browser;
  beforeAll(async () => {
    const records = memoryRecords({ owners: [{ id: 1, email: 'ida@fjordmail.example' }] });
    const app = express().use(express.static(`examples/${framework}-form/dist`));
    app.post(
      '/sign-up/check',
      receive(ownerSignUp, { records }, () => ({})),
    );
    app.post(
      '/sign-up',
      receive(ownerSignUp, { records }, ({ name, contact }) => ({ status: 201, body: { name, email: contact.email } })),
    );
    server = app.listen(0, '127.0.0.1');
    browser = await launchBrowser();
  });
  afterAll(async () => {
    await browser?.close();
    server?.close();
  });

  let page: Page;
  beforeEach(async () => {
    page = await browser.newPage();
    page.on(
      'console',
      (message) => message.type() === 'error' && !/status of (422|400)|ERR_FAILED/.test(message.text()) && complaints.push(message.text()),
    );
    page.on('pageerror', (error) => complaints.push(String(error)));
    await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
  });
  const complaints: string[] = [];
  afterEach(async () => {
    await page.close();
    expect(complaints).toEqual([]);
  });
  const beside = (label: string) =>
    page
      .locator('div, p')
      .filter({ has: page.getByLabel(label, { exact: true }) })
      .last()
      .locator('p')
      .allTextContents();
  const listed = () => page.locator('section li').allTextContents();
  const box = (label: string) => page.getByLabel(label, { exact: true });
  const fill = async (values: Record<string, string>) => {
    for (const [label, value] of Object.entries(values)) await box(label).fill(value);
  };
  const GOOD = { Name: 'Liv Aas', Born: '1990-01-01', Passphrase: 'twelve gulls', 'Passphrase again': 'twelve gulls' };

  test('findings of the page and of the server stand at the components, and an accepted form is done', async () => {
    expect([await box('Born').getAttribute('type'), await box('Name').getAttribute('maxlength')]).toEqual(['date', '80']);
    await box('Born').fill('2020-01-01');
    await box('Born').blur();
    expect(await beside('Born')).toEqual(['To open an account you must be 18 or older.']);
    await fill({ ...GOOD, 'E-mail': 'IDA@fjordmail.example' });
    expect([await box('E-mail').inputValue(), await beside('Born')]).toEqual(['ida@fjordmail.example', []]);
    await box('E-mail').blur();
    // Asked beforehand.
    await page.getByText('E-mail is already in use.').first().waitFor();
    expect([await beside('E-mail'), await listed()]).toEqual([['E-mail is already in use.'], []]);
    expect(await page.getByRole('status').textContent()).toBe('E-mail is already in use.');
    await page.getByRole('button').click();
    expect(await listed()).toEqual(['Terms of the marina must be confirmed.', 'E-mail is already in use.']);
    await page.evaluate(AXE);
    // biome-ignore lint/suspicious/noExplicitAny: the checker is a script without types
    expect(await page.evaluate(async () => (await (globalThis as any).axe.run()).violations.map(({ id }: { id: string }) => id))).toEqual(
      [],
    );
    await page.waitForFunction(() => (document.activeElement as HTMLInputElement).name === 'contact.email');
    expect(await box('E-mail').getAttribute('aria-invalid')).toBe('true');
    await box('I accept the terms of the marina').check();
    await page.getByRole('button').click();
    await page.waitForFunction(() => document.activeElement?.getAttribute('name') === 'contact.email');
    expect(await listed()).toEqual(['E-mail is already in use.']);
    await page.locator('section a').press('Enter');
    expect(await box('E-mail').evaluate((element) => element === document.activeElement)).toBe(true);
    await fill({ 'E-mail': 'liv@fjordmail.example' });
    expect(await listed()).toEqual([]);
    await page.getByRole('button').click();
    await page.getByText('Welcome, Liv Aas.').waitFor();
  });

  test('without a network it says so, and keeps what was typed', async () => {
    await page.route('**/sign-up', (route) => route.abort());
    await fill({ ...GOOD, 'E-mail': 'liv@fjordmail.example' });
    await box('I accept the terms of the marina').check();
    await page.getByRole('button').click();
    await page.getByRole('alert').waitFor();
    expect(await page.getByRole('alert').textContent()).toContain('The server cannot be reached.');
    expect([await box('Name').inputValue(), await page.getByRole('button').isEnabled()]).toEqual(['Liv Aas', true]);
    await page.waitForFunction(() => document.activeElement?.tagName === 'SECTION');
  });
});
