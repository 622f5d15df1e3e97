#!/usr/bin/env node
import { existsSync } from 'node:fs';

// The command. In a clone it has to be built first.
const main = new URL('../dist/node/cli/main.js', import.meta.url);
if (existsSync(main)) await import(main.href);
else {
  console.error('Jestril is not built here; run: npm install && npm run build');
  process.exitCode = 3;
}
