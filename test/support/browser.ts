import { existsSync } from 'node:fs';

const CHROMIUM = process.env.CHROMIUM ?? '/usr/bin/chromium';
const isRequired = (process.env.JESTRIL_REQUIRE ?? '').split(',').includes('browser');

/** `describe` where a browser is installed (or has to be), else a suite that is skipped and says why. */
export const describeInBrowser = existsSync(CHROMIUM) || isRequired ? describe : describe.skip;

export async function launchBrowser() {
  const { chromium } = await import('playwright-core');
  return chromium.launch({ executablePath: CHROMIUM, args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'] });
}
