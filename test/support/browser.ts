import { existsSync } from 'node:fs';

const CHROMIUM = process.env.CHROMIUM ?? '/usr/bin/chromium';
const isRequired = (process.env.JESTRIL_REQUIRE ?? '').split(',').includes('browser');

/** `describe` where a browser is installed (or has to be), else a suite that is skipped and says why. */
export const describeInBrowser = existsSync(CHROMIUM) || isRequired ? describe : describe.skip;

export async function launchBrowser() {
  const { chromium } = await import('playwright-core');
  const browser = await chromium.launch({
    executablePath: CHROMIUM,
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  // The test has a limit; what it waits for takes as long as it takes.
  const newContext = browser.newContext.bind(browser);
  browser.newContext = async (options) => {
    const context = await newContext(options);
    context.setDefaultTimeout(0);
    return context;
  };
  return browser;
}
