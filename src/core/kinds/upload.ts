import { RECEIVED } from '../basics/received-file.ts';
import { isStorable } from '../basics/text.ts';
import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, type Read, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';

/** A file that came with a submission. */
export interface Upload {
  readonly name: string;
  /** Its media type (RFC 6838) as the sender says, in lower case, without parameters: `application/pdf`. */
  readonly mediaType: string;
  /** In bytes. */
  readonly size: number;
  /** What holds its bytes: a WHATWG `File`, bytes, or whatever keeps them elsewhere. */
  readonly content?: unknown;
  /** Its first bytes, where a transport has looked at them: enough to tell what it is. */
  readonly head?: Uint8Array;
}

/**
 * A file that the application has received by itself, when its content is no `File` and no bytes: a path, a stream, a key.
 * What a sender can write as JSON is never taken for a file.
 */
export function receivedFile(file: Upload): Upload {
  return Object.defineProperty({ ...file }, RECEIVED, { value: true, enumerable: false });
}

const MEDIA_TYPE = /^[a-z0-9][a-z0-9!#$&^_.+-]{0,126}\/[a-z0-9][a-z0-9!#$&^_.+-]{0,126}$/;

const spec: KindSpec<Upload> = {
  name: 'upload',
  examples: () => [receivedFile({ name: 'file.pdf', mediaType: 'application/pdf', size: 1000 })],
  schema: { schema: { type: 'string', format: 'binary' }, leavesOut: 'all of it: it comes as a part of a multipart body' },
  is: ['upload'],
  says: { en: '{field} must be a file.' },
  json: readUpload,
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
  isObject: true,
  control: () => ({ type: 'file' }),
};

/** Reads what a transport has received. */
export function readUpload(raw: unknown): Read<Upload> {
  try {
    return uploadOf(raw);
  } catch {
    // A getter that throws is nothing that was received.
    return UNREADABLE;
  }
}

function uploadOf(raw: unknown): Read<Upload> {
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw)) return UNREADABLE;
  const { name, mediaType, type, size, content, head, arrayBuffer } = raw as Record<string, unknown>;
  const isFile = typeof arrayBuffer === 'function';
  const isReceived = RECEIVED in raw;
  if (!isFile && !isReceived && !ArrayBuffer.isView(content) && !isBlob(content)) return UNREADABLE;
  const said = String(mediaType ?? type ?? '').split(';')[0] as string;
  // A browser that does not know a file's type sends none; RFC 2046 has a type for that.
  const known = said.trim().toLowerCase() || 'application/octet-stream';
  if (typeof name !== 'string' || name === '' || !isStorable(name) || !MEDIA_TYPE.test(known)) return UNREADABLE;
  if (!Number.isSafeInteger(size) || (size as number) < 0) return UNREADABLE;
  const bytes = isFile ? raw : content;
  const file: Upload = {
    name,
    mediaType: known,
    size: size as number,
    ...(bytes !== undefined && { content: bytes }),
    ...(head instanceof Uint8Array && { head }),
  };
  return isReceived ? receivedFile(file) : file;
}

function isBlob(content: unknown): boolean {
  return (
    typeof content === 'object' && content !== null && typeof (content as { readonly arrayBuffer?: unknown }).arrayBuffer === 'function'
  );
}

export interface UploadKind extends Kind<'upload', Upload> {
  (label: string, ...steps: Step<'upload'>[]): Field<'upload', Upload>;
}

/**
 * A file: a WHATWG `File`, an object with `name`, `mediaType` (or `type`), `size` and bytes as `content`, or a `receivedFile`.
 *
 * @law A file that a transport has received: a WHATWG `File`, an object with `name`, `mediaType` (or `type`), `size` and bytes as `content`, or a `receivedFile`. What a sender can write as JSON is none.
 * @example upload('Certificate')
 * @holds receivedFile({ name: 'a.pdf', mediaType: 'application/pdf', size: 3200 })
 * @fails 'a.pdf'
 */
export const upload = kindBy<UploadKind>(spec);

export const uploadTold: ToldKind = {
  spec,
  make: upload,
  made: 'upload',
  called: 'file',
  typeScript: '{ name: string; mediaType: string; size: number; content?: unknown }',
  shownAs: 'json',
  isPart: true,
  typed: 'file',
};
