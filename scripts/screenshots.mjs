// npm run screenshots: the pictures in docs/screenshots, made anew from the demo data.
// Needs Debian's chromium, xvfb, xterm and imagemagick.
import { spawn, spawnSync } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { build, install, root, run } from './setup.mjs';

const folder = join(root, 'docs/screenshots');
const COLUMNS = 156;
const MOST_LINES = 60;
const PORT = '4390';
const HOME = `http://localhost:${PORT}`;
const BOOKING = JSON.parse(readFileSync(join(root, 'examples/marina/data/form.json'), 'utf8'));

install();
build();
run('npm', ['run', '--silent', 'build', '--workspace', 'examples/booking-desk']);
mkdirSync(folder, { recursive: true });
const only = process.argv[2];
if (!only || only === 'terminal') terminals();
if (!only || only === 'pages') await pages();
if (!only || only === 'bench') await bench();
if (!only || only === 'workbench') await workbench();
if (!only || only === 'screening') await screening();
if (!only || only === 'description') await description();

function terminals() {
  const marina = join(root, 'examples/marina');
  const records = '--records data/records.json';
  const now = '--now 2031-04-20T08:00:00Z';
  const booking = `--intake berth-booking ${records} --given data/caller.json ${now}`;
  terminal('tour.png', 'npm run --silent demo -- --tour');
  terminal('check.png', `npx jestril check index.ts data/bookings.ndjson ${booking}`, marina);
  terminal('check-explain.png', `sed -n 3p data/bookings.ndjson | npx jestril check index.ts - ${booking} --explain`, marina);
  const at = mkdtempSync(join(tmpdir(), 'jestril-new-'));
  copyFileSync(join(marina, 'data/stays.csv'), join(at, 'stays.csv'));
  terminal('new.png', 'npx jestril new stay --from stays.csv && tail -n 26 stay.ts', at);
  terminal('prove.png', 'npx jestril prove proof.ts --changes', marina);
  terminal('compare.png', `npx jestril compare earlier.ts index.ts --intake vessel-registration ${now}`, marina);
  terminal('audit.png', `npx jestril audit index.ts data/vessels.ndjson --intake vessel-registration ${records} ${now}`, marina);
}

/** A command and its output in a terminal window that it fills. */
function terminal(file, command, cwd = root) {
  const real = command.replaceAll('npx jestril', `node ${join(root, 'bin/jestril.js')}`);
  const before = new Set(readdirSync(cwd));
  const { stdout, stderr } = spawnSync('bash', ['-c', real], {
    cwd,
    encoding: 'utf8',
    env: { ...process.env, npm_config_loglevel: 'silent' },
  });
  // What it has written it writes again.
  for (const name of readdirSync(cwd)) if (!before.has(name)) rmSync(join(cwd, name));
  const lines = `${stdout}${stderr}`.trimEnd().split('\n');
  const rows = Math.min(MOST_LINES, 3 + lines.reduce((sum, line) => sum + Math.max(1, Math.ceil(line.length / COLUMNS)), 0));
  // The picture is taken once the command has ended, however long that takes.
  const done = quote(join(mkdtempSync(join(tmpdir(), 'jestril-shot-')), 'done'));
  const shown = `printf '\\033[?25l$ %s\\n' ${quote(command)}; ${real} 2>&1; touch ${done}; sleep 4`;
  const picture = quote(join(folder, file));
  const shot = `until [ -e ${done} ]; do sleep 0.2; done; sleep 1; import -window root ${picture}`;
  const xterm = `xterm -geometry ${COLUMNS}x${rows}+0+0 -fa 'DejaVu Sans Mono' -fs 10 -bg '#fffdf8' -fg '#16323a' -b 10 -bw 0 -e bash -c ${quote(shown)}`;
  run('xvfb-run', ['-a', '-s', `-screen 0 ${COLUMNS * 8 + 20}x${rows * 17 + 20}x24`, 'bash', '-c', `${xterm} & ${shot}; wait`], {
    cwd,
    env: { ...process.env, npm_config_loglevel: 'silent' },
  });
}

