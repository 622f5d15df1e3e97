import type { NodeRequest, NodeResponse } from 'jestril/node';
import type { Context } from 'koa';

/** A handler of `jestril/node` as a middleware of Koa, behind whichever router; `ctx.request.body` is that of a body parser. */
export const inKoa =
  (handler: (request: NodeRequest, response: NodeResponse, found?: object) => Promise<void>) =>
  async (context: Context & { readonly params?: { readonly [name: string]: string } }): Promise<void> => {
    const { params = {}, request } = context;
    await handler(context.req, context.res, { params, parsed: (request as { readonly body?: unknown }).body });
    // What Koa would answer by itself has been answered.
    context.respond = false;
  };
