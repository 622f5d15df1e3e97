import { parseCookie } from 'cookie';
import { fault } from '../core/basics/fault.ts';
import type { Verdict } from '../core/basics/verdict.ts';
import { readBody } from './receive/body.ts';
import type { Keeping } from './receive/files.ts';
import type { ReadPart } from './receive/form-part.ts';
import { lengthIn, queryOf } from './receive/headers.ts';
import { type Limits, limitsOf, parseJson } from './receive/json.ts';
import type { Answer, Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { parsedPart } from './receive/parsed.ts';
import { type Problem, sentFinding, titleIn } from './receive/problem.ts';
import { Receiver } from './receive/reception.ts';
import type { ByteSource } from './receive/source.ts';

export type { Limits } from './receive/json.ts';
export type { LogAbout, LogEntry } from './receive/log-entry.ts';
export type { Answer, Done, Received, ReceiveOptions, SentHeaders, Storing } from './receive/options.ts';
export { type Problem, type ProblemKind, Unreadable } from './receive/problem.ts';

// What stands between a request and its handler, for servers that are none of Express and the Fetch standard.

/** A request, whatever has brought it. */
export interface SentRequest extends Omit<PlainRequest, 'headers'> {
  /** By name, in any case; `null` and `undefined` are none. Of HTTP/2, `:authority` stands for the host. */
  readonly headers: Iterable<readonly [string, string]> | { readonly [name: string]: string | readonly string[] | null | undefined };
}

/** A request as handlers and options see it. */
export interface PlainRequest {
  readonly method: string;
  /** Path and query, as they came. */
  readonly url: string;
  /** By lower-case name; of several with one name, one text. */
  readonly headers: { readonly [name: string]: string | undefined };
  /** All of the body, or its bytes as they come. */
  readonly body?: string | Uint8Array | AsyncIterable<Uint8Array> | null;
  /** What a body parser has made of the body, instead of the body: an object, a text, bytes. */
  readonly parsed?: unknown;
  /** The parameters of the path. */
  readonly params?: { readonly [name: string]: string };
  /** As the router has it (`/bookings/:id`), for the log. Defaults to the path. */
  readonly route?: string;
  readonly signal?: AbortSignal;
  /** What the server itself has brought, for handlers: an event, a context. */
  readonly source?: unknown;
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
): (request: SentRequest) => Promise<Answer> {
  const receiver = new Receiver<PlainRequest, C>(parts, options as ReceiveOptions<PlainRequest, C>);
  return async (sent) => {
    const { url } = sent;
    const headers = headersOf(sent);
    const request: PlainRequest = { ...sent, headers: Object.fromEntries(headers) };
    const answer = await receiver.answer(
      {
        request,
        method: request.method.toUpperCase(),
        query: queryOf(url),
        params: request.params ?? {},
        header: (name) => headers.get(name),
        headers: () => Object.fromEntries(headers),
        cookies: () => parseCookie(headers.get('cookie') ?? ''),
        path: () => url,
        route: () => request.route ?? url.split('?', 1)[0] ?? '',
        host: () => headers.get('host') ?? headers.get(':authority'),
        body: (limits, keeping) => bodyOf(request, headers, limits, keeping),
        signal: () => request.signal ?? new AbortController().signal,
      },
      async (value, received) => (await handler(value as ReceivedOf<P>, received as Received<PlainRequest, C, S>)) ?? {},
    );
    return answer as Answer;
  };
}

/** Headers by lower-case name; of several, one text (RFC 9110, 5.3). */
function headersOf({ headers }: SentRequest): Map<string, string> {
  const pairs = Symbol.iterator in headers ? [...(headers as Iterable<readonly [string, string]>)] : Object.entries(headers);
  const known = new Map<string, string>();
  for (const [name, value] of pairs) {
    const key = name.toLowerCase();
    const text = [known.get(key) ?? [], value ?? []].flat().join(key === 'cookie' ? '; ' : ', ');
    if (value !== undefined && value !== null) known.set(key, text);
  }
  return known;
}

async function bodyOf(
  { body, parsed }: PlainRequest,
  headers: ReadonlyMap<string, string>,
  limits: Required<Limits>,
  keeping: Keeping | undefined,
): Promise<ReadPart> {
  const type = headers.get('content-type');
  if (parsed !== undefined) return parsedPart(parsed, type, limits);
  const known = typeof body === 'string' ? new TextEncoder().encode(body) : (body ?? new Uint8Array());
  const length = known instanceof Uint8Array ? known.length : lengthIn(headers.get('content-length'));
  return readBody({ type, encoding: headers.get('content-encoding'), length, open: () => new Plain(known) }, limits, keeping);
}

class Plain implements ByteSource {
  readonly #chunks: AsyncIterator<Uint8Array> | Iterator<Uint8Array>;

  constructor(body: Uint8Array | AsyncIterable<Uint8Array>) {
    this.#chunks = body instanceof Uint8Array ? [body][Symbol.iterator]() : body[Symbol.asyncIterator]();
  }

  async next(): Promise<Uint8Array | undefined> {
    const { done, value } = await this.#chunks.next();
    return done ? undefined : value;
  }

  stop(): void {
    // Whoever stops reading still wants to answer: the body is let go by who has it.
  }
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
