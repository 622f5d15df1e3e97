// npm run screenshots: the pictures in docs/screenshots, made anew from the demo data.
// Needs Debian's chromium, xvfb, xterm and imagemagick.
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { build, install, root, run } from './setup.mjs';

const folder = join(root, 'docs/screenshots');
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

function terminals() {
  const check =
    'npx jestril check examples/marina/index.ts examples/marina/data/bookings.ndjson --intake berth-booking --records examples/marina/data/records.json --given examples/marina/data/caller.json --now 2031-04-20T08:00:00Z';
  terminal('tour.png', 'npm run --silent demo -- --tour');
  terminal('check.png', check);
  terminal(
    'check-explain.png',
    `head -n 3 examples/marina/data/bookings.ndjson | tail -n 1 | ${check.replace('examples/marina/data/bookings.ndjson', '-')} --explain`,
  );
}

/** A command and its output in a terminal window of about 1280 by 800. */
function terminal(file, command) {
  // The picture is taken once the command has ended, however long that takes.
  const done = quote(join(mkdtempSync(join(tmpdir(), 'jestril-shot-')), 'done'));
  const shown = `printf '\\033[?25l$ %s\\n' ${quote(command)}; ${command} 2>&1; touch ${done}; sleep 4`;
  const shot = `until [ -e ${done} ]; do sleep 0.2; done; sleep 1; import -window root ${quote(join(folder, file))}`;
  const xterm = `xterm -geometry 140x42+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg '#fffdf8' -fg '#16323a' -b 12 -e bash -c ${quote(shown)}`;
  run('xvfb-run', ['-a', '-s', '-screen 0 1290x800x24', 'bash', '-c', `${xterm} & ${shot}; wait`], {
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
    await fill(wide, '/bookings/new', { ...BOOKING, lengthOverall: '14.5' });
    await wide.locator('[data-summary] li').first().waitFor();
    await wide.waitForTimeout(300);
    await wide.evaluate(() => scrollTo(0, 0));
    await shoot(wide, 'desk-findings.png');
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
    await wide.goto(`${HOME}/power?mark=PW-2040&plug=16A&amount=40&price=0.42&limit=20&contact.email=ida@fjordmail.example`);
    await shoot(wide, 'desk-power.png');
    const plain = await open(browser, { viewport: { width: 1280, height: 800 }, javaScriptEnabled: false });
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
