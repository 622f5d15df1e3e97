import { type ChildProcess, spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';

const PORT = '4391';
const HOME = `http://localhost:${PORT}`;
const booking = JSON.parse(readFileSync('examples/marina/data/form.json', 'utf8')) as Record<string, string>;
const AXE = readFileSync('node_modules/axe-core/axe.min.js', 'utf8');
const PAGES = ['/', '/sign-in', '/sign-up', '/vessels/new', '/bookings/new', '/bookings/501', '/power', '/nowhere'];

describeInBrowser('the booking desk in a browser (needs Chromium)', () => {
  let desk: ChildProcess;
  let browser: Browser;
  let context: BrowserContext;
  let page: Page;
  /** What the browser complains of; an answer that refuses is one that the page expects. */
  const complaints: string[] = [];
  /** A day of its own for every booking of these tests. */
  let nights = 0;
  const free = () => {
    nights += 2;
    const day = (offset: number) => new Date(Date.UTC(2032, 4, 1 + nights + offset)).toISOString().slice(0, 10);
    return { ...booking, mark: 'PW-0412', lengthOverall: '7', beam: '2.5', berth: 'C4', arrives: day(0), departs: day(1) };
  };

  async function open(where: string, options: Parameters<Browser['newContext']>[0] = {}): Promise<Page> {
    context = await browser.newContext({ viewport: { width: 390, height: 844 }, ...options });
    const opened = await context.newPage();
    opened.on('console', (said) => said.type() === 'error' && complaints.push(said.text()));
    opened.on('pageerror', (error) => complaints.push(error.message));
    await opened.goto(`${HOME}/sign-in`);
    await opened.click('text=Ida Sund');
    await opened.goto(HOME + where);
    return opened;
  }
  beforeAll(async () => {
    desk = spawn('node', ['examples/booking-desk/dist/server/main.js'], { env: { ...process.env, PORT, DESK_FILE: ':memory:' } });
    await new Promise((resolve) => desk.stdout?.once('data', resolve));
    browser = await launchBrowser();
  });
  afterAll(async () => {
    await browser?.close();
    desk?.kill();
  });
  afterEach(async () => {
    await context?.close();
    expect(complaints.splice(0).filter((text) => !/status of 4\d\d|ERR_CONNECTION_REFUSED|ERR_FAILED/.test(text))).toEqual([]);
  });

  async function fill(on: Page, values: Record<string, string>): Promise<void> {
    for (const [name, value] of Object.entries(values)) {
      const control = on.locator(`[name="${name}"]`);
      if (await control.evaluate((element) => element.tagName === 'SELECT')) await control.selectOption(value);
      else await control.fill(value);
    }
    if (await on.locator('#terms').count()) await on.check('#terms');
  }
  const summary = (on = page) => on.locator('[data-summary] li').allTextContents();
  const beside = (pointer: string) => page.locator(`[data-field="${pointer}"] [data-finding]`).allTextContents();
  const focused = () => page.evaluate(() => document.activeElement?.id);

  test('a field is judged when it is left, and those that depend on it when it changes', async () => {
    page = await open('/bookings/new');
    await page.fill('#departs', '2031-05-12');
    await page.fill('#mark', 'pw');
    expect(await beside('/departs')).toEqual([]);
    await page.fill('#arrives', '2031-05-14');
    await page.locator('#arrives').blur();
    expect([await beside('/mark'), await beside('/departs')]).toEqual([
      ['Registration mark must be two capital letters, a dash and four digits.'],
      ['Departure must be after Arrival.'],
    ]);
    const departs = page.locator('#departs');
    expect(await departs.getAttribute('aria-invalid')).toBe('true');
    const id = (await departs.getAttribute('aria-describedby')) ?? '';
    expect(await page.locator(`#${id}`).textContent()).toBe('Departure must be after Arrival.');
    await page.fill('#arrives', '2031-05-11');
    await page.locator('#arrives').blur();
    expect([await beside('/departs'), await departs.getAttribute('aria-invalid'), await departs.getAttribute('aria-describedby')]).toEqual([
      [],
      null,
      null,
    ]);
    expect(
      await page.locator('#arrives').evaluate((element: HTMLInputElement) => [element.type, element.required, element.min.length]),
    ).toEqual(['date', true, 10]);
  });

  test('the server is asked for rules that need records only, and without secrets', async () => {
    page = await open('/bookings/new');
    const asked: string[] = [];
    page.on('request', (request) => request.url().endsWith('/check') && asked.push(request.postData() ?? ''));
    await fill(page, { ...booking, lengthOverall: '11.2' });
    await page.locator('#terms').blur();
    await page.waitForTimeout(600);
    expect(await page.locator('[data-finding]').count()).toBe(0);
    // Asked when a field has settled, and not for every one of the fourteen.
    expect(asked.length).toBeLessThan(8);
    await page.fill('#lengthOverall', '12.5');
    await page.locator('#lengthOverall').blur();
    await page.locator('[data-field="/lengthOverall"] [data-finding]').waitFor();
    expect(await beside('/lengthOverall')).toEqual(['A vessel of 12.5 m does not fit berth A1, which takes up to 12 m.']);
    expect(asked.at(-1)).not.toContain('4071');
    // A newer question takes the place of one that is still under way.
    await page.route('**/bookings/check', async (route) => {
      await new Promise((done) => setTimeout(done, 1500));
      await route.continue().catch(() => undefined);
    });
    const aborted = page.waitForEvent('requestfailed', (request) => request.url().endsWith('/check'));
    const begun = page.waitForRequest('**/bookings/check');
    await page.selectOption('#berth', 'B1');
    await begun;
    await page.fill('#lengthOverall', '17');
    await page.locator('#lengthOverall').blur();
    expect((await aborted).failure()?.errorText).toContain('ABORTED');
    await page.waitForTimeout(400);
    const before = asked.length;
    await page.fill('#notes', 'nothing to ask about');
    await page.locator('#notes').blur();
    await page.waitForTimeout(500);
    expect(asked.length).toBe(before);
  });

  test('findings of the server stand in the same places, in a summary that links to them; nothing typed is lost', async () => {
    page = await open('/bookings/new');
    await fill(page, { ...free(), lengthOverall: '14.5', beam: '3' });
    await page.click('main button[type=submit]');
    await page.locator('[data-summary] li').first().waitFor();
    expect(await summary()).toEqual(['A vessel of 14.5 m does not fit berth C4, which takes up to 8 m.']);
    expect([await focused(), await page.inputValue('#gateCode'), await page.inputValue('#mark')]).toEqual([
      'lengthOverall',
      '4071',
      'PW-0412',
    ]);
    expect(await page.locator('#berth').getAttribute('aria-invalid')).toBe('true');
    await page.focus('#mark');
    await page.locator('[data-summary] a').press('Enter');
    expect(await focused()).toBe('lengthOverall');
    const panel = (await page.locator('#panel').textContent()) ?? '';
    for (const told of [
      'POST /bookings',
      '422 rejected',
      'marina/fits-berth@lengthOverall does not hold',
      'berths maxLength (code is): [["C4"]]',
    ])
      expect(panel.replaceAll(/\s+/g, ' ')).toContain(told);
    expect(panel).not.toContain('4071');
    await page.fill('#lengthOverall', '7');
    await page.click('main button[type=submit]');
    await page.waitForURL('**/?done=booked*');
    expect(await page.locator('[data-done]').textContent()).toMatch(/Booked\. Your booking number is \d+\./);
  });

  test('a booking is made by keyboard alone', async () => {
    page = await open('/bookings/new');
    const { arrives, departs } = free();
    const typed = (day: string) => `${day.slice(5, 7)}${day.slice(8)}${day.slice(0, 4)}`;
    await page.focus('#mark');
    for (const key of [
      'PW-0412',
      '7',
      '2.5',
      'C4',
      '',
      typed(arrives),
      typed(departs),
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
    await page.waitForURL('**/?done=booked*');
  });

  test('with scripts off: the page again with findings and what was typed, then the booking, then a change to it', async () => {
    page = await open('/bookings/new', { javaScriptEnabled: false });
    await fill(page, { ...free(), lengthOverall: '14.5', beam: '3' });
    await page.click('text=Add a crew member');
    expect([await page.locator('#crew-list li').count(), await page.inputValue('#lengthOverall')]).toEqual([3, '14.5']);
    await fill(page, { 'crew.2.name': 'Bo Lind', 'crew.2.born': '1990-01-01', gateCode: '4071', gateCodeAgain: '4071' });
    await page.press('#lengthOverall', 'Enter');
    expect(await summary()).toEqual(['A vessel of 14.5 m does not fit berth C4, which takes up to 8 m.']);
    expect([await page.inputValue('#lengthOverall'), await page.inputValue('#gateCode'), await page.isChecked('#terms')]).toEqual([
      '14.5',
      '',
      true,
    ]);
    expect(await page.locator('#lengthOverall').getAttribute('aria-describedby')).toBe('lengthOverall-hint finding-lengthOverall-0');
    expect(await page.locator('#panel').textContent()).toContain('422 rejected');
    await fill(page, { lengthOverall: '7', gateCode: '4071', gateCodeAgain: '4071' });
    await page.click('main button[type=submit]');
    const id = new URL(page.url()).searchParams.get('id');
    expect(page.url()).toContain('done=booked');
    await page.click(`#booking-${id} a`);
    await page.fill('#notes', 'Coming late');
    await page.click('main button[type=submit]');
    expect(page.url()).toContain(`done=changed&id=${id}`);
  });

  test('a change with a script: the stored booking does not stand in its own way, an empty secret keeps it', async () => {
    page = await open('/bookings/501');
    expect([await page.inputValue('#berth'), await page.inputValue('#gateCode'), await page.inputValue('[name="crew.0.name"]')]).toEqual([
      'A1',
      '',
      'Ida Sund',
    ]);
    await page.fill('#gateCode', '12');
    await page.locator('#gateCode').blur();
    expect(await beside('/gateCode')).toEqual(['Gate code must be four digits.']);
    await page.fill('#gateCode', '');
    await page.fill('#notes', 'A window to the sea');
    await page.click('main button[type=submit]');
    await page.waitForURL('**/?done=changed*');
  });

  test('two tabs want one berth: one has it, the other is told', async () => {
    page = await open('/bookings/new');
    const other = await context.newPage();
    await other.goto(`${HOME}/bookings/new`);
    const wanted = free();
    await fill(page, wanted);
    await fill(other, wanted);
    await Promise.all([page, other].map((tab) => tab.click('main button[type=submit]')));
    await Promise.all([page, other].map((tab) => tab.waitForSelector('[data-done], [data-summary] li')));
    const ends = await Promise.all(
      [page, other].map(async (tab) => (tab.url().includes('done=booked') ? 'booked' : (await summary(tab))[0])),
    );
    expect(ends.sort()).toEqual(['Berth C4 is taken on some of these days.', 'booked']);
  });

  test('a vessel with its certificate: a wrong file is told at once and by the script, a right one is kept', async () => {
    page = await open('/vessels/new');
    const fields = {
      mark: 'PW-8001',
      name: 'Tern',
      lengthOverall: '6',
      beam: '2',
      insuredUntil: '2041-04-20',
      'skipper.email': 'liv@fjordmail.example',
    };
    await fill(page, fields);
    await page.setInputFiles('#certificate', { name: 'a.txt', mimeType: 'text/plain', buffer: Buffer.from('x') });
    await page.locator('#certificate').blur();
    expect(await beside('/certificate')).toEqual([
      'Insurance certificate must be a file of type application/pdf, image/png, or image/jpeg.',
    ]);
    await page.setInputFiles('#certificate', { name: 'a.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF') });
    await page.click('main button[type=submit]');
    await page.waitForURL('**/?done=registered*');
  });

  test('in German: words, findings of the page and of the server', async () => {
    page = await open('/language/de?to=/sign-up');
    expect(await page.locator('h1').textContent()).toBe('Konto eröffnen');
    await page.fill('[name="contact.email"]', 'IDA@fjordmail.example');
    await page.fill('#born', '2020-01-01');
    await page.locator('#born').blur();
    await page.locator('[data-field="/contact/email"] [data-finding]').waitFor();
    expect([await beside('/contact/email'), await beside('/born')]).toEqual([
      ['E-Mail: Ist schon vergeben.'],
      ['Ein Konto gibt es ab 18 Jahren.'],
    ]);
    expect(await page.locator('[data-finding]').first().getAttribute('lang')).toBe('de');
  });

  test('a desk that does not answer says so, and keeps what was typed', async () => {
    page = await open('/bookings/new');
    await fill(page, free());
    await page.route('**/bookings', (route) => route.abort());
    await page.click('main button[type=submit]');
    await page.locator('[data-summary]:not([hidden])').waitFor();
    expect(await page.getByRole('alert').textContent()).toBe(
      'The server cannot be reached. Nothing is lost; please send it again in a moment.',
    );
    expect(await page.inputValue('#mark')).toBe('PW-0412');
  });

  test('signed out while the form is open: who signs in there goes on with what was typed', async () => {
    page = await open('/bookings/new');
    await fill(page, free());
    await context.clearCookies({ name: 'desk' });
    await page.click('main button[type=submit]');
    await page.locator('[data-summary]').getByText('Please sign in').waitFor();
    await page.locator('[data-summary]').getByRole('button', { name: 'Ida Sund' }).click();
    await page.waitForURL('**/?done=booked*');
  });

  test('crew members are added and taken away, and keep their numbers in order; the panel stays folded away', async () => {
    page = await open('/bookings/new');
    await page.click('#add-crew');
    await page.click('#add-crew');
    await page.fill('[name="crew.1.name"]', 'Second');
    await page.click('[aria-label="Remove crew member 1"]');
    expect(await page.inputValue('[name="crew.0.name"]')).toBe('Second');
    expect(await page.locator('#crew-list li').count()).toBe(2);
    await page.click('#panel summary');
    await page.waitForFunction(() => sessionStorage.getItem('panel') === 'folded');
    await page.reload();
    expect(await page.locator('#panel details').getAttribute('open')).toBeNull();
  });

  test.each([1280, 390])('no page is wider than %d pixels, and axe finds nothing wrong, with findings and without', async (width) => {
    page = await open('/', { viewport: { width, height: 800 } });
    const check = async () => {
      await page.evaluate(AXE);
      const violations = await page.evaluate(async () => {
        // biome-ignore lint/suspicious/noExplicitAny: a script of another package in the page
        const { violations: found } = await (globalThis as any).axe.run();
        return found.map(({ id, nodes }: { id: string; nodes: { html: string }[] }) => `${id}: ${nodes.map(({ html }) => html).join(' ')}`);
      });
      expect([page.url(), violations]).toEqual([page.url(), []]);
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
    };
    for (const where of PAGES) {
      await page.goto(HOME + where);
      await check();
      const submit = page.locator('main form[data-intake] button[type=submit]');
      if ((await submit.count()) === 0 || where.startsWith('/bookings/5')) continue;
      await submit.click();
      await page.locator('[data-finding]').first().waitFor();
      await check();
    }
  });
});
