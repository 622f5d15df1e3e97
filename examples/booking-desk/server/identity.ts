import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { parseCookie } from 'cookie';
import { type Request, type RequestHandler, type Response, urlencoded } from 'express';
import { cookieFor, sameOrigin } from './guard.ts';

// Stands in for the marina's identity provider: whoever comes says who they are, and is believed.

export interface Person {
  readonly id: number;
  readonly staff: boolean;
  readonly name: string;
}

export const PEOPLE: readonly Person[] = [
  { id: 1, staff: false, name: 'Ida Sund' },
  { id: 2, staff: false, name: 'Bram Keel' },
  { id: 90, staff: true, name: 'Harbour office' },
];

const KEY = randomBytes(32);
const sign = (text: string) => createHmac('sha256', KEY).update(text).digest('base64url');

/** Who sends a request: by the signed cookie of a browser, or by a token (`Bearer 1`) of a program. */
export function personOf(request: Request): Person | undefined {
  const token = /^Bearer (\d+)$/.exec(request.headers.authorization ?? '')?.[1];
  if (token !== undefined) return PEOPLE.find(({ id }) => id === Number(token));
  const cookie = parseCookie(request.headers.cookie ?? '').desk;
  if (cookie === undefined) return undefined;
  const [text = '', signature = ''] = cookie.split('|');
  const expected = Buffer.from(sign(text));
  const given = Buffer.from(signature);
  if (given.length !== expected.length || !timingSafeEqual(given, expected)) return undefined;
  const [id, name = ''] = text.split(':');
  return (
    PEOPLE.find((person) => person.id === Number(id)) ?? { id: Number(id), staff: false, name: Buffer.from(name, 'base64url').toString() }
  );
}

export function signIn(request: Request, response: Response, { id, name }: Pick<Person, 'id' | 'name'>): void {
  const text = `${id}:${Buffer.from(name).toString('base64url')}`;
  response.cookie('desk', `${text}|${sign(text)}`, cookieFor(request));
}

/** The fields of a form that was read without being judged. */
export function typedIn({ body }: Request): (readonly [string, string])[] {
  return Object.entries(body ?? {}).flatMap(([name, value]) => (typeof value === 'string' ? [[name, value] as const] : []));
}

/** A browser that was signed out while its form was open is shown what was typed again, and where to sign in. */
export function signedOut(draw: (request: Request, entries: readonly (readonly [string, string])[]) => Promise<string>): RequestHandler[] {
  const isOut = (request: Request) =>
    !personOf(request) && request.is('application/x-www-form-urlencoded') && request.accepts(['json', 'html']) === 'html';
  const read = urlencoded({ extended: false });
  return [
    (request, response, next) => (isOut(request) ? sameOrigin(request, response, () => read(request, response, next)) : next()),
    async (request, response, next) => {
      if (!isOut(request)) return next();
      response.status(401).send(await draw(request, typedIn(request)));
    },
  ];
}
