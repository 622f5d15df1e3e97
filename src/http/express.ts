import type { IncomingMessage, ServerResponse } from 'node:http';
import { parseCookie } from 'cookie';
import type { NextFunction, Request, Response } from 'express';
import { readBody } from './receive/body.ts';
import type { Keeping } from './receive/files.ts';
import type { ReadPart } from './receive/form-part.ts';
import { Answered } from './receive/incoming.ts';
import type { Limits } from './receive/json.ts';
import type { Answer, Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { parsedPart } from './receive/parsed.ts';
import { Receiver } from './receive/reception.ts';
import type { ByteSource } from './receive/source.ts';

export type { FileStore, IncomingFile } from './receive/files.ts';
export type { Limits } from './receive/json.ts';
export type { LogAbout, LogEntry } from './receive/log.ts';
export type { About, Amends, Answer, Done, PartIntakes, Received, ReceiveOptions, ShownAgain, Storing } from './receive/options.ts';
export type { Problem, ProblemKind, SentFinding } from './receive/problem.ts';

/** What the handler is told besides the value. */
export interface ExpressReceived<C, S = undefined> extends Received<Request, C, S> {
  readonly response: Response;
  readonly next: NextFunction;
}

/**
 * Puts intakes in front of an Express 5 handler: `app.post('/bookings', receive(berthBooking, { records }, handler))`. The
 * handler runs with accepted, typed data only; everything else is answered. It answers by itself, or returns what is `Done`.
 *
 * Bodies may have been read by a parser (`express.json()`, `express.urlencoded()`, …) or not.
 *
 * @param parts one intake for the body of POST, PUT and PATCH, or one for each part of the request
 */
export function receive<P extends Receivable, C = undefined, T = undefined, S = undefined>(
  parts: P,
  options: OptionsFor<P, Request, C, T, S>,
  // biome-ignore lint/suspicious/noConfusingVoidType: a handler that answers by itself returns nothing
  handler: (value: ReceivedOf<P>, received: ExpressReceived<C, S>) => Promise<Done | void> | Done | void,
): (request: Request, response: Response, next: NextFunction) => Promise<void> {
  const receiver = new Receiver<Request, C>(parts, options as ReceiveOptions<Request, C>);
  return async function received(request, response, next) {
    const gone = new Gone(response);
    let hasGoneOn = false;
    const onward: NextFunction = (...all: unknown[]) => {
      hasGoneOn = true;
      next(...(all as []));
    };
    try {
      const answer = await receiver.answer(
        {
          request,
          method: request.method,
          query: queryOf(request.originalUrl),
          params: request.params as { readonly [name: string]: string },
          header: (name) => headerOf(request.headers[name]),
          headers: () => Object.fromEntries(Object.entries(request.headers).map(([name, value]) => [name, headerOf(value) ?? ''])),
          cookies: () => parseCookie(request.headers.cookie ?? ''),
          path: () => request.originalUrl,
          route: () => routeOf(request),
          host: () => request.headers.host,
          body: (limits, keeping) => bodyOf(request, limits, keeping),
          signal: () => gone.signal,
        },
        async (value, told) => {
          const done = await handler(value as ReceivedOf<P>, Object.assign(told as Received<Request, C, S>, { response, next: onward }));
          if (done) return done;
          if (!response.headersSent && !hasGoneOn && !response.destroyed) silent(request);
          return new Answered(statusOf(response));
        },
      );
      if (answer) send(request, response, answer);
    } catch (error) {
      next(error);
    }
  };
}

/** Of an answer that somebody else gives; it is known when all of it is sent, or nobody waits for it any longer. */
function statusOf(response: Response): Promise<number | undefined> {
  return new Promise((resolve) => {
    const done = () => resolve(response.headersSent ? response.statusCode : undefined);
    if (response.closed) done();
    else response.once('close', done);
  });
}

const SILENT = new WeakSet<object>();

/** Nobody answers, and the sender waits: said once for each route, since an answer may still come later. */
function silent(request: Request): void {
  const route: unknown = request.route;
  if (typeof route !== 'object' || route === null || SILENT.has(route)) return;
  SILENT.add(route);
  process.emitWarning(
    `The handler of ${request.method} ${(route as { path?: unknown }).path ?? request.path} has returned nothing and answered nothing; return { status, location, body }, or await what answers.`,
    { type: 'JestrilWarning', code: 'UNANSWERED' },
  );
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

/** As it was declared, with where its router stands. */
function routeOf({ route, baseUrl, path }: Request): string {
  const declared: unknown = (route as { readonly path?: unknown } | undefined)?.path;
  return `${baseUrl}${typeof declared === 'string' ? declared : path}`;
}

function queryOf(url: string): string {
  const mark = url.indexOf('?');
  return mark < 0 ? '' : url.slice(mark + 1);
}

function headerOf(value: string | readonly string[] | undefined): string | undefined {
  return typeof value === 'string' ? value : value?.join(', ');
}

/** Milliseconds for which what still comes of a refused body is let go, so that the answer arrives. */
const LINGERS = 2000;

function send(request: IncomingMessage, response: ServerResponse, { status, headers, body }: Answer): void {
  if (response.headersSent || response.destroyed) return;
  response.statusCode = status;
  for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
  if (!request.complete) {
    // A body that was not read to its end must not be taken for the next request.
    response.setHeader('connection', 'close');
    request.resume();
    const timer = setTimeout(() => request.destroy(), LINGERS);
    request.once('close', () => clearTimeout(timer));
  }
  response.end(request.method === 'HEAD' ? undefined : body);
}

async function bodyOf(request: Request, limits: Required<Limits>, keeping: Keeping | undefined): Promise<ReadPart> {
  const { headers } = request;
  const type = headers['content-type'];
  const length = headers['transfer-encoding'] === undefined ? Number(headers['content-length'] ?? 0) : undefined;
  if (request.body !== undefined && request.complete) return parsedPart(request.body, type, limits);
  if (request.readableEnded && length !== 0)
    throw new Error(
      'The body has been read before `receive`, and nothing of it is in request.body; put `receive` first, or a parser that leaves it there.',
    );
  return readBody({ type, encoding: headers['content-encoding'], length, open: () => new MessageBytes(request) }, limits, keeping);
}

/** The bytes of a request of Node's own server. */
class MessageBytes implements ByteSource {
  readonly #request: IncomingMessage;
  readonly #chunks: AsyncIterator<Uint8Array>;

  constructor(request: IncomingMessage) {
    this.#request = request;
    // Whoever stops reading still wants to answer.
    this.#chunks = request.iterator({ destroyOnReturn: false })[Symbol.asyncIterator]();
  }

  async next(): Promise<Uint8Array | undefined> {
    const { done, value } = await this.#chunks.next();
    if (done && !this.#request.complete) throw new Error('The body broke off.');
    return done ? undefined : value;
  }

  stop(): void {
    this.#chunks.return?.().catch(() => undefined);
  }
}
