import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { describeInBrowser, launchBrowser } from '../support/browser.ts';
import { openSite } from './site.ts';

// The example of docs/browser.md, as it is written there.

const written = readFileSync('docs/browser.md', 'utf8');
const blockOf = (language: string) => (written.match(new RegExp(`\`\`\`${language}\\n(.*?)\`\`\``, 's')) as RegExpMatchArray)[1] as string;

describeInBrowser('the documented form', () => {
  test('every option of it does what the page of the documents says', async () => {
    const folder = mkdtempSync(resolve('.cache-documented-'));
    const asked: string[] = [];
    const answers = [422, 201];
    const begun = "start(document.forms[0] as HTMLFormElement, () => document.body.append('Booked.'));";
    writeFileSync(join(folder, 'page.ts'), `${blockOf('ts')}\n${begun}`);
    const html = `<!doctype html><html lang="de"><title>t</title>${blockOf('html')}<script src="/page.js"></script>`;
    const site = await openSite(join(folder, 'page.ts'), html, (request, response) => {
      asked.push(request.url ?? '');
      request.resume().on('end', () => {
        const findings = [{ rule: 'known', at: ['/berth'], message: 'Diesen Platz gibt es nicht.' }];
        const status = request.url === '/stays/check' ? 422 : (answers.shift() ?? 500);
        response.writeHead(status, { 'content-type': 'application/problem+json' }).end(JSON.stringify(status === 422 ? { findings } : {}));
      });
    });
    const browser = await launchBrowser();
    try {
      const page = await browser.newPage();
      await page.goto(site.address);
      await page.getByLabel('Arrives').fill('2031-05-18');
      await page.getByLabel('Departs').fill('2031-05-14');
      await page.getByLabel('Departs').blur();
      const beside = page.locator('[data-field="/departs"]');
      expect(await beside.textContent()).not.toBe('');
      expect(await beside.locator('p').getAttribute('lang')).toBe('de');
      await page.getByLabel('Departs').fill('2031-05-20');
      expect([await beside.textContent(), asked]).toEqual(['', []]);
      await page.getByLabel('Berth').fill('Z9');
      await page.getByLabel('Berth').blur();
      await page.getByText('Diesen Platz gibt es nicht.').first().waitFor();
      expect(asked).toEqual(['/stays/check']);
      await page.getByRole('button').click();
      await page.locator('[data-summary] a').waitFor();
      await page.getByLabel('Berth').fill('A1');
      await page.getByRole('button').click();
      await page.getByText('Booked.').waitFor();
      expect(asked.filter((url) => url === '/stays')).toHaveLength(2);
    } finally {
      await browser.close();
      site.close();
      rmSync(folder, { recursive: true });
    }
  });
});
