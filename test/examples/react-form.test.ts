import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { ownerSignUp } from '@pellwick/marina';
import express from 'express';
import { receive } from 'jestril/express';
import { memoryRecords } from 'jestril/memory';
import type { Browser } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';

describeInBrowser('the React form in a browser (needs Chromium)', () => {
  let server: Server;
  let browser: Browser;
  beforeAll(async () => {
    const records = memoryRecords({ owners: [{ id: 1, email: 'ida@fjordmail.example' }] });
    const app = express().use(express.static('examples/react-form/dist'));
    app.post(
      '/sign-up',
      receive(ownerSignUp, { records }, ({ name }) => ({ status: 201, body: { name } })),
    );
    server = app.listen(0, '127.0.0.1');
    browser = await launchBrowser();
  });
  afterAll(async () => {
    await browser?.close();
    server?.close();
  });

  test('findings of the page and of the server stand at the components, and an accepted form is done', async () => {
    const page = await browser.newPage();
    await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
    const beside = (pointer: string) => page.locator(`[data-field="${pointer}"]`).textContent();
    await page.fill('#born', '2020-01-01');
    await page.locator('#born').blur();
    expect(await beside('/born')).toBe('To open an account you must be 18 or older.');
    await page.fill('#born', '1990-01-01');
    await page.fill('#name', 'Liv Aas');
    await page.fill('[name="contact.email"]', 'ida@fjordmail.example');
    for (const name of ['passphrase', 'passphraseAgain']) await page.fill(`#${name}`, 'twelve gulls');
    await page.check('#terms');
    await page.click('button');
    await page.locator('[data-field="/contact/email"] [data-finding]').waitFor();
    expect(await beside('/contact/email')).toBe('E-mail is already in use.');
    expect(await beside('/born')).toBe('');
    await page.fill('[name="contact.email"]', 'liv@fjordmail.example');
    await page.click('button');
    await page.locator('text=Welcome, Liv Aas.').waitFor();
  });
});
