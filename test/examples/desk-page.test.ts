import { type ChildProcess, spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';

const PORT = '4391';
const booking = JSON.parse(readFileSync('examples/marina/data/form.json', 'utf8')) as Record<string, string>;

describeInBrowser('the booking desk in a browser (needs Chromium)', () => {
  let desk: ChildProcess;
  let browser: Browser;
  let page: Page;
  beforeAll(async () => {
    desk = spawn('node', ['examples/booking-desk/dist/server/main.js'], { env: { ...process.env, PORT, DESK_FILE: ':memory:' } });
    await new Promise((resolve) => desk.stdout?.once('data', resolve));
    browser = await launchBrowser();
  }, 60_000);
  afterAll(async () => {
    await browser?.close();
    desk?.kill();
  });
  beforeEach(async () => {
    page = await browser.newPage({ viewport: { width: 390, height: 844 } });
    await page.goto(`http://localhost:${PORT}/`);
    await page.locator('#berth option[value="A1"]').waitFor({ state: 'attached' });
  });
  afterEach(() => page.close());

  async function fill(values: Record<string, string>): Promise<void> {
    for (const [name, value] of Object.entries(values)) {
      const control = page.locator(`[name="${name}"]`);
      if (name === 'berth' || name === 'power') await control.selectOption(value);
      else await control.fill(value);
    }
    await page.check('#terms');
  }
  const submit = async () => {
    await page.click('button[type=submit]');
    await page.locator('#notice h2').waitFor();
  };
  const summary = () => page.locator('#notice li').allTextContents();

  test('findings stand beside their fields and in a linked summary; what was typed stays, secrets do not', async () => {
    await fill({ ...booking, lengthOverall: '14.5', departs: '2031-05-12', 'crew.0.name': '' });
    await submit();
    expect(await summary()).toEqual([
      'A vessel of 14.5 m does not fit berth A1, which takes up to 12 m.',
      'Departure must be after Arrival.',
      'Crew member 1: Name is needed.',
    ]);
    expect(await page.evaluate(() => document.activeElement?.id)).toBe('notice');
    for (const name of ['lengthOverall', 'berth', 'departs', 'crew.0.name']) {
      const control = page.locator(`[name="${name}"]`);
      expect(await control.getAttribute('aria-invalid')).toBe('true');
      const described = ((await control.getAttribute('aria-describedby')) ?? '').split(' ').filter((id) => id.startsWith('finding'));
      expect(await page.locator(`#${described[0]}`).textContent()).not.toBe('');
    }
    expect([await page.inputValue('#mark'), await page.inputValue('#lengthOverall'), await page.inputValue('#gateCode')]).toEqual([
      'PW-2040',
      '14.5',
      '',
    ]);
    await page.locator('#notice a').nth(1).press('Enter');
    expect(await page.evaluate(() => document.activeElement?.id)).toBe('departs');
  });

  test('a field that is mended loses its finding, by the same intake in the page', async () => {
    await fill({ ...booking, departs: '2031-05-12' });
    expect(await page.locator('[data-field="/departs"] .finding').allTextContents()).toEqual(['Departure must be after Arrival.']);
    await page.fill('#departs', '2031-05-18');
    await page.locator('#departs').blur();
    expect(await page.locator('.finding').count()).toBe(0);
  });

  test('an accepted booking appears in the list, also by keyboard alone', async () => {
    await page.focus('#mark');
    for (const key of [
      'PW-2040',
      '11.2',
      '3.6',
      'A1',
      '',
      '05152031',
      '05172031',
      'Ida',
      '02291988',
      '',
      '',
      '4071',
      '4071',
      '',
      ' ',
      'Enter',
    ]) {
      if (key === 'Enter') await page.keyboard.press('Enter');
      else {
        await page.keyboard.type(key);
        // A day has three parts, each a stop of its own, and typing moves on by itself; the calendar button is one more.
        if (/^\d{8}$/.test(key)) await page.keyboard.press('Tab');
        await page.keyboard.press('Tab');
      }
    }
    await page.locator('tr.new').waitFor();
    expect(await page.locator('tr.new').textContent()).toContain('A1PW-204015 May 2031');
    expect(await page.locator('#notice h2').textContent()).toMatch(/^Booked: berth A1 from 15 May 2031\. Your booking number is \d+\.$/);
    expect(await page.inputValue('#mark')).toBe('');
  });

  test('nothing is wider than the screen, and every control has a label', async () => {
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    expect(
      await page
        .locator('input, select, textarea')
        .evaluateAll((controls) => controls.filter((control) => (control as HTMLInputElement).labels?.length === 0).length),
    ).toBe(0);
  });

  test('crew members are added and taken away, and keep their numbers in order', async () => {
    await page.click('#add-crew');
    await page.click('#add-crew');
    await page.fill('[name="crew.1.name"]', 'Second');
    await page.click('[aria-label="Remove crew member 1"]');
    expect(await page.inputValue('[name="crew.0.name"]')).toBe('Second');
    expect(await page.locator('#crew-list li').count()).toBe(2);
  });

  test.each([
    ['de', ['Länge über alles: Bitte 2 bis 40 angeben.', 'Liegeplatz: Bitte ausfüllen.', 'Geboren: Bitte ausfüllen.']],
    [
      'pl',
      [
        'Długość całkowita: proszę podać wartość od 2 do 40.',
        'Stanowisko: proszę wypełnić to pole.',
        'Data urodzenia: proszę wypełnić to pole.',
      ],
    ],
  ])('findings in %s, from the desk and from the page itself', async (language, messages) => {
    await page.selectOption('#language', language);
    await fill({ ...booking, lengthOverall: '41', berth: '', 'crew.0.born': '' });
    expect(await page.locator('.finding').allTextContents()).toContain(messages[0]);
    await submit();
    expect(await summary()).toEqual(messages.map((message, index) => (index === 2 ? `Crew member 1: ${message}` : message)));
    expect(await page.locator('.finding').first().getAttribute('lang')).toBe(language);
  });

  test('a desk that does not answer says so, and keeps what was typed', async () => {
    await fill(booking);
    await page.route('**/api/bookings', (route) => route.abort());
    await submit();
    expect(await page.locator('#notice h2').textContent()).toContain('The desk does not answer.');
    expect(await page.inputValue('#mark')).toBe('PW-2040');
  });
});
