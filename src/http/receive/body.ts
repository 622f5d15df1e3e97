import { parse } from 'content-type';
import type { Keeping } from './files.ts';
import { formPart, type ReadPart } from './form-part.ts';
import { type Limits, parseJson } from './json.ts';
import { Unreadable } from './problem.ts';
import { bytesOf, type IncomingBody } from './source.ts';

export type Sort = 'json' | 'form' | 'multipart';

/** Nothing was sent where a body could be. */
export const NO_BODY: ReadPart = { submission: {}, as: 'json' };

/** Reads a body to its end, whatever the server is. */
export async function readBody(body: IncomingBody, limits: Required<Limits>, keeping?: Keeping): Promise<ReadPart> {
  const { type } = body;
  if (type === undefined || type === '') {
    // A body of unknown length may be none.
    if (body.length === 0 || (body.length === undefined && (await bytesOf(body, limits)).length === 0)) return NO_BODY;
    if (body.length !== undefined) body.open().stop();
    throw new Unreadable(415, 'Send a content type: application/json, application/x-www-form-urlencoded or multipart/form-data.');
  }
  const sort = sortOf(type);
  refuseEncoding(body.encoding);
  if (sort === 'multipart') {
    // Most handlers never see one.
    const { readMultipart } = await import('./multipart.ts');
    return readMultipart(body, limits, keeping);
  }
  const bytes = await bytesOf(body, limits);
  const text = textOf(bytes);
  const part = sort === 'json' ? jsonPart(text, limits) : urlEncodedPart(text, limits);
  part.size = bytes.length;
  return part;
}

/** What a body is, by its content type: clients send the same few again and again. */
export function sortOf(contentType: string): Sort {
  const known = SORTS.get(contentType);
  if (known) return known;
  const sort = sortIn(contentType);
  // Every multipart body has a boundary of its own.
  if (sort !== 'multipart' && SORTS.size < MOST_REMEMBERED && contentType.length < 100) SORTS.set(contentType, sort);
  return sort;
}

const SORTS = new Map<string, Sort>();
const MOST_REMEMBERED = 100;

function sortIn(contentType: string): Sort {
  const { type, parameters } = parse(contentType);
  const media = type.toLowerCase();
  const charset = parameters.charset?.toLowerCase();
  if (charset !== undefined && charset !== 'utf-8' && charset !== 'utf8')
    throw new Unreadable(415, `Send the body as UTF-8, and not as ${shown(charset)}.`);
  if (media === 'application/json' || (/^application\/[\w.-]+\+json$/.test(media) && media !== JSON_PATCH)) return 'json';
  if (media === FORM) return 'form';
  if (media === MULTIPART) return 'multipart';
  throw new Unreadable(
    415,
    `Send the body as application/json, application/x-www-form-urlencoded or multipart/form-data, and not as ${shown(media)}.`,
  );
}

const FORM = 'application/x-www-form-urlencoded';
const MULTIPART = 'multipart/form-data';
/** Steps of a change (RFC 6902): they look like JSON, and are no change by themselves. */
const JSON_PATCH = 'application/json-patch+json';

/** Whether a page of any site could send this without asking first (WHATWG Fetch, CORS-safelisted): a form, a text, or no body. */
export function isSentUnasked(contentType: string | undefined): boolean {
  const media = contentType?.split(';', 1)[0]?.trim().toLowerCase() ?? '';
  return media === '' || media === FORM || media === MULTIPART || media === 'text/plain';
}

/** What a client has written, short and harmless enough to be said back. */
function shown(text: string): string {
  return text.replaceAll(/[^\w./+-]/g, '').slice(0, 60);
}

function refuseEncoding(encoding: string | undefined): void {
  if (encoding !== undefined && encoding !== '' && encoding.toLowerCase() !== 'identity')
    throw new Unreadable(415, `Send the body without the content encoding ${shown(encoding)}.`);
}

const utf8 = new TextDecoder('utf-8', { fatal: true });

export function textOf(bytes: Uint8Array): string {
  try {
    return utf8.decode(bytes);
  } catch {
    throw new Unreadable(400, 'The body is not UTF-8.');
  }
}

export function jsonPart(text: string, limits: Required<Limits>): ReadPart {
  return { submission: text.trim() === '' ? undefined : parseJson(text, limits), as: 'json' };
}

/** Decodes `a=1&b=2`. */
export function urlEncodedPart(text: string, limits: Required<Limits>): ReadPart {
  // Counted before anything is built.
  if (text.split('&', limits.keys + 1).length > limits.keys) throw new Unreadable(413, `The form has more than ${limits.keys} fields.`);
  // Percent-encoded bytes that are no UTF-8 would turn into question marks unseen.
  if (/%[89a-f]/i.test(text)) {
    try {
      decodeURIComponent(text.replaceAll(/%(?![0-9a-f]{2})/gi, '%25'));
    } catch {
      throw new Unreadable(400, 'The form is not UTF-8.');
    }
  }
  return formPart([...new URLSearchParams(text)], limits);
}
