import type { Browser, Page } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';
import { openSite } from './site.ts';

const FORM = `
  <input name="name" aria-label="Name"><input name="id" aria-label="Id"><input name="elements" aria-label="Elements">
  <input name="submit" aria-label="Submit"><input name="email" aria-label="E-mail"><input name="pay.by" value="card"><input name="pay.pin" value="4711">
  <input name="crew.0.name" value="Bo" aria-label="First"><input name="crew.4.name" value="" aria-label="Fifth"><input name="crew.4.more" value="x">
  <button>Send</button><button name="action" value="draft" formnovalidate>Draft</button><button type="reset">Reset</button>`;
const HTML = `<!doctype html><html lang="en"><title>t</title><form id="x">${FORM}</form><form>${FORM}</form><input form="x" name="hidden" value="apart" aria-label="Apart"><script src="/page.js"></script>`;

describeInBrowser('a bound form in a browser', () => {
  let browser: Browser;
  let page: Page;
  let site: Awaited<ReturnType<typeof openSite>>;
  const asked: string[] = [];
  beforeAll(async () => {
    site = await openSite('page.ts', HTML, (request, response) => {
      request.on('data', (chunk) => asked.push(String(chunk))).on('end', () => response.writeHead(204).end());
    });
    browser = await launchBrowser();
    page = await browser.newPage();
  });
  afterAll(async () => {
    await browser?.close();
    site?.close();
  });
  const errors: string[] = [];
  beforeEach(async () => {
    page.removeAllListeners('pageerror').on('pageerror', (error) => errors.push(String(error)));
    await page.goto(site.address);
  });
  afterEach(() => expect(errors).toEqual([]));
  const first = () => page.locator('form').first();
  const summary = () => first().locator('[role=group]');
  const sent = () => page.evaluate(() => (window as unknown as { sent: [string, string][][] }).sent);
  const answer = (status: number, body: object = {}) =>
    page.evaluate((next) => void (window as unknown as { answers: object[] }).answers.push(next), { status, body });

  test('controls of any name; two forms share no id; a finding of a row says which, in the summary', async () => {
    for (const form of await page.locator('form').all()) await form.getByRole('button', { name: 'Send' }).click();
    expect(await summary().locator('li').allTextContents()).toEqual(['Name is needed.', 'Crew member 5: Name is needed.']);
    const ids = await page.locator('[id]').evaluateAll((all) => all.map(({ id }) => id));
    expect(new Set(ids).size).toBe(ids.length);
    expect(ids.length).toBeGreaterThan(4);
    expect(await sent()).toEqual([]);
    await first().getByLabel('Name', { exact: true }).fill('Ida');
    await first().getByLabel('Fifth').fill('Liv');
    await first().getByRole('button', { name: 'Send' }).click();
    expect((await sent())[0]).toContainEqual(['elements', '']);
    // A control outside of its form is sent once, and judged with it.
    expect((await sent())[0]?.filter(([name]) => name === 'hidden')).toEqual([['hidden', 'apart']]);
    expect(await first().getAttribute('novalidate')).toBe('');
  });

  test('a row that its sentence names is named once', async () => {
    await page.evaluate(() => {
      const tag = Object.assign(document.createElement('input'), { name: 'tags.1', value: ' ' });
      tag.setAttribute('aria-label', 'Tag');
      document.forms[0]?.append(tag);
    });
    await first().getByRole('button', { name: 'Send' }).click();
    expect(await summary().locator('li').allTextContents()).toContain('Tag number 2: Tag is needed.');
    expect(await first().locator('[data-finding]').last().textContent()).toBe('Tag number 2: Tag is needed.');
  });

  test('a draft is sent as it is, with its button; a reset takes findings away', async () => {
    await first().getByRole('button', { name: 'Draft' }).click();
    expect((await sent())[0]).toContainEqual(['action', 'draft']);
    await first().getByRole('button', { name: 'Send' }).click();
    expect(await first().locator('[data-finding]').count()).toBe(2);
    await first().getByRole('button', { name: 'Reset' }).click();
    await page.waitForFunction(() => document.querySelectorAll('[data-finding]').length === 0);
    expect(await summary().isHidden()).toBe(true);
  });

  test.each([
    [401, {}, 'en', 'Please sign in again, then send this once more.'],
    [413, {}, 'de', 'Das ist zu groß zum Senden; vielleicht geht eine kleinere Datei.'],
    [503, { title: 'This could not be checked just now.' }, 'en', 'This could not be checked just now.'],
    [500, {}, 'pl', 'Coś poszło nie tak. Nic nie zginęło; proszę wysłać ponownie za chwilę.'],
  ])('an answer %s is told, and what was typed stays', async (status, body, lang, told) => {
    await page.evaluate((language) => {
      document.documentElement.lang = language;
    }, lang);
    await answer(status, body);
    await first().getByLabel('Name', { exact: true }).fill('Ida');
    await first().getByLabel('Fifth').fill('Liv');
    await first().getByRole('button', { name: 'Send' }).click();
    const alert = first().getByRole('alert');
    await alert.waitFor();
    expect(await alert.textContent()).toBe(told);
    expect(await first().getByLabel('Name', { exact: true }).inputValue()).toBe('Ida');
  });

  test('a finding of the server without a control stands in the summary; secrets in shapes are not sent to be judged', async () => {
    await answer(422, { findings: [{ rule: 'x', at: ['/hidden'], message: 'The hidden part is wrong.' }] });
    await first().getByLabel('Name', { exact: true }).fill('Ida');
    await first().getByLabel('Fifth').fill('Liv');
    await first().getByRole('button', { name: 'Send' }).click();
    await summary().getByText('The hidden part is wrong.').waitFor();
    const before = asked.length;
    await first().getByLabel('E-mail').fill('ida@fjordmail.example');
    await first().getByLabel('E-mail').blur();
    for (let wait = 0; wait < 50 && asked.length === before; wait++) await page.waitForTimeout(50);
    expect(asked.at(-1)).toContain('email=ida');
    expect(asked.at(-1)).not.toContain('4711');
    expect(await summary().textContent()).toContain('The hidden part is wrong.');
  });

  test('a form is sent once, also after its answer, while the page is being left', async () => {
    await first().getByLabel('Name', { exact: true }).fill('Ida');
    await first().getByLabel('Fifth').fill('Liv');
    // In the page itself, where nothing of a busy machine comes between.
    const busy = await page.evaluate(async () => {
      const form = document.forms[0] as HTMLFormElement;
      const send = [...form.querySelectorAll('button')].find(({ textContent }) => textContent === 'Send');
      send?.click();
      send?.click();
      // By now there is an answer.
      await new Promise((resolve) => setTimeout(resolve));
      send?.click();
      return form.getAttribute('aria-busy');
    });
    expect([(await sent()).length, busy]).toEqual([1, null]);
  });

  test('the summary goes on listing what holds, and nothing else', async () => {
    await first().getByRole('button', { name: 'Send' }).click();
    const listed = () => summary().locator('li').allTextContents();
    expect(await listed()).toEqual(['Name is needed.', 'Crew member 5: Name is needed.']);
    await first().getByLabel('Name', { exact: true }).fill('Ida');
    await first().getByLabel('Id', { exact: true }).focus();
    expect(await listed()).toEqual(['Crew member 5: Name is needed.']);
    await first().getByLabel('Fifth').fill('Liv');
    await first().getByLabel('Id', { exact: true }).focus();
    expect([await listed(), await summary().isHidden()]).toEqual([[], true]);
  });

  test('a row taken away takes its findings along, and those of others go with them, in the summary too', async () => {
    const found = (name: string) => ({ rule: 'x', at: [`/crew/${name}`], message: `${name} is wrong.` });
    await answer(422, { findings: ['0/name', '4/name'].map(found) });
    await first().getByLabel('Name', { exact: true }).fill('Ida');
    await first().getByLabel('Fifth').fill('Liv');
    await first().getByRole('button', { name: 'Send' }).click();
    await summary().getByText('Crew member 5: 4/name is wrong.').waitFor();
    await page.evaluate(() => {
      const form = document.forms[0] as HTMLFormElement;
      form.querySelector('[name="crew.0.name"]')?.remove();
      for (const control of form.querySelectorAll<HTMLInputElement>('[name^="crew.4."]')) control.name = control.name.replace('4', '0');
      (window as unknown as { bound: { refresh(): void }[] }).bound[0]?.refresh();
    });
    expect(await summary().locator('li').allTextContents()).toEqual(['Crew member 1: 4/name is wrong.']);
    expect(await first().locator('[data-finding]').allTextContents()).toEqual(['4/name is wrong.']);
    expect(await first().locator('[name="crew.0.name"]').getAttribute('aria-invalid')).toBe('true');
    await first().locator('[name="crew.0.name"]').fill('Liv Aas');
    await first().getByLabel('Id', { exact: true }).focus();
    expect(await first().locator('[data-finding]').count()).toBe(0);
  });

  test('where a content security policy refuses code, judging goes on without', async () => {
    expect(await page.evaluate(() => (window as unknown as { judged: string[] }).judged)).toEqual(['accepted', 'EvalError']);
  });

  test('whatever is done, in whatever order answers come, nothing is shown that does not hold', async () => {
    const runs = Number(process.env.JESTRIL_CROSSED ?? 12);
    for (let seed = 1; seed <= runs; seed++) {
      const faults = await page.evaluate(
        ([number, steps]) => (window as unknown as { fillIn(seed: number, steps: number): Promise<string[]> }).fillIn(number, steps),
        [seed, 60] as const,
      );
      expect(faults).toEqual([]);
    }
  });

  test('what is released leaves nothing behind', async () => {
    await first().getByRole('button', { name: 'Send' }).click();
    await page.evaluate(() => {
      for (const each of (window as unknown as { bound: { release(): void }[] }).bound) each.release();
    });
    expect(await page.locator('form [role=group]').count()).toBe(0);
  });
});
