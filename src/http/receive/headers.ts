import type { SentHeaders } from './options.ts';

const NONE = {};

/** Names in lower case, so that one given in any case replaces the usual one. A break of line ends a header, and is left out. */
export function lowered(headers: SentHeaders | undefined): { readonly [name: string]: string | readonly string[] } {
  if (!headers) return NONE;
  const clean = (value: string) => value.replaceAll(/[\r\n\0]/g, '');
  return Object.fromEntries(
    Object.entries(headers).map(([name, value]) => [name.toLowerCase(), typeof value === 'string' ? clean(value) : value.map(clean)]),
  );
}

/** What stands after the question mark of an address. */
export function queryOf(url: string): string {
  const mark = url.indexOf('?');
  if (mark < 0) return '';
  const hash = url.indexOf('#', mark);
  return url.slice(mark + 1, hash < 0 ? undefined : hash);
}

/** The length of a body as its header tells it (RFC 9110, 8.6); `undefined` where it does not. */
export function lengthIn(header: string | null | undefined): number | undefined {
  return header !== undefined && header !== null && /^\d{1,15}$/.test(header) ? Number(header) : undefined;
}

/** Stands for the site itself, whatever it is called. */
const HERE = 'http://here.invalid';

/**
 * An address for the header `Location` (RFC 3986), whatever stands in it: read as browsers read it (WHATWG URL), so that `\`, `//` and
 * what is encoded lead nowhere else.
 *
 * @param from the address of the request, which a relative one starts from
 * @param isElsewhere an address on another site is meant; otherwise its path on this one is left of it
 */
export function safeLocation(location: string, from: string, isElsewhere: boolean): string {
  const base = URL.canParse(from, HERE) ? new URL(from, HERE) : new URL(HERE);
  if (base.origin !== HERE || !URL.canParse(location, base)) return '/';
  const url = new URL(location, base);
  if (isElsewhere && (url.protocol === 'https:' || url.protocol === 'http:') && url.origin !== HERE) return url.href;
  // Two slashes at the beginning of a path would be taken for a host.
  const path = url.protocol === 'http:' || url.protocol === 'https:' ? url.pathname.replace(/^\/{2,}/, '/') : '/';
  return `${path}${url.search}${url.hash}`;
}
