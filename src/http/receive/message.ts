import type { IncomingMessage, ServerResponse } from 'node:http';
import type { Http2ServerRequest, Http2ServerResponse } from 'node:http2';
import { parseCookie } from 'cookie';
import { readBody } from './body.ts';
import type { Keeping } from './files.ts';
import type { ReadPart } from './form-part.ts';
import { queryOf } from './headers.ts';
import type { Incoming } from './incoming.ts';
import type { Limits } from './json.ts';
import type { Answer } from './options.ts';
import { parsedPart } from './parsed.ts';
import { type ByteSource, joined, Letting } from './source.ts';

// Requests and responses of Node's own servers, of HTTP/1.1 and of HTTP/2.

/** A request of a server of `node:http`, `node:https` or `node:http2`. */
export type NodeRequest = IncomingMessage | Http2ServerRequest;
/** A response of such a server. */
export type NodeResponse = ServerResponse | Http2ServerResponse;

/** What a router and the parsers before this have found. */
export interface Found {
  /** Path and query, where a router has cut them. */
  readonly url?: string;
  readonly params?: { readonly [name: string]: string };
  /** What a body parser has made of the body. */
  readonly parsed?: unknown;
  /** The address as it was declared (`/stays/:id`), for the log. */
  readonly route?: () => string;
}

export function incomingOf<Q extends NodeRequest>(
  request: Q,
  response: NodeResponse,
  { params = {}, parsed, ...found }: Found,
): Incoming<Q> {
  const url = found.url ?? request.url ?? '';
  const gone = new Gone(response);
  const header = (name: string) => headerOf(request.headers[name]);
  return {
    request,
    method: request.method ?? '',
    query: queryOf(url),
    params,
    header,
    headers: () =>
      Object.fromEntries(
        Object.entries(request.headers).flatMap(([name, value]) => (name.startsWith(':') ? [] : [[name, headerOf(value) ?? '']])),
      ),
    cookies: () => parseCookie(request.headers.cookie ?? ''),
    path: () => url,
    route: found.route ?? (() => url.split('?', 1)[0] as string),
    host: () => header('host') ?? header(':authority'),
    body: (limits, keeping) => bodyOf(request, parsed, limits, keeping),
    signal: () => gone.signal,
  };
}

/** Of an answer that somebody else gives; it is known when all of it is sent, or nobody waits for it any longer. */
export function statusOf(response: NodeResponse): Promise<number | undefined> {
  return new Promise((resolve) => {
    const done = () => resolve(response.headersSent ? response.statusCode : undefined);
    if (isClosed(response)) done();
    else response.once('close', done);
  });
}

/** A signal for a sender that goes away before it has its answer; made for those who ask, since most requests need none. */
class Gone {
  readonly #response: NodeResponse;
  #signal: AbortSignal | undefined;

  constructor(response: NodeResponse) {
    this.#response = response;
  }

  get signal(): AbortSignal {
    if (this.#signal) return this.#signal;
    const controller = new AbortController();
    this.#response.once('close', () => {
      if (!isFinished(this.#response)) controller.abort(new Error('The sender is gone.'));
    });
    this.#signal = controller.signal;
    return this.#signal;
  }
}

function headerOf(value: string | readonly string[] | undefined): string | undefined {
  return typeof value === 'string' ? value : value?.join(', ');
}

export function send(request: NodeRequest, response: NodeResponse, { status, headers, body }: Answer): void {
  if (response.headersSent || isGone(response)) return;
  response.statusCode = status;
  // A connection of HTTP/2 carries other requests, too (RFC 9113, 8.2.2).
  const isShared = request.httpVersionMajor > 1;
  for (const [name, value] of Object.entries(headers)) if (!(isShared && name === 'connection')) response.setHeader(name, value);
  const text = request.method === 'HEAD' ? '' : body;
  if (request.complete) return void response.end(text);
  // A body that was not read to its end must not be taken for the next request. Whoever still writes it reads the answer meanwhile.
  if (!isShared) response.setHeader('connection', 'close');
  if (status !== 204 && status !== 304 && request.method !== 'HEAD') response.setHeader('content-length', Buffer.byteLength(text));
  if ('flushHeaders' in response) response.flushHeaders();
  if (text !== '') (response as ServerResponse).write(text);
  drained(request).then(() => response.end());
}

/** What still comes of a refused body is let go, for a while. */
function drained(request: NodeRequest): Promise<void> {
  const letting = new Letting();
  request.once('end', letting.done).once('close', letting.done);
  request.on('data', (chunk: Uint8Array) => letting.took(chunk.length));
  return letting.ended;
}

function isGone(response: NodeResponse): boolean {
  return 'stream' in response ? response.stream?.destroyed !== false : (response as ServerResponse).destroyed;
}

function isClosed(response: NodeResponse): boolean {
  return 'stream' in response ? response.stream?.closed !== false : (response as ServerResponse).closed;
}

function isFinished(response: NodeResponse): boolean {
  return 'stream' in response ? response.finished : (response as ServerResponse).writableFinished;
}

async function bodyOf(request: NodeRequest, parsed: unknown, limits: Required<Limits>, keeping: Keeping | undefined): Promise<ReadPart> {
  const { headers } = request;
  const type = headers['content-type'];
  const length = headers['transfer-encoding'] === undefined ? Number(headers['content-length'] ?? 0) : undefined;
  if (parsed !== undefined && request.complete) return parsedPart(parsed, type, limits);
  if (request.readableEnded && length !== 0)
    throw new Error(
      'The body has been read before `receive`, and nothing of it is in request.body; put `receive` first, or a parser that leaves it there.',
    );
  const open = () => new MessageBytes(request);
  return readBody({ type, encoding: headers['content-encoding'], length, open, whole: () => wholeOf(request) }, limits, keeping);
}

/** All of a body whose length is known: told by events, which cost less than to ask for each piece. */
function wholeOf(request: NodeRequest): Promise<Uint8Array> {
  return new Promise((resolve, reject) => {
    const chunks: Uint8Array[] = [];
    // Whoever left while somebody else was asked says so no more.
    if (request.destroyed) return reject(new Error('The body broke off.'));
    request.on('data', (chunk: Uint8Array) => void chunks.push(chunk));
    request.once('end', () => (request.complete ? resolve(joined(chunks)) : reject(new Error('The body broke off.'))));
    request.once('error', reject);
    request.once('close', () => reject(new Error('The body broke off.')));
  });
}

/** The bytes of a request of Node's own server. */
class MessageBytes implements ByteSource {
  readonly #request: NodeRequest;
  readonly #chunks: AsyncIterator<Uint8Array>;

  constructor(request: NodeRequest) {
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
