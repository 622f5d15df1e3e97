import { mkdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { vesselImport } from './app.ts';
import { openVessels } from './store.ts';

// Serves the import until it is stopped. PORT and IMPORT_FOLDER say where.
const here = dirname(fileURLToPath(import.meta.url));
const port = Number(process.env.PORT ?? 4330);
const folder = process.env.IMPORT_FOLDER ?? join(here, '../.cache');
mkdirSync(folder, { recursive: true });
const database = join(folder, 'vessels.sqlite');
openVessels(database);
const { app } = vesselImport({ folder: join(folder, 'imports'), rules: join(here, 'rules.js'), database });
app.listen(port, '127.0.0.1', () => console.log(`Lists of vessels are taken at http://localhost:${port} (Ctrl+C closes it).`));
