import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';

/** A site with one page, whose script is `entry`, with the library as it is built; `answer` answers everything else. */
export async function openSite(
  entry: string,
  html: string,
  answer: (request: IncomingMessage, response: ServerResponse) => void,
): Promise<{ readonly address: string; close(): void }> {
  const made = mkdtempSync(join(tmpdir(), 'jestril-page-'));
  const environment = { ...process.env, NODE_ENV: 'production', JESTRIL_PAGE: entry };
  await promisify(execFile)('node', ['node_modules/vite/bin/vite.js', 'build', 'test/browser', '--outDir', made], { env: environment });
  const script = readFileSync(join(made, 'page.js'));
  rmSync(made, { recursive: true });
  const server: Server = createServer((request, response) => {
    if (request.url === '/favicon.ico') return response.writeHead(204).end();
    if (request.url !== '/' && request.url !== '/page.js') return answer(request, response);
    const isScript = request.url === '/page.js';
    response.setHeader('content-security-policy', "script-src 'self'; style-src 'self'");
    response.setHeader('content-type', isScript ? 'text/javascript; charset=utf-8' : 'text/html; charset=utf-8');
    response.end(isScript ? script : html);
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  return { address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/`, close: () => server.close().closeAllConnections() };
}
