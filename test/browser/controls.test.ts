import type { ServerResponse } from 'node:http';
import type { Browser, Page } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';
import { openSite } from './site.ts';

const control = (name: string, more = '') => `<label>${name} <input name="${name}" ${more}></label>`;
const HTML = `<!doctype html><html lang="en"><title>t</title>
<form name="stay" id="stay" method="post" action="/stored">
  <section tabindex="-1" id="summary" hidden><h2>To mend</h2></section>
  <fieldset>${['name', 'email', 'town'].map((name) => control(name)).join('')}
  ${control('guests', 'type="number"')}${control('from', 'type="date"')}<x-grades name="grade" aria-label="grade"></x-grades>${control('paper', 'type="file"')}</fieldset>
  <button>Send</button><button formnovalidate name="draft" value="yes">Draft</button>
</form>
<form id="other"><div data-field="/place"></div></form>
${control('place', 'form="stay"')}<script src="/page.js"></script>`;

interface OnPage {
  readonly sent: [string, string][][];
  readonly troubles: string[];
  readonly before: string;
  bind(options?: object): void;
  answer(status: number | undefined, findings?: unknown): void;
  show(findings: object[]): void;
  release(): void;
}

describeInBrowser('controls of a bound form, wherever they stand', () => {
  let browser: Browser;
  let page: Page;
  let site: Awaited<ReturnType<typeof openSite>>;
  /** Questions, and forms sent by the browser, that wait for an answer. */
  let asked: { readonly url: string; readonly body: string; readonly response: ServerResponse }[] = [];
  beforeAll(async () => {
    site = await openSite('controls-page.ts', HTML, (request, response) => {
      let body = '';
      request.on('data', (chunk) => {
        body += String(chunk);
      });
      request.on('end', () => asked.push({ url: request.url ?? '', body, response }));
    });
    browser = await launchBrowser();
  });
  afterAll(async () => {
    await browser?.close();
    site?.close();
  });
  beforeEach(async () => {
    asked = [];
    page = await browser.newPage();
    await page.goto(site.address);
  });
  afterEach(() => page.close());

  const bind = (options: object = {}) => page.evaluate((own) => (window as unknown as OnPage).bind(own), options);
  const box = (name: string) => page.locator(`[name="${name}"]`);
  const lines = () => page.locator('[data-finding]').allTextContents();
  const listed = () => page.locator('#stay [role=group] li').allTextContents();
  const told = () => page.locator('[role=status]').textContent();
  const press = (name: string) => page.getByRole('button', { name }).click();
  const answer = (status: number | undefined, findings: unknown = []) =>
    page.evaluate(([code, found]) => (window as unknown as OnPage).answer(code ?? undefined, found), [status ?? null, findings] as const);
  const sent = () => page.evaluate(() => (window as unknown as OnPage).sent.length);
  /** The next question that the page asks; those before it are of no interest to it any more. */
  const question = async () => {
    await expectSoon(() => asked.length > 0);
    await page.waitForTimeout(100);
    return (asked.splice(0).at(-1) as { response: ServerResponse }).response;
  };
  const judged = async (findings: object[]) => {
    const response = await question();
    response.writeHead(findings.length > 0 ? 422 : 200, { 'content-type': 'application/problem+json' }).end(JSON.stringify({ findings }));
  };
  const taken = { rule: 'unique', at: ['/email', '/town'], message: 'This is taken.' };

  test('what the browser cannot read is told, and never sent as if nothing had been typed', async () => {
    await bind();
    await box('name').fill('Ida');
    await box('guests').pressSequentially('7e');
    await box('from').pressSequentially('0512');
    expect([await box('guests').inputValue(), await box('from').inputValue()]).toEqual(['', '']);
    for (const button of ['Send', 'Draft']) {
      await press(button);
      expect(await lines()).toEqual([
        'Guests must be a whole number, such as 12.',
        'From must be a day that exists, written year-month-day, such as 2031-05-28.',
      ]);
    }
    expect(await sent()).toBe(0);
    await box('guests').fill('7');
    await box('from').fill('2031-05-12');
    await press('Draft');
    expect(await sent()).toBe(1);
  });

  test('a control beside its form is judged, told and withdrawn like all others, in no home of another form', async () => {
    await bind();
    await box('place').fill('A9');
    await box('place').blur();
    await judged([{ rule: 'known', at: ['/place'], message: 'There is no such place.' }]);
    await page.locator('[data-finding]').waitFor();
    expect([await lines(), await box('place').getAttribute('aria-invalid')]).toEqual([['There is no such place.'], 'true']);
    expect(await page.locator('#other [data-finding]').count()).toBe(0);
    await box('place').pressSequentially('0');
    expect([await lines(), await box('place').getAttribute('aria-invalid')]).toEqual([[], null]);
  });

  test('what comes late is told politely, and an answer about what was changed meanwhile is not shown', async () => {
    await bind();
    for (const [name, value] of Object.entries({ email: 'ida@x.example', town: 'Aas' })) await box(name).fill(value);
    await box('town').blur();
    await judged([taken]);
    await page.locator('[data-finding]').waitFor();
    expect([await lines(), await told()]).toEqual([['This is taken.'], 'This is taken.']);
    // A field that the rule reads and does not stand at.
    await box('town').fill('Bo');
    expect(await lines()).toEqual([]);
    await box('town').blur();
    const late = await question();
    await box('email').fill('');
    late.writeHead(422, { 'content-type': 'application/problem+json' }).end(JSON.stringify({ findings: [taken] }));
    await page.waitForTimeout(100);
    expect(await lines()).toEqual([]);
  });

  test('an answer to what was sent belongs to that, and who goes on typing is not disturbed', async () => {
    await bind();
    await page.evaluate(() => Object.defineProperty(document.querySelector('fieldset'), 'disabled', { value: false, writable: true }));
    for (const [name, value] of Object.entries({ name: 'Ida', email: 'ida@x.example', town: 'Aas' })) await box(name).fill(value);
    await press('Send');
    await box('town').fill('Bo');
    await answer(422, [taken, { rule: 'x', at: ['/name'], message: 'Not this name.' }]);
    await page.locator('[data-finding]').waitFor();
    expect([await lines(), await listed(), await told()]).toEqual([['Not this name.'], ['Not this name.'], 'Not this name.']);
    expect(await box('town').evaluate((element) => element === document.activeElement)).toBe(true);
  });

  test.each([
    ['about what was changed meanwhile', [taken]],
    ['that tells nothing', []],
    ['of another sort', ['E-mail is taken.', null]],
    ['that is no list', { email: 'taken' }],
  ])('a refusal %s is told as one', async (_what, findings) => {
    await bind();
    await page.evaluate(() => Object.defineProperty(document.querySelector('fieldset'), 'disabled', { value: false, writable: true }));
    for (const [name, value] of Object.entries({ name: 'Ida', email: 'ida@x.example', town: 'Aas' })) await box(name).fill(value);
    await press('Send');
    await box('town').fill('Bo');
    await answer(422, findings);
    await page.getByRole('alert').waitFor();
    expect([await page.getByRole('alert').textContent(), await lines()]).toEqual(['This was not accepted.', []]);
  });

  test('controls that are disabled while the form is on its way are judged as they were sent, and get the focus afterwards', async () => {
    await bind();
    await box('name').fill('Ida');
    await press('Send');
    expect(await lines()).toEqual([]);
    await press('Send');
    expect([await lines(), await sent()]).toEqual([[], 1]);
    await answer(422, [{ rule: 'x', at: ['/name'], message: 'Not this name.' }]);
    await page.locator('[data-finding]').waitFor();
    await page.waitForFunction(() => document.activeElement?.getAttribute('name') === 'name');
    expect(await listed()).toEqual(['Not this name.']);
  });

  test('whoever only passes through is not blamed, before the form was sent', async () => {
    await bind();
    await box('name').focus();
    for (let key = 0; key < 4; key++) await page.keyboard.press('Tab');
    expect(await lines()).toEqual([]);
    await box('name').fill('I');
    await box('name').fill('');
    await box('name').blur();
    expect([await lines(), await listed()]).toEqual([['Name is needed.'], []]);
    await press('Send');
    expect(await listed()).toEqual(['Name is needed.']);
    // From now on the summary lists what the fields say, whenever it is found.
    await box('guests').fill('1.5');
    await box('guests').blur();
    expect(await listed()).toEqual(['Name is needed.', 'Guests must be a whole number, such as 12.']);
  });

  test('an element of one’s own gets findings, and takes them back', async () => {
    await bind();
    await page.evaluate(() => {
      (document.querySelector('x-grades') as HTMLElement & { value: string }).value = '\u0000';
    });
    await box('grade').focus();
    await box('name').focus();
    expect([await lines(), await box('grade').getAttribute('aria-invalid')]).toEqual([
      ['Grade must be text, without unreadable characters.'],
      'true',
    ]);
    await page.evaluate(() => {
      (document.querySelector('x-grades') as HTMLElement & { value: string }).value = 'first';
    });
    expect([await lines(), await box('grade').getAttribute('aria-invalid')]).toEqual([[], null]);
  });

  test.each([
    ['en', 'The server cannot be reached. Nothing is lost; please send it again in a moment.'],
    ['de', 'Der Server ist nicht zu erreichen. Nichts ist verloren; bitte gleich noch einmal senden.'],
    ['pl', 'Nie można połączyć się z serwerem. Nic nie zginęło; proszę wysłać ponownie za chwilę.'],
  ])('without a network the page says so (%s), and keeps what was typed', async (lang, words) => {
    await page.evaluate((language) => {
      document.documentElement.lang = language;
    }, lang);
    await bind();
    await box('name').fill('Ida');
    await press('Send');
    await answer(undefined);
    await page.getByRole('alert').waitFor();
    expect([await page.getByRole('alert').textContent(), await box('name').inputValue()]).toEqual([words, 'Ida']);
    expect(await page.evaluate(() => (window as unknown as OnPage).troubles)).toEqual(['TypeError: no network']);
    await press('Send');
    expect([await page.getByRole('alert').count(), await sent()]).toEqual([0, 2]);
  });

  test('a server that takes its time is told of, and waited for', async () => {
    await page.clock.install();
    await bind();
    await box('name').fill('Ida');
    await press('Send');
    await page.clock.runFor(10_001);
    expect(await page.getByRole('alert').textContent()).toBe(
      'The server has not answered yet. Nothing is lost; please wait a little longer.',
    );
    await answer(200);
    await page.waitForFunction(() => document.querySelector('[aria-busy]') === null);
  });

  test('a form that the browser sends is sent once, until its answer comes or something else is to be sent', async () => {
    await bind({ sends: false });
    await box('name').fill('Ida');
    // In the page itself: nobody outside is answered while it is being left.
    await page.evaluate(() => {
      const [button, name] = ['#stay button', '[name=name]'].map((selector) => document.querySelector(selector) as HTMLInputElement);
      for (const time of [0, 100, 1500]) setTimeout(() => button?.click(), time);
      setTimeout(() => {
        if (name) name.value = document.querySelector('[role=alert]')?.textContent ?? 'Nothing was said.';
        button?.click();
        dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }));
        button?.click();
      }, 2000);
    });
    const posts = () => asked.filter(({ url }) => url === '/stored').map(({ body }) => body);
    await expectSoon(() => posts().length >= 2);
    await page.waitForTimeout(200);
    const told = 'This has been sent already. To send it again, change something first.';
    // A navigation that is stopped at once may never have reached the server.
    expect(posts().map((body) => new URLSearchParams(body).get('name'))).toEqual([
      'Ida',
      ...posts()
        .slice(1)
        .map(() => told),
    ]);
  });

  test('findings without a place are told in the summary, until something changes', async () => {
    await bind();
    await box('name').fill('Ida');
    await page.evaluate(() => (window as unknown as OnPage).show([{ rule: 'closed', at: [], message: 'The harbour is closed.' }]));
    expect([await listed(), await page.evaluate(() => document.activeElement?.getAttribute('role'))]).toEqual([
      ['The harbour is closed.'],
      'group',
    ]);
    await box('name').fill('Bo');
    expect(await listed()).toEqual([]);
  });

  test('rows that are added, moved and taken away keep what was found of them, without being told', async () => {
    await bind();
    await page.evaluate(() => {
      for (const row of [0, 1]) {
        const input = Object.assign(document.createElement('input'), { name: `crew.${row}.name`, value: row ? '' : 'Bo' });
        document.querySelector('fieldset')?.append(input);
      }
    });
    await press('Send');
    expect(await listed()).toEqual(['Name is needed.', 'Member 2: Name is needed.']);
    await page.evaluate(() => {
      document.querySelector('[name="crew.0.name"]')?.remove();
      document.querySelector('[name="crew.1.name"]')?.setAttribute('name', 'crew.0.name');
    });
    expect(await listed()).toEqual(['Name is needed.', 'Member 1: Name is needed.']);
    expect(await box('crew.0.name').getAttribute('aria-invalid')).toBe('true');
  });

  test('what the server has written into the page goes when it is mended, and not before', async () => {
    await page.evaluate(() => {
      const [name, email] = ['name', 'email'].map((each) => document.querySelector(`[name=${each}]`)?.closest('label') as HTMLElement);
      name?.insertAdjacentHTML('afterend', '<div data-field="/name"><p data-finding="error">Name is needed.</p></div>');
      email?.insertAdjacentHTML('afterend', '<div data-field="/email"><p data-finding="error" id="own">This is taken.</p></div>');
      for (const [attribute, value] of Object.entries({ value: 'ida@x.example', 'aria-invalid': 'true', 'aria-describedby': 'own' }))
        document.querySelector('[name=email]')?.setAttribute(attribute, value);
      const summary = document.querySelector('#summary') as HTMLElement;
      summary.insertAdjacentHTML('beforeend', '<ul data-findings><li>This is taken.</li></ul>');
      (window as unknown as OnPage).bind({ summary });
    });
    const summary = () => page.locator('#summary li').allTextContents();
    expect([await lines(), await summary()]).toEqual([
      ['Name is needed.', 'This is taken.'],
      ['Name is needed.', 'This is taken.'],
    ]);
    await box('name').fill('Ida');
    expect([await lines(), await summary()]).toEqual([['This is taken.'], ['This is taken.']]);
    // Read by the rule behind it, as the intake knows.
    await box('town').fill('Aas');
    expect([await lines(), await summary(), await box('email').getAttribute('aria-describedby')]).toEqual([[], [], null]);
  });

  test('what is let go is as it was', async () => {
    await page.evaluate(() => {
      (window as unknown as OnPage).bind({ summary: document.querySelector('#summary') });
    });
    await press('Send');
    expect(await page.locator('#summary li').allTextContents()).toEqual(['Name is needed.']);
    await page.evaluate(() => (window as unknown as OnPage).release());
    const [before, after] = await page.evaluate(() => [(window as unknown as OnPage).before, document.body.outerHTML]);
    expect(after).toBe(before);
  });
});

/** Waits for what another process does. */
async function expectSoon(isSo: () => boolean): Promise<void> {
  while (!isSo()) await new Promise((resolve) => setTimeout(resolve, 10));
}
