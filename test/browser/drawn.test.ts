import type { Browser, Page } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';
import { openSite } from './site.ts';

const HTML = '<!doctype html><html lang="en"><title>t</title><body><script src="/page.js"></script>';

describeInBrowser('a form that components draw', () => {
  let browser: Browser;
  let page: Page;
  let site: Awaited<ReturnType<typeof openSite>>;
  beforeAll(async () => {
    site = await openSite('drawn.tsx', HTML, (_request, response) => response.writeHead(404).end());
    browser = await launchBrowser();
    page = await browser.newPage();
  });
  afterAll(async () => {
    await browser?.close();
    site?.close();
  });
  const press = (name: string) => page.getByRole('button', { name }).click();
  const listed = () => page.locator('li').allTextContents();
  const told = (count: number) => page.waitForFunction((wanted) => document.querySelectorAll('p').length === wanted, count);

  test('what sends nothing by itself is judged, blamed and sent; findings of rows go with their rows', async () => {
    await page.goto(site.address);
    await press('Send');
    await told(3);
    expect(await listed()).toEqual(['Berth is needed.', 'Member 1: Name is needed.', 'Member 2: Name is needed.']);
    await page.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Row 1');
    await press('B9');
    // Wrong again, and blamed once it is left.
    await told(2);
    await page.getByLabel('Row 1').fill('Ida');
    await page.getByText('Berth must be A1 or A2.').first().waitFor();
    await told(2);
    await press('Without 1');
    await page.getByText('Member 1: Name is needed.').waitFor();
    expect([await listed(), await page.locator('.row p').allTextContents()]).toEqual([
      ['Berth must be A1 or A2.', 'Member 1: Name is needed.'],
      ['Name is needed.'],
    ]);
    await press('A2');
    await page.getByLabel('Row 2').fill('Bo');
    await told(0);
    await press('Send');
    await page.waitForFunction(() => (window as unknown as { sent: unknown[] }).sent.length === 1);
    expect(await page.evaluate(() => (window as unknown as { sent: unknown[] }).sent[0])).toEqual([
      ['crew.0.name', 'Bo'],
      ['berth', 'A2'],
    ]);
    expect(await page.locator('[data-value]').getAttribute('data-value')).toBe('A2');
  });
});