function quote(text) {
  return `'${text.replaceAll("'", `'\\''`)}'`;
}

async function pages() {
  const desk = spawn('node', ['examples/booking-desk/dist/server/main.js'], {
    cwd: root,
    env: { ...process.env, PORT, DESK_FILE: ':memory:' },
  });
  await new Promise((resolve) => desk.stdout.once('data', resolve));
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
  const shoot = (page, file) => page.screenshot({ path: join(folder, file) });
  try {
    const wide = await open(browser, { viewport: { width: 1280, height: 800 } });
    // Without scripts all of it is judged by the server, at once.
    const silent = await open(browser, { viewport: { width: 1280, height: 800 }, javaScriptEnabled: false });
    const wrong = { lengthOverall: '14.5', beam: '0', departs: '2031-05-12', gateCodeAgain: '4072' };
    await fill(silent, '/bookings/new', { ...BOOKING, ...wrong });
    await silent.locator('[data-summary] li').first().waitFor();
    await shoot(silent, 'desk-findings.png');
    await fill(wide, '/bookings/new', BOOKING);
    await wide.waitForURL('**/?done=booked*');
    await shoot(wide, 'desk-booked.png');
    await wide.goto(`${HOME}/sign-up`);
    await wide.fill('[name="contact.email"]', 'IDA@fjordmail.example');
    await wide.fill('#name', 'Liv Aas');
    await wide.fill('#born', '2020-01-01');
    await wide.fill('#passphrase', 'eleven gull');
    await wide.locator('#passphrase').blur();
    await wide.locator('[data-field="/contact/email"] [data-finding]').waitFor();
    await shoot(wide, 'desk-sign-up.png');
    await wide.goto(`${HOME}/power?mark=PW-2040&plug=16A&amount=40&limit=20&contact.email=ida@fjordmail.example`);
    await shoot(wide, 'desk-power.png');
    const plain = await open(browser, { viewport: { width: 1280, height: 800 }, javaScriptEnabled: false, locale: 'de-DE' });
    await plain.goto(`${HOME}/language/de?to=/vessels/new`);
    const vessel = {
      mark: 'PW-2040',
      name: 'Tern',
      lengthOverall: '6',
      beam: '5',
      insuredUntil: '2041-04-20',
      'skipper.email': 'ida@fjordmail.example',
    };
    await plain.setInputFiles('#certificate', { name: 'police.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF') });
    await fill(plain, undefined, vessel);
    await shoot(plain, 'desk-german.png');
    const narrow = await open(browser, { viewport: { width: 390, height: 844 } });
    await fill(narrow, '/bookings/501', { departs: '2031-05-09' });
    await narrow.locator('[data-summary] li').first().waitFor();
    await narrow.evaluate(() => scrollTo(0, 0));
    await shoot(narrow, 'desk-change-narrow.png');
  } finally {
    await browser.close();
    desk.kill();
  }
}

/** The page that tells people of an intake. */
async function description() {
  const file = join(mkdtempSync(join(tmpdir(), 'jestril-page-')), 'booking.html');
  const flags = ['--intake', 'berth-booking', '--format', 'html', '--now', '2031-04-20T08:00:00Z', '--out', file];
  run('node', [join(root, 'bin/jestril.js'), 'describe', join(root, 'examples/marina/index.ts'), ...flags]);
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`file://${file}`);
    await page.screenshot({ path: join(folder, 'describe.png') });
  } finally {
    await browser.close();
  }
}

/** A folder with a screening of made-up vessels, every so many of which are not as they should be. */
function screenedVessels() {
  const at = mkdtempSync(join(tmpdir(), 'jestril-screening-'));
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ';
  const rows = Array.from({ length: 40_000 }, (_, number) => ({
    mark: `V${letters[Math.floor((number % 39_500) / 9973)]}-${String((number % 39_500) % 9973).padStart(4, '0')}`,
    name: 'Tern',
    lengthOverall: 6,
    beam: 4,
    electric: false,
    insuredUntil: '2032-01-15',
    skipper: { email: 'liv@fjordmail.example' },
    ...(number % 37 === 5 && { lengthOverall: 1.5 }),
    ...(number > 24_000 && number % 5 === 0 && { insuredUntil: '2031-04-19' }),
    ...(number % 211 === 0 && { name: ' ' }),
  }));
  writeFileSync(join(at, 'vessels.ndjson'), rows.map((row) => `${JSON.stringify(row)}\n`).join(''));
  const marina = join(root, 'examples/marina');
  const flags = ['--intake', 'vessel-registration', '--records', join(marina, 'data/records.json'), '--now', '2031-04-20T08:00:00Z'];
  const args = ['screen', 'start', join(marina, 'index.ts'), 'vessels.ndjson', '--to', 'screened', '--range-bytes', '100000', ...flags];
  spawnSync('node', [join(root, 'bin/jestril.js'), ...args], { cwd: at, stdio: ['ignore', 'ignore', 'inherit'] });
  return at;
}

/** The page of a screening. */
async function screening() {
  const at = screenedVessels();
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`file://${join(at, 'screened/index.html')}`);
    await page.screenshot({ path: join(folder, 'screening.png') });
  } finally {
    await browser.close();
    rmSync(at, { recursive: true, force: true });
  }
}

