// npm run screenshots: the pictures in docs/screenshots, made anew from the demo data.
// Needs Debian's chromium, xvfb, xterm and imagemagick.
import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { build, install, root, run } from './setup.mjs';

const folder = join(root, 'docs/screenshots');
const PORT = '4390';
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
  const shown = `printf '\\033[?25l$ %s\\n' ${quote(command)}; ${command} 2>&1; sleep 4`;
  const shot = `sleep 3; import -window root ${quote(join(folder, file))}`;
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
  try {
    const wide = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await submit(wide, {
      ...BOOKING,
      mark: 'PW-3177',
      lengthOverall: '14.5',
      departs: '2031-05-12',
      gateCodeAgain: '4072',
      'crew.0.name': '',
    });
    await wide.screenshot({ path: join(folder, 'desk-findings.png') });
    const narrow = await browser.newPage({ viewport: { width: 390, height: 844 } });
    await submit(narrow, { ...BOOKING, lengthOverall: '1', berth: '' });
    await narrow.screenshot({ path: join(folder, 'desk-findings-narrow.png') });
    await submit(wide, { ...BOOKING, mark: 'pw-1', lengthOverall: '14.5', departs: '2031-07-30', gateCode: '40', terms: 'off' }, 'pl');
    await wide.screenshot({ path: join(folder, 'desk-findings-polish.png') });
    await submit(wide, BOOKING);
    await wide.locator('tr.new').waitFor();
    await wide.screenshot({ path: join(folder, 'desk-booked.png') });
  } finally {
    await browser.close();
    desk.kill();
  }
}

async function submit(page, values, language = 'en') {
  await page.goto(`http://localhost:${PORT}/`);
  await page.locator('#berth option[value="A1"]').waitFor({ state: 'attached' });
  await page.selectOption('#language', language);
  const { terms, ...fields } = values;
  for (const [name, value] of Object.entries(fields)) {
    const control = page.locator(`[name="${name}"]`);
    if ((await control.evaluate((element) => element.tagName)) === 'SELECT') await control.selectOption(value);
    else await control.fill(value);
  }
  if (terms !== 'off') await page.check('#terms');
  await page.click('button[type=submit]');
  await page.locator('#notice h2').waitFor();
}
