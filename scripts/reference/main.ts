import { writeFileSync } from 'node:fs';
import { referencePage } from './page.ts';

// npm run reference: writes docs/reference.md anew.
writeFileSync('docs/reference.md', referencePage());