/** The workbench on the marina. */
async function workbench() {
  const marina = 'examples/marina';
  const flags = ['--records', `${marina}/data/records.json`, '--given', `${marina}/data/caller.json`, '--now', '2031-04-20T08:00:00Z'];
  const server = spawn('node', ['bin/jestril.js', 'serve', `${marina}/index.ts`, '--port', PORT, ...flags], { cwd: root });
  const said = await new Promise((resolve) => server.stdout.once('data', resolve));
  const [address] = /http:\S+/.exec(String(said));
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
  const judged = async (options) => {
    const page = await browser.newPage(options);
    await page.goto(address);
    await page.click('text=Cases');
    await page.click('.cases .open >> nth=1');
    await page.locator('.verdict.rejected[aria-busy="false"]').waitFor();
    return page;
  };
  try {
    const page = await judged({ viewport: { width: 1280, height: 800 } });
    await page.click('#tab-why');
    await page.screenshot({ path: join(folder, 'workbench.png') });
    await page.click('#tab-cases');
    await page.click('.cases .open >> nth=0');
    await page.locator('.verdict.accepted[aria-busy="false"]').waitFor();
    await page.click('#tab-what-if');
    await page.getByLabel('at another moment').fill('2031-05-16');
    await page.locator('.pair').waitFor();
    await page.locator('.strip li').first().waitFor();
    await page.screenshot({ path: join(folder, 'workbench-what-if.png') });
    const at = screenedVessels();
    await page.click('#tab-import');
    await page.getByLabel('The folder of a screening').fill(join(at, 'screened'));
    await page.keyboard.press('Enter');
    await page.getByLabel('Row, 1 to').fill('39,806');
    await page.keyboard.press('Enter');
    await page.locator('.opened').waitFor();
    await page.locator('.verdict.rejected[aria-busy="false"]').waitFor();
    await page.locator('#tab-import').evaluate((tab) => tab.scrollIntoView());
    await page.screenshot({ path: join(folder, 'workbench-import.png') });
    rmSync(at, { recursive: true, force: true });
  } finally {
    await browser.close();
    server.kill('SIGINT');
  }
}

/** The ratios of the last `npm run bench -- --save` as a chart: a bar beside its target. */
async function bench() {
  const rows = JSON.parse(readFileSync(join(root, 'bench/ratios.json'), 'utf8')).filter(({ target }) => target !== undefined);
  const width = ({ value, target }) => Math.min(100, (value / target) * 50);
  const bars = rows.map(
    (
      row,
    ) => `<tr><th>${row.what}</th><td><div class="${row.value <= row.target ? 'in' : 'out'}" style="width:${width(row)}%"></div><i></i></td>
      <td>${row.value}${row.unit ? ` ${row.unit}` : ''}</td><td>${row.target}</td></tr>`,
  );
  const page = `<!doctype html><meta charset="utf-8"><style>
    body { font: 15px 'DejaVu Sans', sans-serif; color: #16323a; background: #fffdf8; margin: 24px }
    table { border-collapse: collapse; width: 100% } th { text-align: left; font-weight: normal; padding-right: 16px; white-space: nowrap }
    td { padding: 5px 12px; text-align: right; white-space: nowrap } td:nth-child(2) { width: 50%; position: relative; padding: 5px 0 }
    div { height: 18px } .in { background: #1f6b3a } .out { background: #b34a12 } i { position: absolute; left: 50%; top: 0; bottom: 0; border-left: 2px solid #16323a }
    h1 { font-size: 20px } caption { text-align: left; padding-bottom: 12px }</style>
    <h1>What judging costs</h1><table><caption>Each beside what it is compared with; the line is the target.</caption>
    <tr><th></th><td></td><td>measured</td><td>target</td></tr>${bars.join('')}</table>`;
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    const chart = await browser.newPage({ viewport: { width: 1280, height: 700 } });
    await chart.setContent(page);
    await chart.screenshot({ path: join(folder, 'bench.png'), fullPage: true });
  } finally {
    await browser.close();
  }
}

async function open(browser, options) {
  const page = await (await browser.newContext(options)).newPage();
  await page.goto(`${HOME}/sign-in`);
  await page.click('text=Ida Sund');
  return page;
}

async function fill(page, where, values) {
  if (where) await page.goto(HOME + where);
  for (const [name, value] of Object.entries(values)) {
    const control = page.locator(`[name="${name}"]`);
    if (await control.evaluate((element) => element.tagName === 'SELECT')) await control.selectOption(value);
    else await control.fill(value);
  }
  if (await page.locator('#terms').count()) await page.check('#terms');
  await page.click('main form[data-intake] button[type=submit]');
}
