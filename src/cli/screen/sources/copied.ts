import { closeSync, existsSync, mkdirSync, openSync, readSync, statSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Readable } from 'node:stream';
import { Misuse } from '../../basics/misuse.ts';
import { OutFile } from '../../basics/out-file.ts';
import type { Format } from '../../reading/data.ts';
import { formatByName } from '../../reading/format-of.ts';
import { isAddress, titleOf } from '../../reading/http-in.ts';
import { isCompressed, NotText, open, utf8In } from '../../reading/text-in.ts';

export interface Copied {
  /** As it is told: without a password. */
  readonly name: string;
  /** The file itself, or a copy of it as UTF-8. */
  readonly path: string;
  readonly found?: { readonly size: number; readonly mtimeMs: number };
  readonly format?: Format;
}

/** What cannot be cut by bytes where it is (what is compressed, UTF-16, or at an address) is copied, as UTF-8. */
export async function copiedSource(file: string, copy: string): Promise<Copied> {
  const isRemote = isAddress(file);
  if (!isRemote && !existsSync(file)) throw new Misuse(`There is no file ${file}.`);
  const found = isRemote ? undefined : statSync(file);
  if (found && !found.isFile()) throw new Misuse(`${file} is no file; a screening reads files, which its machines share.`);
  if (found && !isOtherwise(file)) return { name: file, path: file, found };
  const { name, stream } = await open(file, undefined as unknown as Readable);
  mkdirSync(dirname(copy), { recursive: true });
  const out = new OutFile(copy, { mode: 0o600 });
  try {
    for await (const chunk of utf8In(stream)) await out.write(Buffer.from(chunk));
  } catch (cause) {
    await out.drop();
    throw cause instanceof NotText ? new Misuse(`${name} cannot be screened: it holds ${cause.message}.`) : cause;
  }
  await out.end();
  // The copy has another name.
  const named = formatByName(titleOf(name));
  return { name, path: copy, ...(found && { found }), ...(named && { format: named }) };
}

function isOtherwise(file: string): boolean {
  const head = headOf(file);
  return isCompressed(head) || (head[0] === 0xff && head[1] === 0xfe) || (head[0] === 0xfe && head[1] === 0xff);
}

/** Behind the byte order mark of UTF-8. */
export function textStart(file: string): number {
  const [first, second, third] = headOf(file);
  return first === 0xef && second === 0xbb && third === 0xbf ? 3 : 0;
}

function headOf(file: string): Uint8Array {
  const opened = openSync(file, 'r');
  try {
    const bytes = Buffer.alloc(3);
    readSync(opened, bytes, 0, 3, 0);
    return bytes;
  } finally {
    closeSync(opened);
  }
}
