import { isSentUnasked } from './body.ts';
import type { Incoming } from './incoming.ts';

/**
 * Whether a request may come from the page that has sent it. Only what a page of any site can send unasked is looked at: forms, and
 * requests without a body, in a method that changes something. Browsers say where it comes from (Fetch Metadata, and the `Origin` of RFC 6454); who says nothing is
 * no browser, and has no cookies of one.
 */
export function isOfThisSite({ method, header, host }: Incoming<unknown>, origins: readonly string[] | 'any'): boolean {
  if (origins === 'any' || method === 'GET' || method === 'HEAD' || method === 'OPTIONS' || !isSentUnasked(header('content-type')))
    return true;
  const site = header('sec-fetch-site');
  if (site === 'same-origin' || site === 'none') return true;
  const origin = header('origin');
  if (origin === undefined) return site === undefined;
  if (!URL.canParse(origin)) return false;
  const from = new URL(origin).host;
  return origins.includes(from) || (site === undefined && from === host());
}
