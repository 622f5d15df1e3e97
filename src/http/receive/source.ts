import type { Limits } from './json.ts';
import { Unreadable } from './problem.ts';

/** Milliseconds in all, milliseconds without a word, and bytes for which a body that was refused is read on. */
const [LINGERS, QUIET, DRAINED] = [2000, 400, 16_000_000];

/** Lets a refused body go for a while, so that a sender that still writes reads the answer. */
export class Letting {
  /** Nobody writes any longer, or nobody waits for it. */
  readonly ended: Promise<void>;
  readonly done: () => void;
  readonly #last: ReturnType<typeof setTimeout>;
  #quiet: ReturnType<typeof setTimeout> | undefined;
  #left = DRAINED;

  constructor() {
    let resolve: () => void = () => undefined;
    this.ended = new Promise((done) => {
      resolve = done;
    });
    this.done = () => {
      clearTimeout(this.#last);
      clearTimeout(this.#quiet);
      resolve();
    };
    this.#last = setTimeout(this.done, LINGERS);
    this.took(0);
  }

  took(bytes: number): void {
    this.#left -= bytes;
    clearTimeout(this.#quiet);
    if (this.#left < 0) this.done();
    else this.#quiet = setTimeout(this.done, QUIET);
  }
}

/** The bytes of a body, whatever the server. */
export interface ByteSource {
  /** The next bytes; `undefined` at the end. Rejects when the body breaks off. */
  next(): Promise<Uint8Array | undefined>;
  /** Nothing more is wanted. */
  stop(): void;
}

/** A body as its door has it. */
export interface IncomingBody {
  readonly type: string | undefined;
  readonly encoding: string | undefined;
  /** As the header tells it; `undefined` where it does not. */
  readonly length: number | undefined;
  readonly open: () => ByteSource;
  /** All of it, where the door has a faster way for a body of a known length. */
  readonly whole?: () => Promise<Uint8Array>;
}

/** Takes bytes as they come, until the end, a limit, or the last moment. Whatever goes wrong, the source is stopped. */
export async function readAll(
  source: ByteSource,
  limits: Required<Limits>,
  take: (bytes: Uint8Array) => undefined | Promise<void>,
): Promise<void> {
  let isOver = false;
  const read = async () => {
    for (;;) {
      const bytes = await source.next().catch(brokenOff);
      if (bytes === undefined || isOver) return;
      const taking = take(bytes);
      if (taking) await taking;
    }
  };
  try {
    await inTime(read(), limits);
  } catch (error) {
    isOver = true;
    source.stop();
    throw error;
  }
}

/** The whole of a body that carries no files. */
export async function bytesOf(body: IncomingBody, limits: Required<Limits>): Promise<Uint8Array> {
  const most = limits.bytes;
  if (body.whole && body.length !== undefined && body.length <= most) {
    const bytes = await inTime(body.whole().catch(brokenOff), limits);
    if (bytes.length > most) throw tooLarge(most);
    return bytes;
  }
  const source = body.open();
  if ((body.length ?? 0) > most) {
    source.stop();
    throw tooLarge(most);
  }
  const chunks: Uint8Array[] = [];
  let size = 0;
  await readAll(source, limits, (bytes) => {
    size += bytes.length;
    if (size > most) throw tooLarge(most);
    chunks.push(bytes);
    return undefined;
  });
  return joined(chunks);
}

function inTime<T>(reading: Promise<T>, { seconds }: Required<Limits>): Promise<T> {
  return new Promise((resolve, reject) => {
    const late = () => reject(new Unreadable(408, `The body took longer than ${seconds} seconds.`));
    const timer = setTimeout(late, seconds * 1000);
    reading.then(
      (value) => {
        clearTimeout(timer);
        resolve(value);
      },
      (error) => {
        clearTimeout(timer);
        reject(error);
      },
    );
  });
}

function brokenOff(): never {
  throw new Unreadable(400, 'The body broke off.');
}

/** The bytes of all chunks: a `Uint8Array` and none of the kinds that servers make of it, however many chunks there were. */
export function joined(chunks: readonly Uint8Array[]): Uint8Array {
  const [only] = chunks;
  if (only && chunks.length === 1) return new Uint8Array(only.buffer, only.byteOffset, only.byteLength);
  const bytes = new Uint8Array(chunks.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const chunk of chunks) {
    bytes.set(chunk, at);
    at += chunk.length;
  }
  return bytes;
}

export function tooLarge(bytes: number): Unreadable {
  return new Unreadable(413, `The body is larger than ${bytes.toLocaleString('en')} bytes.`);
}

export function filesTooLarge(bytes: number): Unreadable {
  return new Unreadable(413, `The files are larger than ${bytes.toLocaleString('en')} bytes.`);
}
