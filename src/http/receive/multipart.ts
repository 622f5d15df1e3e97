import type { Readable } from 'node:stream';
import busboy from 'busboy';
import { receivedFile } from '../../core/kinds/upload.ts';
import type { IncomingFile, Keeping } from './files.ts';
import { formPart, type ReadPart } from './form-part.ts';
import type { Limits } from './json.ts';
import { Late, Unreadable } from './problem.ts';
import { filesTooLarge, type IncomingBody, joined, readAll, tooLarge } from './source.ts';

/** Milliseconds for which a store is waited for that has been told that its file broke off. */
const CLEANING_UP = 1000;
/** Bytes at the beginning of a file that tell what it is. */
const HEAD = 4100;

/**
 * Reads a multipart body (RFC 7578) as it comes, within limits: `bytes` for all that is not in a file, wherever it stands, `fileBytes`
 * for what is.
 */
export function readMultipart(body: IncomingBody, limits: Required<Limits>, keeping: Keeping | undefined): Promise<ReadPart> {
  return new Multipart(body, limits, keeping).read();
}

class Multipart {
  readonly #body: IncomingBody;
  readonly #limits: Required<Limits>;
  readonly #keeping: Keeping | undefined;
  readonly #pairs: [name: string, value: unknown][] = [];
  readonly #files: Promise<void>[] = [];
  readonly #open = new Set<Readable>();
  #bytes = 0;
  #fileBytes = 0;
  /** The first thing that went wrong. */
  #wrong: unknown;
  /** Nobody waits for a store of files any longer. */
  readonly #late = new AbortController();
  /** It is a store that keeps the body from being read on. */
  #isFull = false;

  constructor(body: IncomingBody, limits: Required<Limits>, keeping: Keeping | undefined) {
    this.#body = body;
    this.#limits = limits;
    this.#keeping = keeping;
  }

