import type { Request } from 'express';
import { localeFor } from 'jestril/locale';

/** The languages of the pages. */
export const LANGUAGES = ['en', 'de'] as const;
export type Language = (typeof LANGUAGES)[number];

/** The one that was chosen, else the one that the browser asks for. */
export function languageOf(request: Request): Language {
  const chosen = /(?:^|; )language=(\w+)/.exec(request.headers.cookie ?? '')?.[1];
  return (chosen === 'de' || chosen === 'en' ? chosen : localeFor(request.headers['accept-language'], LANGUAGES)) as Language;
}

/** Words of a page in both languages. */
export type Words = { readonly [language in Language]: string };

/** Said where a form was open when its sender was signed out. */
export const SIGN_IN = {
  en: 'You were signed out. Sign in, then send this once more.',
  de: 'Sie wurden abgemeldet. Bitte anmelden und noch einmal senden.',
};
