import { isSentUnasked } from './body.ts';
import type { Incoming } from './incoming.ts';

/**
 * Whether a request may come from the page that has sent it. Only what a page of any site can send unasked is looked at: forms, and
 * requests without a body, in a method that changes something. Browsers say where it comes from (Fetch Metadata, and the `Origin` of RFC 6454); who says nothing is
 * no browser, and has no cookies of one.
 */
export function isOfThisSite(incoming: Incoming<unknown>, origins: readonly string[] | 'any'): boolean {
  const { method } = incoming;
  if (origins === 'any' || method === 'GET' || method === 'HEAD' || method === 'OPTIONS' || !isSentUnasked(incoming.header('content-type')))
    return true;
  const site = incoming.header('sec-fetch-site');
  if (site === 'same-origin' || site === 'none') return true;
  const origin = incoming.header('origin');
  if (origin === undefined) return site === undefined;
  if (!URL.canParse(origin)) return false;
  const from = new URL(origin);
  return origins.includes(from.origin) || (site === undefined && hostsOf(incoming).some((own) => isHost(own, from)));
}

/**
 * The hosts that the sender has asked, one of which a proxy may have put in place of the other. A page of another site can set none of these
 * headers without asking first.
 */
function hostsOf(incoming: Incoming<unknown>): string[] {
  const forwarded = incoming.header('x-forwarded-host')?.slice(0, MOST).split(',') ?? [];
  const standard = incoming.header('forwarded')?.slice(0, MOST).split(/[;,]/) ?? [];
  const named = standard.map((pair) => pair.trim()).filter((pair) => pair.toLowerCase().startsWith('host='));
  return [incoming.host() ?? '', ...forwarded, ...named.map((pair) => pair.slice('host='.length).replaceAll('"', ''))];
}

/** Characters of a header that proxies have written. */
const MOST = 1000;

/** Whether a `Host` is that of an origin: its port may be the usual one of the origin's scheme. */
function isHost(host: string, { protocol, host: own }: URL): boolean {
  const address = `${protocol}//${host.trim()}`;
  return host.trim() !== '' && URL.canParse(address) && new URL(address).host === own;
}
