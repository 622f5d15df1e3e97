import { spawnSync } from 'node:child_process';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';
import { commandIn } from '../support/command.ts';
import { GOOD as good, MODULE, SETTINGS, type Served, served } from '../support/workbench.ts';

const AXE = readFileSync('node_modules/axe-core/axe.min.js', 'utf8');
const { file } = commandIn();
const GIVEN = ['--given', '{ "caller": { "staff": false } }', '--records', 'module', '--now', '2031-05-01T10:00:00Z'];
const TABS = ['Why', 'Answer', 'Graph', 'What if', 'Cases', 'Import', 'Pattern'];

describeInBrowser('the workbench in a browser (needs Chromium)', () => {
  const module = file('quay.ts', MODULE);
  let bench: Served;
  let browser: Browser;
  beforeAll(async () => {
    [bench, browser] = await Promise.all([served(module, GIVEN), launchBrowser()]);
  });
  afterAll(async () => {
    await browser?.close();
    await bench?.close();
  });

  // The next test begins with the module as it was, loaded.
  afterEach(async () => {
    if (readFileSync(module, 'utf8') === MODULE) return;
    const state = async () => (await bench.send('GET', 'api/module')).json();
    const { loads } = await state();
    writeFileSync(module, MODULE);
    for (let now = await state(); now.loads === loads || now.isLoading; now = await state())
      await new Promise((resolve) => setTimeout(resolve, 50));
  });

  const open = async (address = bench.opening, options: Parameters<Browser['newPage']>[0] = {}) => {
    const url = `${new URL(address).origin}/`;
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, ...options });
    const errors: string[] = [];
    const elsewhere: string[] = [];
    page.on('pageerror', ({ message }) => errors.push(message));
    page.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
    page.on('request', (request) => request.url().startsWith(url) || request.url().startsWith('data:') || elsewhere.push(request.url()));
    await page.goto(address);
    return { page, errors, elsewhere };
  };
  const verdict = (page: Page, word: string) => page.locator('.verdict[aria-busy="false"] .word', { hasText: word }).waitFor();
  const type = async (page: Page, submission: object | string) => {
    await page.getByLabel('Submission as JSON').click();
    await page.keyboard.press('Control+A');
    await page.keyboard.insertText(typeof submission === 'string' ? submission : JSON.stringify(submission, null, 2));
  };

  test('a verdict at every keystroke, each finding linked to its place and to its rule, by keyboard alone', async () => {
    const { page, errors, elsewhere } = await open();
    await type(page, good);
    await verdict(page, 'Accepted');
    await type(page, { ...good, length: 13, departs: '2031-05-01' });
    await verdict(page, 'Rejected');
    const findings = page.locator('.findings li');
    expect(await findings.allTextContents()).toHaveLength(2);
    // From the finding to its place in the text …
    await page.getByRole('button', { name: 'Go to /departs' }).focus();
    await page.keyboard.press('Enter');
    await page.keyboard.press('End');
    for (let count = 0; count < '"2031-05-01",'.length; count++) await page.keyboard.press('Backspace');
    await page.keyboard.insertText('"2031-05-09",');
    await page.locator('.findings li', { hasText: 'Departure' }).waitFor({ state: 'detached' });
    // … and to its rule, with what it read and asked.
    await page.getByRole('button', { name: 'Why: quay/fits@length' }).focus();
    await page.keyboard.press('Enter');
    const reason = page.locator('.reason.failed', { hasText: 'quay/fits@length' });
    expect(await reason.innerText()).toMatch(
      /berth\s+"A1"[\s\S]*length\s+13[\s\S]*round 1 berths where code = "A1"[\s\S]*found {"maxLength":12,"open":true}/,
    );
    expect(await page.evaluate(() => document.activeElement?.textContent)).toContain('quay/fits@length');
    // The marks are walked by arrows, and tabs too.
    await page.locator('.line button[tabindex="0"]').focus();
    await page.keyboard.press('End');
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).toContain('berth-there: held');
    await page.getByRole('tab', { name: 'Why' }).focus();
    await page.keyboard.press('ArrowRight');
    await page.locator('.answer strong', { hasText: '422' }).waitFor();
    expect(await page.locator('.curl').innerText()).toContain(`curl -i -X POST '${bench.url}door/`);
    expect([errors, elsewhere]).toEqual([[], []]);
    await page.close();
  });

  test('what the last keystroke judged again is lit', async () => {
    const { page } = await open();
    await type(page, good);
    await verdict(page, 'Accepted');
    await page.getByRole('radio', { name: 'Form' }).check({ force: true });
    await page.getByLabel('Length', { exact: true }).fill('12');
    await page.locator('.line .mark.lit').first().waitFor();
    await page.waitForFunction(() => document.querySelectorAll('.line .mark.lit').length === 3);
    await page.getByRole('tab', { name: 'Graph' }).click();
    expect(await page.locator('.graph .node.lit text').allTextContents()).toEqual(['length', 'quay/fits@length', 'berths']);
    await page.close();
  });

  test('a form edits the same submission, and shows findings beside its fields', async () => {
    const { page } = await open();
    await type(page, good);
    await page.getByRole('radio', { name: 'Form' }).check({ force: true });
    await page.getByLabel('Mark', { exact: true }).fill('pw-1');
    await verdict(page, 'Rejected');
    const mark = page.getByLabel('Mark', { exact: true });
    expect(await mark.getAttribute('aria-invalid')).toBe('true');
    expect(await page.locator('.field', { has: mark }).innerText()).toContain('Mark must be two capital letters');
    await mark.fill('PW-2040');
    await page.getByRole('button', { name: 'Add Crew member' }).click();
    await verdict(page, 'Rejected');
    await page.getByRole('button', { name: 'Take away Crew member 2' }).click();
    await verdict(page, 'Accepted');
    await page.getByRole('radio', { name: 'JSON' }).check({ force: true });
    expect(JSON.parse((await page.locator('.sheet .cm-line').allTextContents()).join('\n'))).toEqual(good);
    await page.close();
  });

  test('another moment, occasion or version beside it, and where along a value the verdict turns', async () => {
    file('stricter.ts', MODULE.replace('between(2, 40)', 'between(2, 10)'));
    const { page } = await open();
    await type(page, good);
    await verdict(page, 'Accepted');
    await page.getByRole('tab', { name: 'What if' }).click();
    await page.getByLabel('by another version').fill(module.replace('quay.ts', 'stricter.ts'));
    await page.locator('.pair', { hasText: 'accepted as it is, rejected there; 2 rules come out otherwise.' }).waitFor();
    expect(await page.locator('.what-if tbody tr').first().innerText()).toMatch(
      /between@length\s+held\s+failed\s+Length must be from 2 to 10\./,
    );
    await page.locator('.strip li', { hasText: /2 … 12 accepted/ }).waitFor();
    // The slider stops on both sides of a bound.
    const slider = page.getByLabel('Value of /length');
    await slider.focus();
    for (let steps = 0; steps < 60 && !(await page.locator('.strip li.here', { hasText: '12.01' }).count()); steps++)
      await page.keyboard.press('ArrowRight');
    await verdict(page, 'Rejected');
    expect(await page.locator('.sheet .cm-content').innerText()).toContain('"length": 12.');
    await page.close();
  });

  test('cases are kept, change, and become proofs with one click', async () => {
    const { page } = await open();
    await type(page, good);
    await verdict(page, 'Accepted');
    await page.getByRole('tab', { name: 'Cases' }).click();
    await page.getByLabel('Keep this submission as').fill('as it should be');
    await page.getByRole('button', { name: 'Keep', exact: true }).click();
    await page.locator('.tally', { hasText: 'all 1 come out as kept' }).waitFor();
    await page.getByRole('button', { name: 'Make it a proof' }).click();
    await page.getByRole('button', { name: 'A proof', pressed: true }).waitFor();
    expect(readFileSync(module.replace('.ts', '.cases.proof.ts'), 'utf8')).toContain('// as it should be');
    // The rules change, and the page says so by itself.
    writeFileSync(module, MODULE.replace('between(2, 40)', 'between(2, 11)'));
    await page.locator('.tally', { hasText: '1 of 1 came out otherwise than when kept' }).waitFor();
    expect(await page.locator('.cases .otherwise').innerText()).toContain('new between@length /length');
    writeFileSync(module, 'export const booking = (;');
    await page.locator('p.banner', { hasText: 'does not load' }).waitFor();
    expect(await page.locator('.sheet .cm-content').innerText()).toContain('PW-2040');
    writeFileSync(module, MODULE);
    await page.locator('.tally', { hasText: 'all 1 come out as kept' }).waitFor();
    await page.close();
  });

  test('eight tabs are all alive, and none loses what another or a hand has written', async () => {
    const [cases, context] = [module.replace('.ts', '.cases.json'), await browser.newContext({ viewport: { width: 1280, height: 800 } })];
    const tabs = await Promise.all(Array.from({ length: 8 }, () => context.newPage()));
    // One address opens all of them.
    await (tabs[0] as Page).goto(bench.opening);
    for (const tab of tabs.slice(1)) await tab.goto(bench.url);
    rmSync(cases, { force: true });
    for (const [at, tab] of tabs.entries()) {
      await tab.bringToFront();
      await type(tab, { ...good, length: 10 + at / 10 });
      await verdict(tab, 'Accepted');
      await tab.getByRole('tab', { name: 'Cases' }).click();
    }
    const keep = async (tab: Page | undefined, name: string) => {
      await tab?.bringToFront();
      await tab?.getByLabel('Keep this submission as').fill(name);
      // It can be pressed once what is on the page is judged.
      await tab?.getByRole('button', { name: /^Keep/ }).click();
    };
    // All at once, the same name among them, and a hand in between.
    await keep(tabs[0], 'shared');
    await (tabs[7] as Page).locator('.cases .open', { hasText: 'shared' }).waitFor();
    await (tabs[7] as Page).route('**/api/module', (route) => route.abort());
    const before = JSON.parse(readFileSync(cases, 'utf8'));
    writeFileSync(
      cases,
      JSON.stringify({ ...before, about: 'by hand', cases: before.cases.map((each: object) => ({ ...each, note: 'by hand' })) }),
    );
    await Promise.all(tabs.slice(1, 7).map((tab, at) => keep(tab, `tab ${at + 1}`)));
    await keep(tabs[7], 'shared');
    const conflict = (tabs[7] as Page).locator('.conflict', { hasText: '“shared” was changed meanwhile' });
    await conflict.waitFor();
    await (tabs[1] as Page).locator('.tally', { hasText: /7 come out as kept/ }).waitFor();
    const kept = () => JSON.parse(readFileSync(cases, 'utf8'));
    expect(kept().about).toBe('by hand');
    expect(
      kept()
        .cases.map(({ name, note }: { name: string; note?: string }) => [name, note])
        .sort(),
    ).toEqual([['shared', 'by hand'], ...Array.from({ length: 6 }, (_, at) => [`tab ${at + 1}`, undefined])]);
    await conflict.getByRole('button', { name: 'Keep mine all the same' }).click();
    await conflict.waitFor({ state: 'detached' });
    const [mine] = kept().cases.filter(({ name }: { name: string }) => name === 'shared');
    expect([mine.submission.length, mine.note]).toEqual([10.7, 'by hand']);
    // Saved rules reach every tab.
    await (tabs[7] as Page).unroute('**/api/module');
    writeFileSync(module, MODULE.replace('between(2, 40)', 'between(2, 10)'));
    for (const tab of tabs.slice(1)) await verdict(tab, 'Rejected');
    rmSync(cases);
    await context.close();
  });

  test('a request is pasted, and a row of an import is opened by its number', async () => {
    const { page, errors } = await open();
    await verdict(page, '');
    await page.getByText('Paste a request').click();
    await page.getByLabel('A command of curl').fill(`curl https://marina.example -d mark=PW-2040 -d length=11`);
    await page.getByRole('button', { name: 'Take its submission' }).click();
    await page.getByText('This is what POST https://marina.example sends, as a form; its headers are left out.').waitFor();
    expect(JSON.parse((await page.locator('.sheet .cm-line').allTextContents()).join('\n'))).toEqual({ mark: 'PW-2040', length: '11' });
    const rows = Array.from({ length: 30 }, (_, at) => ({ ...good, mark: `PW-${1000 + at}`, length: at === 16 ? 50 : 11 }));
    const data = file('rows.ndjson', rows.map((each) => `${JSON.stringify(each)}\n`).join(''));
    const flags = [...GIVEN.slice(0, 2), '--now', '2031-05-01T10:00:00Z', '--format', 'json'];
    const told = spawnSync('node', ['bin/jestril.js', 'check', module, data, ...flags], { encoding: 'utf8' });
    await page.getByRole('tab', { name: 'Import' }).click();
    await page.getByLabel('The folder of a screening').fill(file('told.ndjson', told.stdout));
    await page.keyboard.press('Enter');
    await page.getByLabel('Row, 1 to 30').fill('17');
    await page.keyboard.press('Enter');
    await page.locator('.opened', { hasText: 'Length must be from 2 to 40.' }).waitFor();
    await verdict(page, 'Rejected');
    await page.getByRole('button', { name: 'Judge its like again: between@length' }).click();
    await page.locator('.again', { hasText: '1 found by it again' }).waitFor();
    expect(errors).toEqual([]);
    await page.close();
  });

  test('the graph fits its frame, is enlarged and moved by keys and pointer, and shows rules about one value', async () => {
    const { page } = await open();
    await type(page, good);
    await verdict(page, 'Accepted');
    await page.getByRole('tab', { name: 'Graph' }).click();
    const frame = page.getByRole('region', { name: 'Fields, conditions, rules and collections' });
    const [outer, inner] = await Promise.all([frame.boundingBox(), frame.locator('svg').boundingBox()]);
    expect(inner?.width ?? Number.NaN).toBeLessThanOrEqual(outer?.width ?? 0);
    const place = () => frame.locator('.node').first().boundingBox();
    const before = await place();
    await frame.focus();
    for (const key of ['+', '+', 'ArrowRight']) await page.keyboard.press(key);
    const larger = await place();
    expect(larger?.width).toBeGreaterThan((before?.width ?? 0) * 1.5);
    await page.mouse.move((outer?.x ?? 0) + 200, (outer?.y ?? 0) + 100);
    await page.mouse.down();
    await page.mouse.move((outer?.x ?? 0) + 260, (outer?.y ?? 0) + 130, { steps: 4 });
    await page.mouse.up();
    expect((await place())?.x).toBeGreaterThan(larger?.x ?? 0);
    await page.keyboard.press('0');
    expect((await place())?.x).toBeCloseTo(before?.x ?? 0, 0);
    const count = await frame.locator('.node').count();
    await page.getByLabel('rules about one value too').check();
    expect(await frame.locator('.node').count()).toBeGreaterThan(count);
    await page.close();
  });

  test('a text that is no JSON keeps the verdict of before, says where, and loses nothing', async () => {
    const { page } = await open();
    await type(page, '{ "mark": "PW-2040", }');
    await page.getByRole('alert').filter({ hasText: 'The submission is not JSON: column 22' }).waitFor();
    await page.reload();
    await page.getByRole('alert').filter({ hasText: 'column 22' }).waitFor();
    expect(await page.locator('.sheet .cm-content').innerText()).toBe('{ "mark": "PW-2040", }');
    await page.close();
  });

  test.each([
    [1280, 'light'],
    [1280, 'dark'],
    [390, 'light'],
    [390, 'dark'],
  ] as const)('%d pixels wide and %s, axe finds nothing, and nothing is wider than the page', async (width, colorScheme) => {
    const sample = { rule: 'quay/fits', holds: true, sample: { berth: 'A1', length: 12, found: { maxLength: 12 } } };
    const came = { outcome: 'rejected', found: [] };
    const kept = { name: 'kept', intake: 'booking', submission: good, settings: SETTINGS, came, isProof: true, samples: [sample] };
    writeFileSync(module.replace('.ts', '.cases.json'), JSON.stringify({ cases: [kept] }));
    const { page } = await open(bench.opening, { viewport: { width, height: 844 }, colorScheme });
    await type(page, { ...good, length: 13, mark: 'x', crew: [{ name: 'Ida' }] });
    await verdict(page, 'Rejected');
    await page.locator('.circumstances summary').click();
    const violations = async () => {
      await page.evaluate(AXE);
      return page.evaluate(async () => {
        // biome-ignore lint/suspicious/noExplicitAny: axe is put into the page
        const { violations: found } = await (globalThis as any).axe.run({ rules: { 'label-content-name-mismatch': { enabled: true } } });
        return found.map(({ id, nodes }: { id: string; nodes: { target: string[] }[] }) => `${id}: ${nodes.map(({ target }) => target)}`);
      });
    };
    for (const tab of TABS) {
      await page.getByRole('tab', { name: tab }).click();
      await page.waitForTimeout(500);
      expect([tab, await violations()]).toEqual([tab, []]);
      expect([tab, await page.evaluate(() => document.documentElement.scrollWidth)]).toEqual([tab, width]);
    }
    await page.getByRole('radio', { name: 'Form' }).check({ force: true });
    expect(await violations()).toEqual([]);
    await page.close();
  });

  test('forty intakes, one of them found by typing; one without rules between fields', async () => {
    const many = Array.from({ length: 40 }, (_, at) => `export const i${at} = intake('intake-${at}', { name: text('Name') });`).join('\n');
    const own = await served(file('many.ts', `import { intake, text } from 'jestril';\n${many}`));
    try {
      const { page, errors } = await open(own.opening);
      await page.getByLabel('Intake').selectOption('intake-37');
      await verdict(page, 'Accepted');
      await page.getByRole('tab', { name: 'Graph' }).click();
      expect(await page.locator('#panel').innerText()).toContain(
        'No rule of this intake looks at more than one field, or at a stored record.',
      );
      expect(errors).toEqual([]);
      await page.close();
    } finally {
      await own.close();
    }
  });
});
