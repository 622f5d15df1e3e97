import { Readable } from 'node:stream';
import { Misuse } from '../basics/misuse.ts';
import { withoutPassword } from '../databases/address.ts';

/** Times that a source that breaks off is asked to go on. */
const TRIES = 5;
/** Milliseconds before the first of them; twice as long before each further one. */
const PAUSE = 500;

export function isAddress(text: string): boolean {
  return /^https?:\/\//i.test(text);
}

/** What a source is called: a path, without what says that it is compressed. */
export function titleOf(named: string): string {
  const path = isAddress(named) ? new URL(named).pathname : named;
  return path.endsWith('.gz') ? path.slice(0, -3) : path;
}

/**
 * The bytes at an address (RFC 9110). Where they break off, the rest is asked for (`Range`), as long as it is the same (`If-Range`).
 *
 * @throws Misuse where nothing is there, or it cannot be gone on with
 */
export async function openAddress(
  address: string,
): Promise<{ readonly name: string; readonly size: number | undefined; readonly stream: Readable }> {
  const name = withoutPassword(address);
  const url = new URL(address);
  const sent: Record<string, string> = { 'accept-encoding': 'identity' };
  if (url.username !== '')
    sent.authorization = `Basic ${Buffer.from(`${decodeURIComponent(url.username)}:${decodeURIComponent(url.password)}`).toString('base64')}`;
  url.username = '';
  url.password = '';
  const ask = async (more: Record<string, string> = {}) => {
    try {
      return await fetch(url, { headers: { ...sent, ...more } });
    } catch (cause) {
      const { message, cause: inner } = cause as {
        readonly message: string;
        readonly cause?: { readonly code?: string; readonly message?: string };
      };
      throw new Misuse(`${name} cannot be read: ${inner?.code ?? inner?.message ?? message}.`);
    }
  };
  const first = await ask();
  if (!first.ok || !first.body) throw new Misuse(`${name} cannot be read: ${first.status} ${first.statusText}.`);
  const length = Number(first.headers.get('content-length') ?? Number.NaN);
  const size = Number.isInteger(length) ? length : undefined;
  return { name, size, stream: Readable.from(bytesOf(first, ask, name, size), { objectMode: false }) };
}

async function* bytesOf(
  first: Response,
  ask: (more: Record<string, string>) => Promise<Response>,
  name: string,
  size: number | undefined,
): AsyncGenerator<Uint8Array> {
  // A weak tag does not promise the same bytes.
  const tag = first.headers.get('etag');
  const version = tag?.startsWith('"') ? tag : first.headers.get('last-modified');
  let response = first;
  let at = 0;
  for (let tries = 0; ; tries++) {
    try {
      for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
        at += chunk.length;
        yield chunk;
        tries = 0;
      }
      if (size === undefined || at >= size) return;
    } catch (cause) {
      if (version === null || tries >= TRIES) throw brokenOff(name, at, cause);
    }
    if (version === null || tries >= TRIES) throw brokenOff(name, at);
    await new Promise((resolve) => setTimeout(resolve, PAUSE * 2 ** tries));
    const next = await ask({ range: `bytes=${at}-`, 'if-range': version }).catch(() => undefined);
    if (next?.status === 206) response = next;
    else if (next?.ok) throw new Misuse(`${name} broke off, and is not what it was by now; begin again.`);
  }
}

function brokenOff(name: string, at: number, cause?: unknown): Misuse {
  return new Misuse(`${name} broke off behind ${at.toLocaleString('en')} bytes.`, { cause });
}
