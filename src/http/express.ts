import type { NextFunction, Request, Response } from 'express';
import { Answered } from './receive/incoming.ts';
import { incomingOf, send, statusOf } from './receive/message.ts';
import type { Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { Receiver } from './receive/reception.ts';

export type { FileStore, IncomingFile } from './receive/files.ts';
export type { Limits } from './receive/json.ts';
export type { LogAbout, LogEntry } from './receive/log-entry.ts';
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
    let hasGoneOn = false;
    const onward: NextFunction = (...all: unknown[]) => {
      hasGoneOn = true;
      next(...(all as []));
    };
    try {
      const answer = await receiver.answer(
        incomingOf(request, response, {
          url: request.originalUrl,
          params: request.params as { readonly [name: string]: string },
          parsed: request.body,
          route: () => routeOf(request),
        }),
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

/** As it was declared, with where its router stands. */
function routeOf({ route, baseUrl, path }: Request): string {
  const declared: unknown = (route as { readonly path?: unknown } | undefined)?.path;
  return `${baseUrl}${typeof declared === 'string' ? declared : path}`;
}
