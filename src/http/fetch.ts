import { parse } from 'content-type';
import { parseCookie } from 'cookie';
import { filesTooLarge, formPart, jsonPart, type Read, refuseEncoding, sortOf, textOf, tooLarge, urlEncodedPart } from './receive/body.ts';
import type { Limits } from './receive/json.ts';
import type { Answer, Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { Unreadable } from './receive/problem.ts';
import { Receiver } from './receive/reception.ts';

export type { Limits } from './receive/json.ts';
export type { About, Amends, Answer, Done, PartIntakes, Received, ReceiveOptions, ShownAgain } from './receive/options.ts';
export type { LogEntry, Problem, ProblemKind, SentFinding } from './receive/problem.ts';

/**
 * Puts intakes in front of a handler of Fetch-standard requests (Hono, workers, any framework built on `Request`):
 * `app.post('/bookings', (c) => handle(c.req.raw, c.req.param()))`. The handler runs with accepted, typed data only, and
 * returns a `Response`, or what is `Done`. An error that is no lost race is thrown on.
 *
 * @param parts one intake for the body (for the query of GET and HEAD), or one for each part of the request
 */
export function receive<P extends Receivable, C = undefined>(
  parts: P,
  options: OptionsFor<P, Request, C>,
  // biome-ignore lint/suspicious/noConfusingVoidType: a handler that answers by itself returns nothing
  handler: (value: ReceivedOf<P>, received: Received<Request, C>) => Promise<Response | Done | void> | Response | Done | void,
): (request: Request, params?: { readonly [name: string]: string }) => Promise<Response> {
  const receiver = new Receiver<Request, C>(parts, options as ReceiveOptions<Request, C>);
  return async function received(request, params = {}) {
    const reception = await receiver.receive({
      request,
      method: request.method,
      query: new URL(request.url).search.slice(1),
      params,
      header: (name) => request.headers.get(name) ?? undefined,
      headers: () => Object.fromEntries(request.headers),
      cookies: () => parseCookie(request.headers.get('cookie') ?? ''),
      body: (limits) => bodyOf(request, limits),
      signal: () => request.signal,
    });
    if ('answer' in reception) return responseOf(reception.answer);
    const { value, received: told, finish } = reception;
    try {
      const done = await handler(value as ReceivedOf<P>, told);
      return done instanceof Response ? done : responseOf(await finish.done(done ?? {}));
    } catch (error) {
      const answer = await finish.failed(error);
      if (!answer) throw error;
      return responseOf(answer);
    }
  };
}

/** Statuses of which the Fetch standard wants a body that is null. */
const BODILESS = [204, 205, 304];

function responseOf({ status, headers, body }: Answer): Response {
  return new Response(BODILESS.includes(status) || body === '' ? null : body, { status, headers: { ...headers } });
}

async function bodyOf(request: Request, limits: Required<Limits>): Promise<Read> {
  const type = request.headers.get('content-type') ?? undefined;
  const sort = sortOf(type, request.body === null);
  if (sort === 'none') return { submission: {}, as: 'json' };
  refuseEncoding(request.headers.get('content-encoding') ?? undefined);
  if (request.bodyUsed) throw new TypeError('The body of the request has been read already; hand `receive` the request as it came.');
  if (sort === 'multipart') return multipart(request, type as string, limits);
  const text = textOf(await bytesOf(request, limits.bytes));
  return sort === 'json' ? jsonPart(text, limits) : urlEncodedPart(text, limits);
}

/** Reads a body to its end, or to the limit. */
async function bytesOf(request: Request, most: number): Promise<Uint8Array<ArrayBuffer>> {
  if (Number(request.headers.get('content-length') ?? 0) > most) {
    await request.body?.cancel();
    throw tooLarge(most);
  }
  const chunks: Uint8Array[] = [];
  let size = 0;
  const reader = (request.body as ReadableStream<Uint8Array>).getReader();
  for (;;) {
    const { done, value } = await reader.read().catch(() => {
      throw new Unreadable(400, 'The body broke off.');
    });
    if (done) break;
    size += value.length;
    if (size > most) {
      await reader.cancel().catch(() => undefined);
      throw tooLarge(most);
    }
    chunks.push(value);
  }
  const bytes = new Uint8Array(size);
  let at = 0;
  for (const chunk of chunks) {
    bytes.set(chunk, at);
    at += chunk.length;
  }
  return bytes;
}

/** What the head of a part may take beside what is counted: boundary, names, type. */
const HEAD_BYTES = 1000;
const DASH = 0x2d;

/** The platform's own decoder, on a body that is within limits as a whole. */
async function multipart(request: Request, type: string, limits: Required<Limits>): Promise<Read> {
  const bytes = await bytesOf(request, limits.bytes + limits.fileBytes + limits.parts * HEAD_BYTES);
  const boundary = parse(type).parameters.boundary;
  if (boundary !== undefined && partsIn(bytes, boundary, limits.parts) > limits.parts)
    throw new Unreadable(413, `The body has more than ${limits.parts} parts.`);
  const form = await new Response(bytes, { headers: { 'content-type': type } }).formData().catch(() => {
    throw new Unreadable(400, 'The body is not multipart/form-data as its content type says.');
  });
  const pairs = [...form];
  let [texts, files] = [0, 0];
  for (const [, value] of pairs) {
    if (typeof value === 'string') texts += value.length;
    else files += value.size;
    if (typeof value === 'string' && value.includes('\uFFFD')) throw new Unreadable(400, 'The form is not UTF-8.');
  }
  if (texts > limits.bytes) throw tooLarge(limits.bytes);
  if (files > limits.fileBytes) throw filesTooLarge(limits.fileBytes);
  return formPart(pairs, limits);
}

/** Counts the parts before any of them is taken apart; no further than the limit. */
function partsIn(bytes: Uint8Array, boundary: string, most: number): number {
  const mark = new TextEncoder().encode(`--${boundary}`);
  let parts = -1;
  for (let at = bytes.indexOf(DASH); at >= 0 && parts <= most; at = bytes.indexOf(DASH, at + 1)) {
    if (!mark.every((byte, index) => bytes[at + index] === byte)) continue;
    parts++;
    at += mark.length - 1;
  }
  return parts;
}
