import type { NodeRequest, NodeResponse } from 'jestril/node';

type Handler = (request: NodeRequest, response: NodeResponse) => Promise<void>;

/** Listens for a server of `node:http`, `node:https` or `node:http2`: one handler of `jestril/node` for each path. */
export const listener =
  (handlers: { readonly [path: string]: Handler }) =>
  async (request: NodeRequest, response: NodeResponse): Promise<void> => {
    const { pathname } = new URL(request.url ?? '/', 'http://here.invalid');
    const failed = (status: number) => {
      if (response.headersSent) return;
      response.statusCode = status;
      response.end();
    };
    await (handlers[pathname]?.(request, response).catch(() => failed(500)) ?? failed(404));
  };
