import { readFileSync, writeFileSync } from 'node:fs';
import { withFaults } from './faults.ts';
import { referencePage } from './page.ts';
import { withReadings } from './readings.ts';

// npm run reference: writes docs/reference.md, the tables of docs/reading.md and the lists of docs/faults.md anew.
writeFileSync('docs/reference.md', await referencePage());
writeFileSync('docs/reading.md', withReadings(readFileSync('docs/reading.md', 'utf8')));
writeFileSync('docs/faults.md', withFaults(readFileSync('docs/faults.md', 'utf8')));
