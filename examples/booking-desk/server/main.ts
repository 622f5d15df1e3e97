import { mkdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { bookingDesk } from './app.ts';
import { openStore, type Seed } from './store.ts';

// Serves the desk until it is stopped. PORT and DESK_FILE say where; DESK_LOG=info logs every submission.
const here = dirname(fileURLToPath(import.meta.url));
const port = Number(process.env.PORT ?? 4310);
// The number goes up with the tables, so that a file from before is not opened.
const file = process.env.DESK_FILE ?? join(here, '../../.cache/desk-3.sqlite');
const seed = JSON.parse(readFileSync(join(here, '../../../marina/data/records.json'), 'utf8')) as Seed;

if (file !== ':memory:') mkdirSync(dirname(file), { recursive: true });
const store = await openStore(file, seed);
/** What somebody should look at. */
const LOUD: readonly string[] = ['undecided', 'unfit-answer', 'error'];
const log = pino({ level: process.env.DESK_LOG ?? 'warn' });
const server = bookingDesk(store, {
  assets: join(here, '../page'),
  log: (entry, { error }) =>
    log[LOUD.includes(entry.outcome) ? 'warn' : 'info']({ ...entry, ...(error !== undefined && { err: error }) }, 'received'),
}).listen(port, '127.0.0.1');

server.on('listening', () => console.log(`The booking desk is open at http://localhost:${port} (Ctrl+C closes it).`));
server.on('error', (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is in use; choose another, such as: npm run demo -- --port ${port + 1}`
      : `The desk cannot open: ${error.message}`,
  );
  process.exit(1);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.on(signal, () => {
    server.closeAllConnections();
    server.close(() => void store.destroy().then(() => process.exit(0)));
  });
}