  async read(): Promise<ReadPart> {
    const { bytes, fileBytes, seconds } = this.#limits;
    const parser = this.#parser();
    const timer = setTimeout(() => this.#late.abort(), seconds * 1000);
    const source = this.#body.open();
    try {
      if ((this.#body.length ?? 0) > bytes + fileBytes) {
        source.stop();
        throw filesTooLarge(fileBytes);
      }
      const closed = new Promise<void>((resolve) => parser.once('close', () => resolve()));
      await readAll(source, this.#limits, (chunk) => {
        this.#bytes += chunk.length;
        const isReady = parser.write(chunk);
        this.#check();
        return isReady ? undefined : this.#drained(parser);
      });
      parser.end();
      await closed;
      await Promise.all(this.#files);
      this.#check();
      return { ...formPart(this.#pairs, this.#limits), size: this.#bytes };
    } catch (error) {
      // A body that takes too long has a first thing that went wrong by then: its files broke off.
      const isSlow = error instanceof Unreadable && error.status === 408;
      const wrong = isSlow ? (this.#isFull ? new Late() : error) : (this.#wrong ?? error);
      this.#wrong = wrong;
      parser.destroy();
      for (const stream of this.#open) stream.destroy(wrong as Error);
      // Whoever keeps a file is told of it by its stream, and is waited for.
      const cleaning = setTimeout(() => this.#late.abort(), CLEANING_UP);
      await Promise.allSettled(this.#files);
      clearTimeout(cleaning);
      throw wrong;
    } finally {
      clearTimeout(timer);
    }
  }

  /** Stops at what has gone wrong, and at the limits. */
  #check(): void {
    const { bytes, fileBytes } = this.#limits;
    if (this.#fileBytes > fileBytes) this.#wrong ??= filesTooLarge(fileBytes);
    if (this.#bytes - this.#fileBytes > bytes) this.#wrong ??= tooLarge(bytes);
    if (this.#wrong !== undefined) throw this.#wrong;
  }

  /** The parser takes more once a file that is kept elsewhere has been read on. */
  async #drained(parser: busboy.Busboy): Promise<void> {
    this.#isFull = true;
    await new Promise<void>((resolve) => {
      const done = () => {
        this.#isFull = false;
        parser.off('drain', done).off('close', done);
        resolve();
      };
      parser.on('drain', done).on('close', done);
    });
    this.#check();
  }

  #parser(): busboy.Busboy {
    const { parts, bytes } = this.#limits;
    let parser: busboy.Busboy;
    try {
      parser = busboy({
        headers: { 'content-type': this.#body.type },
        defParamCharset: 'utf8',
        limits: { parts: parts + 1, fieldSize: bytes + 1, fileSize: Number.POSITIVE_INFINITY, headerPairs: 50 },
      });
    } catch {
      throw new Unreadable(400, 'The content type of the multipart body names no boundary.');
    }
    const fail = (error: unknown) => {
      this.#wrong ??= error;
    };
    let count = 0;
    const counted = () => {
      if (++count > parts) fail(new Unreadable(413, `The body has more than ${parts} parts.`));
    };
    parser.on('field', (name: string | undefined, value: string | undefined, { valueTruncated }) => {
      counted();
      this.#attempt(() => {
        if (value === undefined) throw new Unreadable(415, 'A part of the body is in a character set that nobody knows.');
        if (valueTruncated) throw tooLarge(bytes);
        this.#pairs.push([named(name), utf8(value)]);
      });
    });
    parser.on('file', (name: string | undefined, stream, { filename, mimeType }) => {
      counted();
      // A stream that nobody listens to would end the process when the body breaks off.
      stream.on('error', () => fail(new Unreadable(400, 'The body broke off.')));
      this.#attempt(() => this.#file({ field: named(name), name: unescaped(filename ?? ''), mediaType: mimeType }, stream));
    });
    for (const limit of ['partsLimit', 'filesLimit', 'fieldsLimit'] as const)
      parser.on(limit, () => fail(new Unreadable(413, `The body has more than ${parts} parts.`)));
    parser.on('error', () => fail(new Unreadable(400, 'The body is not multipart/form-data as its content type says.')));
    return parser;
  }

  #attempt(run: () => void): void {
    if (this.#wrong !== undefined) return;
    try {
      run();
    } catch (error) {
      this.#wrong = error;
    }
  }

  #file(file: IncomingFile, stream: Readable): void {
    const head: Uint8Array[] = [];
    let size = 0;
    this.#open.add(stream);
    stream.once('close', () => this.#open.delete(stream));
    // Counted as it is read, and not when somebody takes it.
    const push = stream.push.bind(stream);
    stream.push = (chunk: Uint8Array | null, ...more) => {
      if (chunk) {
        if (size < HEAD) head.push(chunk);
        size += chunk.length;
        this.#fileBytes += chunk.length;
      }
      return push(chunk, ...more);
    };
    const at = this.#pairs.push([file.field, undefined]) - 1;
    const keep = this.#keeping && file.name !== '' ? this.#keeping.keep(file, stream, this.#late.signal) : collected(stream);
    const kept = keep.then(
      (content) => {
        const { name, mediaType } = file;
        const upload = receivedFile({ name, mediaType, size, head: joined(head).subarray(0, HEAD), content });
        (this.#pairs[at] as [string, unknown])[1] = upload;
        // What was left unread is let go.
        stream.resume();
      },
      (error: unknown) => {
        this.#wrong ??= error;
        stream.resume();
      },
    );
    this.#files.push(kept);
  }
}

async function collected(stream: Readable): Promise<Uint8Array> {
  const chunks: Uint8Array[] = [];
  for await (const chunk of stream) chunks.push(chunk);
  return joined(chunks);
}

function named(name: string | undefined): string {
  if (name === undefined || name === '') throw new Unreadable(400, 'A part of the body has no name.');
  return utf8(unescaped(name));
}

/** A quote in a name as it was before a browser has written it into a header (WHATWG HTML, multipart form data). */
function unescaped(name: string): string {
  return name.replaceAll('%22', '"');
}

/** Bytes that are no UTF-8 have become question marks by now. */
function utf8(text: string): string {
  if (text.includes('\uFFFD')) throw new Unreadable(400, 'The form is not UTF-8.');
  return text;
}
