import { readFileSync, writeFileSync } from 'node:fs';
import { referencePage } from './page.ts';
import { withReadings } from './readings.ts';

// npm run reference: writes docs/reference.md, and the tables of docs/reading.md, anew.
writeFileSync('docs/reference.md', await referencePage());
writeFileSync('docs/reading.md', withReadings(readFileSync('docs/reading.md', 'utf8')));
