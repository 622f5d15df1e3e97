import type { Context, MiddlewareHandler } from 'hono';
import { getCookie, setCookie } from 'hono/cookie';
import { NONCE, secureHeaders } from 'hono/secure-headers';
import { isKey, type Key } from './key.ts';

/** Names of this machine by which a page may have come here. */
const OWN_NAMES = ['127.0.0.1', 'localhost'];

/**
 * Refuses what does not come from this machine's own page. Another site in the same browser cannot read the module's data or judge by it:
 * its name is not that of this host (a name that was turned to 127.0.0.1), or its origin is another.
 */
export function ofThisPage(port: () => number): MiddlewareHandler {
  return async (context, next) => {
    const hosts = OWN_NAMES.map((name) => `${name}:${port()}`);
    const { headers } = context.req.raw;
    const [host, origin, site] = ['host', 'origin', 'sec-fetch-site'].map((name) => headers.get(name));
    if (!host || !hosts.includes(host)) return told(context, 403, 'This address belongs to somebody else.');
    const isOwn = !origin || hosts.some((each) => origin === `http://${each}`);
    if (!isOwn || (site && site !== 'same-origin' && site !== 'none')) return told(context, 403, 'Other sites have no business here.');
    return next();
  };
}

/**
 * Refuses whoever has no key, such as another user of the machine. The address that was printed has it, and leaves it behind in a cookie
 * (RFC 6265) that no script reads; the page itself is then at an address without it.
 */
export function withKey(key: Key, port: () => number): MiddlewareHandler {
  return async (context, next) => {
    // Cookies are shared by all ports of a name.
    const cookie = `jestril-${port()}`;
    if (context.req.path === '/' && isKey(context.req.query('key'), key.page)) {
      setCookie(context, cookie, key.page, { httpOnly: true, sameSite: 'Strict', path: '/' });
      context.header('cache-control', 'no-store');
      return context.redirect('/', 303);
    }
    if (isKey(getCookie(context, cookie), key.page)) return next();
    return told(context, 401, 'The workbench is for who has started it: open the whole address that it has printed, with its key.');
  };
}

/** A sentence, in the form in which an answer is expected. */
export function told(context: Context, status: 400 | 401 | 403 | 404 | 413 | 500, problem: string): Response {
  return context.req.path.startsWith('/api/') ? context.json({ problem }, status) : context.text(`${problem}\n`, status);
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
