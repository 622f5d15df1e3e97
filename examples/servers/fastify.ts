import type { IncomingMessage } from 'node:http';
import type { Answer, SentRequest } from 'jestril/request';

/** What is needed of Fastify's request and reply. */
interface FastifyRequest {
  readonly method: string;
  readonly url: string;
  readonly headers: IncomingMessage['headers'];
  readonly params: unknown;
  readonly body: unknown;
  readonly routeOptions?: { readonly url?: string };
}
interface FastifyReply {
  code(status: number): FastifyReply;
  headers(all: { readonly [name: string]: unknown }): FastifyReply;
  send(body: string): FastifyReply;
}

/**
 * A handler of `jestril/request` as a handler of Fastify. Fastify has parsed the body; to have it read within the limits of `receive`, leave
 * it unparsed: `app.removeAllContentTypeParsers()` and `app.addContentTypeParser('*', (_request, payload, done) => done(null, payload))`.
 */
export const inFastify =
  (answers: (request: SentRequest) => Promise<Answer>) =>
  async ({ method, url, headers, params, body, routeOptions }: FastifyRequest, reply: FastifyReply): Promise<FastifyReply> => {
    const isStream = typeof body === 'object' && body !== null && Symbol.asyncIterator in body;
    const {
      status,
      headers: sent,
      body: text,
    } = await answers({
      method,
      url,
      headers,
      params: params as { readonly [name: string]: string },
      ...(isStream ? { body: body as AsyncIterable<Uint8Array> } : { parsed: body }),
      ...(routeOptions?.url !== undefined && { route: routeOptions.url }),
    });
    return reply.code(status).headers(sent).send(text);
  };
