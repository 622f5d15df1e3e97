import { randomUUID } from 'node:crypto';
import { parseCookie } from 'cookie';
import type { NextFunction, Request, RequestHandler, Response } from 'express';
import { rateLimit } from 'express-rate-limit';

// What holds for every request, whatever it asks for.

const HEADERS = {
  // Nothing runs, or is drawn, that does not come from here; nobody frames these pages.
  'content-security-policy':
    "default-src 'self'; img-src 'self' data:; base-uri 'none'; form-action 'self'; frame-ancestors 'none'; object-src 'none'",
  'referrer-policy': 'same-origin',
  'x-content-type-options': 'nosniff',
  'cross-origin-opener-policy': 'same-origin',
};

const visits = new WeakMap<Request, string>();

/** Sets what every answer carries, and knows a visitor again by a cookie of its own. */
export function guarded(request: Request, response: Response, next: NextFunction): void {
  for (const [name, value] of Object.entries(HEADERS)) response.setHeader(name, value);
  const known = parseCookie(request.headers.cookie ?? '').visit;
  const visit = known && /^[\w-]{36}$/.test(known) ? known : randomUUID();
  visits.set(request, visit);
  if (visit !== known) response.cookie('visit', visit, cookieFor(request));
  next();
}

/** Whose request it is, signed in or not. */
export function visitOf(request: Request): string {
  return visits.get(request) ?? '';
}

/** No script reads it, no other site sends it, and where there is TLS it is never sent without. */
export function cookieFor(request: Request) {
  return { httpOnly: true, sameSite: 'lax', secure: request.secure } as const;
}

/** Refuses what a page of another site posts, where no `receive` stands in front. */
export function sameOrigin(request: Request, response: Response, next: NextFunction): void {
  const site = request.headers['sec-fetch-site'];
  const origin = request.headers.origin;
  const isHere = site === undefined ? origin === undefined || hostOf(origin) === request.host : site === 'same-origin' || site === 'none';
  if (isHere) next();
  else response.status(403).send();
}

function hostOf(origin: string): string | undefined {
  return URL.canParse(origin) ? new URL(origin).host : undefined;
}

/** An address on this site, whatever somebody has written: `\\`, `//` and what is encoded lead nowhere else. */
export function ownPath(to: unknown): string {
  const here = 'http://here.invalid';
  if (typeof to !== 'string' || !to.startsWith('/') || !URL.canParse(to, here)) return '/';
  const { origin, pathname, search } = new URL(to, here);
  return origin === here && !pathname.startsWith('//') ? `${pathname}${search}` : '/';
}

/** So many requests of one sender in a minute; then 429, and when to come again. */
export function seldom(limit: number): RequestHandler {
  const title = 'That was too often. Please wait a moment.';
  return rateLimit({
    windowMs: 60_000,
    limit,
    standardHeaders: 'draft-7',
    legacyHeaders: false,
    handler: (_request, response) =>
      void response.status(429).type('application/problem+json').send({ type: 'about:blank', title, status: 429 }),
  });
}
