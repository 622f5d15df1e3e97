import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import { STDIN } from '../basics/context.ts';
import { Misuse } from '../basics/misuse.ts';
import { isAddress, openAddress } from './http-in.ts';

/** What is read from, and how much of it there is. */
export interface Opened {
  readonly name: string;
  /** Its bytes, where that is known beforehand. */
  readonly size: number | undefined;
  readonly stream: Readable;
}

/** Bytes read at a time: what is cut into rows should be large. */
const AT_ONCE = 500_000;

/** Opens a file, a pipe with a name, what is at an address, or standard input. */
export async function open(path: string, stdin: Readable, atOnce = AT_ONCE): Promise<Opened> {
  if (isAddress(path)) return openAddress(path);
  if (path === STDIN) return { name: 'standard input', size: undefined, stream: stdin };
  const found = await stat(path).catch(() => undefined);
  if (!found) throw new Misuse(`There is no file ${path}.`);
  if (found.isDirectory()) throw new Misuse(`${path} is a folder; name the files in it.`);
  return { name: path, size: found.isFile() ? found.size : undefined, stream: createReadStream(path, { highWaterMark: atOnce }) };
}

/** Bytes that are no text of the encoding. */
export class NotText extends Error {
  override readonly name = 'NotText';
}

/** The bytes of a stream; those of what is compressed (RFC 1952) as they were before, whatever it is called. */
async function* plainIn(stream: Readable, read: (bytes: number) => void): AsyncGenerator<Buffer> {
  const chunks = stream[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
  const next = async () => {
    const { value, done } = await chunks.next();
    if (!done) read(value.length);
    return done ? undefined : value;
  };
  let head: Buffer = Buffer.alloc(0);
  while (head.length < 2) {
    const chunk = await next();
    if (!chunk) break;
    head = Buffer.concat([head, chunk]);
  }
  const all = async function* () {
    if (head.length > 0) yield head;
    for (let chunk = await next(); chunk; chunk = await next()) yield chunk;
  };
  if (!isCompressed(head)) return yield* all();
  const plain = Readable.from(all()).pipe(createGunzip());
  try {
    for await (const chunk of plain) yield chunk as Buffer;
  } catch (cause) {
    throw new NotText(`something that is not sound gzip (${(cause as Error).message})`);
  }
}

/** Whether bytes begin as those that gzip has made. */
export function isCompressed([first, second]: Uint8Array): boolean {
  return first === 0x1f && second === 0x8b;
}

/**
 * The text of a stream as it comes: UTF-8, or UTF-16 where a byte order mark says so. The mark is no part of the text.
 *
 * @param read told how many bytes were read
 * @throws NotText after the text before, where bytes are not of the encoding
 */
export async function* textIn(stream: Readable, read: (bytes: number) => void = () => undefined): AsyncGenerator<string> {
  let decoder: TextDecoder | undefined;
  let held: Buffer = Buffer.alloc(0);
  for await (const bytes of plainIn(stream, read)) {
    const next: Buffer = held.length > 0 ? Buffer.concat([held, bytes]) : bytes;
    // A mark takes two bytes or three.
    if (!decoder && next.length < 3) {
      held = next;
      continue;
    }
    held = Buffer.alloc(0);
    decoder ??= decoderFor(next);
    yield* decoded(decoder, next);
  }
  decoder ??= decoderFor(held);
  yield* decoded(decoder, held, true);
}

function decoderFor(bytes: Buffer): TextDecoder {
  const [first, second] = bytes;
  const encoding = first === 0xff && second === 0xfe ? 'utf-16le' : first === 0xfe && second === 0xff ? 'utf-16be' : 'utf-8';
  return new TextDecoder(encoding, { fatal: true });
}

function* decoded(decoder: TextDecoder, bytes: Buffer, isEnd = false): Generator<string> {
  try {
    const text = decoder.decode(bytes, { stream: !isEnd });
    if (text !== '') yield text;
  } catch {
    const whole = wholeBefore(decoder.encoding, bytes);
    if (whole !== '') yield whole;
    throw new NotText(decoder.encoding === 'utf-8' ? 'bytes that are not UTF-8' : 'bytes that are not UTF-16');
  }
}

/** The text before the first byte that is none. */
function wholeBefore(encoding: string, bytes: Buffer): string {
  const text = new TextDecoder(encoding).decode(bytes);
  const at = text.indexOf('\ufffd');
  return at < 0 ? '' : text.slice(0, at);
}

/**
 * The bytes of a stream as UTF-8: as they come, or made of UTF-16 where a byte order mark says so. The mark is no part of them.
 *
 * @param read told how many bytes were read
 * @throws NotText where what should be UTF-16 is none; whether UTF-8 is sound shows where it is read
 */
export async function* utf8In(stream: Readable, read: (bytes: number) => void = () => undefined): AsyncGenerator<Uint8Array> {
  let decoder: TextDecoder | undefined;
  let held: Buffer | undefined = Buffer.alloc(0);
  for await (const bytes of plainIn(stream, read)) {
    if (held) {
      const next: Buffer = held.length > 0 ? Buffer.concat([held, bytes]) : bytes;
      held = next;
      // A mark takes two bytes or three.
      if (next.length < 3) continue;
      held = undefined;
      decoder = decoderFor(next);
      yield* encoded(decoder, next, true);
    } else yield* encoded(decoder as TextDecoder, bytes);
  }
  if (held) yield* encoded(decoderFor(held), held, true);
  if (decoder && decoder.encoding !== 'utf-8') yield* encoded(decoder, Buffer.alloc(0), false, true);
}

function* encoded(decoder: TextDecoder, bytes: Buffer, isStart = false, isEnd = false): Generator<Uint8Array> {
  if (decoder.encoding === 'utf-8') {
    const hasMark = isStart && bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf;
    if (bytes.length > (hasMark ? 3 : 0)) yield hasMark ? bytes.subarray(3) : bytes;
    return;
  }
  for (const text of decoded(decoder, bytes, isEnd)) yield Buffer.from(text);
}
