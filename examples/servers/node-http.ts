import { createServer } from 'node:http';
import type { Found, NodeRequest, NodeResponse } from 'jestril/node';

type Handler = (request: NodeRequest, response: NodeResponse, found?: Found) => Promise<void>;

/** A server of `node:http` with one handler of `jestril/node` for each path. */
export const httpServer = (handlers: { readonly [path: string]: Handler }) =>
  createServer(async (request, response) => {
    const { pathname } = new URL(request.url ?? '/', 'http://here.invalid');
    const handler = handlers[pathname];
    if (!handler) return void response.writeHead(404).end();
    await handler(request, response).catch(() => response.headersSent || response.writeHead(500).end());
  });
