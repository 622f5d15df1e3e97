import { parseCookie } from 'cookie';
import { fault } from '../core/basics/fault.ts';
import type { Verdict } from '../core/basics/verdict.ts';
import { readBody } from './receive/body.ts';
import { type Limits, limitsOf, parseJson } from './receive/json.ts';
import type { Answer, Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { type Problem, sentFinding, titleIn } from './receive/problem.ts';
import { Receiver } from './receive/reception.ts';
import type { ByteSource } from './receive/source.ts';

export type { Limits } from './receive/json.ts';
export type { Answer, Done, Received, ReceiveOptions, SentHeaders, Storing } from './receive/options.ts';
export { type Problem, type ProblemKind, Unreadable } from './receive/problem.ts';

// What stands between a request and its handler, for servers that are none of Express and the Fetch standard.

/** A request, whatever has brought it. */
export interface PlainRequest {
  readonly method: string;
  /** Path and query, as they came. */
  readonly url: string;
  /** By lower-case name. */
  readonly headers: { readonly [name: string]: string | undefined };
  /** All of the body, or its bytes as they come. */
  readonly body?: string | Uint8Array | AsyncIterable<Uint8Array>;
  /** The parameters of the path. */
  readonly params?: { readonly [name: string]: string };
  readonly signal?: AbortSignal;
}

type Handler<P, C, S> = (value: ReceivedOf<P>, received: Received<PlainRequest, C, S>) => Promise<Done | undefined> | Done | undefined;

/**
 * Puts intakes in front of a handler, whatever the server is: it takes a request and gives what is to be answered. Errors that are no
 * lost race are thrown on.
 *
 * @param parts one intake for the body of POST, PUT and PATCH, or one for each part of the request
 */
export function receive<P extends Receivable, C = undefined, T = undefined, S = undefined>(
  parts: P,
  options: OptionsFor<P, PlainRequest, C, T, S>,
  handler: Handler<P, C, S>,
): (request: PlainRequest) => Promise<Answer> {
  const receiver = new Receiver<PlainRequest, C>(parts, options as ReceiveOptions<PlainRequest, C>);
  return async (request) => {
    const { headers, url } = request;
    const mark = url.indexOf('?');
    const answer = await receiver.answer(
      {
        request,
        method: request.method.toUpperCase(),
        query: mark < 0 ? '' : url.slice(mark + 1),
        params: request.params ?? {},
        header: (name) => headers[name],
        headers: () => Object.fromEntries(Object.entries(headers).flatMap(([name, value]) => (value === undefined ? [] : [[name, value]]))),
        cookies: () => parseCookie(headers.cookie ?? ''),
        path: () => url,
        host: () => headers.host,
        body: (limits, keeping) => {
          const open = () => new Plain(request.body);
          return readBody(
            { type: headers['content-type'], encoding: headers['content-encoding'], length: lengthOf(request), open },
            limits,
            keeping,
          );
        },
        signal: () => request.signal ?? new AbortController().signal,
      },
      async (value, received) => (await handler(value as ReceivedOf<P>, received as Received<PlainRequest, C, S>)) ?? {},
    );
    return answer as Answer;
  };
}

function lengthOf({ body, headers }: PlainRequest): number | undefined {
  if (body === undefined) return 0;
  if (typeof body === 'string') return new TextEncoder().encode(body).length;
  if (body instanceof Uint8Array) return body.length;
  const told = headers['content-length'];
  return told === undefined || !/^\d{1,15}$/.test(told) ? undefined : Number(told);
}

class Plain implements ByteSource {
  readonly #chunks: AsyncIterator<Uint8Array> | Iterator<Uint8Array>;

  constructor(body: PlainRequest['body']) {
    this.#chunks = chunksOf(body);
  }

  async next(): Promise<Uint8Array | undefined> {
    const { done, value } = await this.#chunks.next();
    return done ? undefined : value;
  }

  stop(): void {
    // Whoever stops reading still wants to answer: the body is let go by who has it.
  }
}

function chunksOf(body: PlainRequest['body']): AsyncIterator<Uint8Array> | Iterator<Uint8Array> {
  if (body === undefined) return [][Symbol.iterator]();
  if (typeof body === 'string') return [new TextEncoder().encode(body)][Symbol.iterator]();
  return body instanceof Uint8Array ? [body][Symbol.iterator]() : body[Symbol.asyncIterator]();
}

/**
 * Reads JSON as `receive` does: within limits, and without a member that stands twice (RFC 7493).
 *
 * @throws Unreadable with the status that says why
 */
export function strictJson(text: string, limits: Limits = {}): unknown {
  return parseJson(text, limitsOf(limits));
}

/** A verdict that is not acceptance as problem details (RFC 9457). */
export function problemOf(
  verdict: Exclude<Verdict<unknown>, { readonly outcome: 'accepted' }>,
  { locale = 'en', findings = 'compact' }: { readonly locale?: string; readonly findings?: 'compact' | 'full' } = {},
): Problem {
  if ((verdict.outcome as string) === 'accepted') fault('problemOf tells what is wrong, and this verdict is accepted.');
  const isRejected = verdict.outcome === 'rejected';
  return {
    type: 'about:blank',
    title: titleIn(locale, verdict.outcome),
    status: isRejected ? 422 : 503,
    ...(isRejected && { findings: verdict.findings.map((finding) => sentFinding(finding, findings === 'full')) }),
    ...(isRejected && verdict.more && { more: true as const }),
  };
}
