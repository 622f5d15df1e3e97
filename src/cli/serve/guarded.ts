import type { MiddlewareHandler } from 'hono';
import { NONCE, secureHeaders } from 'hono/secure-headers';

/** Names of this machine by which a page may have come here. */
const OWN_NAMES = ['127.0.0.1', 'localhost'];

/**
 * Refuses what does not come from this machine's own page. Another site in the same browser cannot read the module's data or judge by it:
 * its name is not that of this host (a name that was turned to 127.0.0.1), or its origin is another.
 */
export function guarded(port: () => number): MiddlewareHandler {
  return async (context, next) => {
    const hosts = OWN_NAMES.map((name) => `${name}:${port()}`);
    const { headers } = context.req.raw;
    const [host, origin, site] = ['host', 'origin', 'sec-fetch-site'].map((name) => headers.get(name));
    if (!host || !hosts.includes(host)) return context.text('This address belongs to somebody else.\n', 403);
    const isOwn = !origin || hosts.some((each) => origin === `http://${each}`);
    if (!isOwn || (site && site !== 'same-origin' && site !== 'none')) return context.text('Other sites have no business here.\n', 403);
    return next();
  };
}

/** Nothing is loaded from anywhere else, and no other page may show this one. */
export const headersOfPage = secureHeaders({
  contentSecurityPolicy: {
    defaultSrc: ["'none'"],
    scriptSrc: ["'self'"],
    // The editor writes its styles into the page, by a number that is good for once.
    styleSrc: ["'self'", NONCE],
    imgSrc: ["'self'", 'data:'],
    connectSrc: ["'self'"],
    frameAncestors: ["'none'"],
    formAction: ["'none'"],
    baseUri: ["'none'"],
  },
  referrerPolicy: 'no-referrer',
});
