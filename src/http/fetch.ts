import { parseCookie } from 'cookie';
import { readBody } from './receive/body.ts';
import type { Keeping } from './receive/files.ts';
import type { ReadPart } from './receive/form-part.ts';
import { lengthIn, queryOf } from './receive/headers.ts';
import { Answered, type Incoming } from './receive/incoming.ts';
import type { Limits } from './receive/json.ts';
import type { Answer, Done, OptionsFor, Receivable, Received, ReceivedOf, ReceiveOptions } from './receive/options.ts';
import { Receiver } from './receive/reception.ts';
import { type ByteSource, Letting } from './receive/source.ts';

export type { FileStore, IncomingFile } from './receive/files.ts';
export type { Limits } from './receive/json.ts';
export type { LogAbout, LogEntry } from './receive/log-entry.ts';
export type { About, Amends, Answer, Done, PartIntakes, Received, ReceiveOptions, ShownAgain, Storing } from './receive/options.ts';
export type { Problem, ProblemKind, SentFinding } from './receive/problem.ts';

/**
 * Puts intakes in front of a handler of Fetch-standard requests (Hono, workers, any framework built on `Request`):
 * `app.post('/bookings', (c) => handle(c.req.raw, c.req.param()))`. The handler runs with accepted, typed data only, and
 * returns a `Response`, or what is `Done`. An error that is no lost race is thrown on.
 *
 * @param parts one intake for the body of POST, PUT and PATCH, or one for each part of the request
 */
export function receive<P extends Receivable, C = undefined, T = undefined, S = undefined>(
  parts: P,
  options: OptionsFor<P, Request, C, T, S>,
  // biome-ignore lint/suspicious/noConfusingVoidType: a handler that answers by itself returns nothing
  handler: (value: ReceivedOf<P>, received: Received<Request, C, S>) => Promise<Response | Done | void> | Response | Done | void,
): (request: Request, params?: { readonly [name: string]: string }) => Promise<Response> {
  const receiver = new Receiver<Request, C>(parts, options as ReceiveOptions<Request, C>);
  return async function received(request, params = {}) {
    let own: Response | undefined;
    const incoming = new FetchIncoming(request, params);
    const answer = await receiver.answer(incoming, async (value, told) => {
      const done = await handler(value as ReceivedOf<P>, told as Received<Request, C, S>);
      if (!(done instanceof Response)) return done ?? {};
      own = done;
      return new Answered(done.status);
    });
    return own ?? responseOf(answer as Answer, incoming);
  };
}

class FetchIncoming implements Incoming<Request> {
  readonly method: string;
  /** Of a body that was refused: its sender has come to its end. */
  ending: Promise<void> | undefined;

  constructor(
    readonly request: Request,
    readonly params: { readonly [name: string]: string },
  ) {
    this.method = request.method;
  }
  get query(): string {
    return queryOf(this.request.url);
  }
  header(name: string): string | undefined {
    return this.request.headers.get(name) ?? undefined;
  }
  headers(): { readonly [name: string]: string } {
    return Object.fromEntries(this.request.headers);
  }
  cookies(): { readonly [name: string]: string | undefined } {
    return parseCookie(this.request.headers.get('cookie') ?? '');
  }
  path(): string {
    return pathOf(this.request.url);
  }
  route(): string {
    return pathOf(this.request.url);
  }
  host(): string | undefined {
    return hostOf(this.request);
  }
  async body(limits: Required<Limits>, keeping: Keeping | undefined): Promise<ReadPart> {
    const { request } = this;
    const { headers } = request;
    const told = headers.get('content-length');
    const type = headers.get('content-type') ?? undefined;
    // Looking at `body` costs more than reading a body whose length is known.
    const length = told !== null ? lengthIn(told) : headers.get('transfer-encoding') === null && request.body === null ? 0 : undefined;
    if (length !== 0 && request.bodyUsed)
      throw new TypeError('The body of the request has been read already; hand `receive` the request as it came.');
    const body = {
      type,
      encoding: headers.get('content-encoding') ?? undefined,
      length,
      open: () =>
        new RequestBytes(request, (ending) => {
          this.ending = ending;
        }),
      whole: async () => new Uint8Array(await request.arrayBuffer()),
    };
    return readBody(body, limits, keeping);
  }
  signal(): AbortSignal {
    return this.request.signal;
  }
}

/** Statuses of which the Fetch standard wants a body that is null. */
const BODILESS = [204, 205, 304];

function responseOf({ status, headers, body }: Answer, { method, ending }: FetchIncoming): Response {
  const isBodiless = BODILESS.includes(status) || body === '' || method === 'HEAD';
  if (ending && !isBodiless) return new Response(lingering(body, ending), { status, headers: headersOf(headers) });
  return new Response(isBodiless ? null : body, { status, headers: headersOf(headers) });
}

/** A plain object where that will do: servers have a faster way for it. */
function headersOf(headers: Answer['headers']): Headers | Record<string, string> {
  let isPlain = true;
  for (const name in headers) isPlain &&= typeof headers[name] === 'string';
  if (isPlain) return headers as Record<string, string>;
  const sent = new Headers();
  for (const [name, value] of Object.entries(headers)) for (const each of [value].flat()) sent.append(name, each);
  return sent;
}

function pathOf(url: string): string {
  return URL.canParse(url) ? new URL(url).pathname : '/';
}

function hostOf(request: Request): string | undefined {
  return request.headers.get('host') ?? (URL.canParse(request.url) ? new URL(request.url).host : undefined);
}

/** The bytes of a request of the Fetch standard. */
class RequestBytes implements ByteSource {
  readonly #reader: ReadableStreamDefaultReader<Uint8Array> | undefined;
  readonly #stopped: (ending: Promise<void>) => void;

  constructor(request: Request, stopped: (ending: Promise<void>) => void) {
    this.#stopped = stopped;
    this.#reader = request.body?.getReader();
  }

  async next(): Promise<Uint8Array | undefined> {
    return (await this.#reader?.read())?.value;
  }

  stop(): void {
    if (this.#reader) this.#stopped(drained(this.#reader));
  }
}

/** What still comes of a refused body is let go, for a while. */
async function drained(reader: ReadableStreamDefaultReader<Uint8Array>): Promise<void> {
  const letting = new Letting();
  const read = async () => {
    for (let next = await reader.read(); !next.done; next = await reader.read()) letting.took(next.value.length);
  };
  read().then(letting.done, letting.done);
  await letting.ended;
  reader.cancel().catch(() => undefined);
}

/** All of the text at once, and its end when the sender has come to its own. */
function lingering(text: string, ending: Promise<void>): ReadableStream<Uint8Array> {
  return new ReadableStream({
    async start(controller) {
      controller.enqueue(new TextEncoder().encode(text));
      await ending;
      controller.close();
    },
  });
}
