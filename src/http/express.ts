import type { IncomingMessage, ServerResponse } from 'node:http';
import { parseCookie } from 'cookie';
import type { NextFunction, Request, Response } from 'express';
import getRawBody from 'raw-body';
import { formPart, jsonPart, type Read, refuseEncoding, sortOf, textOf, tooLarge, urlEncodedPart } from './receive/body.ts';
import type { Limits } from './receive/json.ts';
import { readMultipart } from './receive/multipart.ts';
import type { Answer, Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { Unreadable } from './receive/problem.ts';
import { Receiver } from './receive/reception.ts';

export type { Limits } from './receive/json.ts';
export type { About, Amends, Answer, Done, PartIntakes, Received, ReceiveOptions, ShownAgain } from './receive/options.ts';
export type { LogEntry, Problem, ProblemKind, SentFinding } from './receive/problem.ts';

/** What the handler is told besides the value. */
export interface ExpressReceived<C> extends Received<Request, C> {
  readonly response: Response;
  readonly next: NextFunction;
}

/**
 * Puts intakes in front of an Express 5 handler: `app.post('/bookings', receive(berthBooking, { records }, handler))`. The
 * handler runs with accepted, typed data only; everything else is answered. It answers by itself, or returns what is `Done`.
 *
 * Bodies may have been read by a parser (`express.json()`, `express.urlencoded()`, …) or not.
 *
 * @param parts one intake for the body (for the query of GET and HEAD), or one for each part of the request
 */
export function receive<P extends Receivable, C = undefined>(
  parts: P,
  options: OptionsFor<P, Request, C>,
  // biome-ignore lint/suspicious/noConfusingVoidType: a handler that answers by itself returns nothing
  handler: (value: ReceivedOf<P>, received: ExpressReceived<C>) => Promise<Done | void> | Done | void,
): (request: Request, response: Response, next: NextFunction) => Promise<void> {
  const receiver = new Receiver<Request, C>(parts, options as ReceiveOptions<Request, C>);
  return async function received(request, response, next) {
    const gone = new Gone(response);
    try {
      const reception = await receiver.receive({
        request,
        method: request.method,
        query: queryOf(request.originalUrl),
        params: request.params as { readonly [name: string]: string },
        header: (name) => headerOf(request.headers[name]),
        headers: () => Object.fromEntries(Object.entries(request.headers).map(([name, value]) => [name, headerOf(value) ?? ''])),
        cookies: () => parseCookie(request.headers.cookie ?? ''),
        body: (limits) => bodyOf(request, limits),
        signal: () => gone.signal,
      });
      if ('answer' in reception) return send(request, response, reception.answer);
      const { value, received: told, finish } = reception;
      try {
        const done = await handler(value as ReceivedOf<P>, Object.assign(told, { response, next }));
        if (done && !response.headersSent) send(request, response, await finish.done(done));
      } catch (error) {
        const answer = response.headersSent ? undefined : await finish.failed(error);
        if (!answer) throw error;
        send(request, response, answer);
      }
    } catch (error) {
      next(error);
    }
  };
}

/** A signal for a sender that goes away before it has its answer; made for those who ask, since most requests need none. */
class Gone {
  readonly #response: ServerResponse;
  #signal: AbortSignal | undefined;

  constructor(response: ServerResponse) {
    this.#response = response;
  }

  get signal(): AbortSignal {
    if (this.#signal) return this.#signal;
    const controller = new AbortController();
    this.#response.once('close', () => {
      if (!this.#response.writableFinished) controller.abort(new Error('The sender is gone.'));
    });
    this.#signal = controller.signal;
    return this.#signal;
  }
}

function queryOf(url: string): string {
  const mark = url.indexOf('?');
  return mark < 0 ? '' : url.slice(mark + 1);
}

function headerOf(value: string | readonly string[] | undefined): string | undefined {
  return typeof value === 'string' ? value : value?.join(', ');
}

function send(request: IncomingMessage, response: ServerResponse, { status, headers, body }: Answer): void {
  if (response.headersSent || response.destroyed) return;
  response.statusCode = status;
  for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
  // A body that was not read to its end must not be taken for the next request.
  if (!request.complete) response.setHeader('connection', 'close');
  response.end(body);
}

async function bodyOf(request: Request, limits: Required<Limits>): Promise<Read> {
  const { headers } = request;
  const type = headers['content-type'];
  const isEmpty = headers['transfer-encoding'] === undefined && Number(headers['content-length'] ?? 0) === 0;
  const sort = sortOf(type, isEmpty);
  if (request.body !== undefined && request.complete) return parsedBody(request.body, sort, limits);
  if (sort === 'none') return { submission: {}, as: 'json' };
  refuseEncoding(headers['content-encoding']);
  if (sort === 'multipart') return readMultipart(request, headers, limits);
  const text = textOf(await bytesOf(request, limits.bytes));
  return sort === 'json' ? jsonPart(text, limits) : urlEncodedPart(text, limits);
}

/** What a body parser made of it: text, bytes, or an object. */
function parsedBody(body: unknown, sort: ReturnType<typeof sortOf>, limits: Required<Limits>): Read {
  if (typeof body === 'string' || body instanceof Uint8Array) {
    const text = typeof body === 'string' ? body : textOf(body);
    return sort === 'json' ? jsonPart(text, limits) : urlEncodedPart(text, limits);
  }
  if (sort === 'json' || sort === 'none') return { submission: body, as: 'json' };
  const pairs = Object.entries(body as object);
  // A parser that nests names by itself has left nothing to decode.
  const isNested = pairs.some(([, value]) => typeof value === 'object' && value !== null && !isTexts(value));
  if (isNested) return { submission: body, as: 'form' };
  return formPart(
    pairs.flatMap(([name, value]): [string, unknown][] => (Array.isArray(value) ? value.map((each) => [name, each]) : [[name, value]])),
    limits,
  );
}

function isTexts(value: object): boolean {
  return Array.isArray(value) && value.every((each) => typeof each === 'string');
}

async function bytesOf(request: IncomingMessage, most: number): Promise<Buffer> {
  try {
    return await getRawBody(request, { limit: most, length: request.headers['content-length'] ?? null });
  } catch (error) {
    // What still comes is let go, so that the answer can be sent.
    request.resume();
    throw (error as { readonly type?: string }).type === 'entity.too.large' ? tooLarge(most) : new Unreadable(400, 'The body broke off.');
  }
}
