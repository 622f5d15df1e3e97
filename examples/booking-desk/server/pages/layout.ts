import type { Request } from 'express';
import { html } from 'hono/html';
import { explanationFor } from '../explained.ts';
import { personOf } from '../identity.ts';
import { type Language, languageOf, type Words } from './language.ts';
import { panel } from './panel.ts';

export type Markup = ReturnType<typeof html>;

const LINKS: readonly (readonly [address: string, words: Words])[] = [
  ['/', { en: 'Harbour', de: 'Hafen' }],
  ['/bookings/new', { en: 'Book a berth', de: 'Liegeplatz buchen' }],
  ['/vessels/new', { en: 'Register a vessel', de: 'Boot anmelden' }],
  ['/power', { en: 'Shore power', de: 'Landstrom' }],
  ['/sign-up', { en: 'Open an account', de: 'Konto eröffnen' }],
];

/** A whole page of the front office, with the panel that shows what came of the last submission. */
export async function layout(request: Request, title: Words, content: Markup): Promise<string> {
  const language = languageOf(request);
  const person = personOf(request);
  const page = html`<!doctype html>
    <html lang="${language}">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>${title[language]} · Pellwick Marina</title>
        <link rel="icon" href="data:," />
        <link rel="stylesheet" href="/assets/desk.css" />
        <script type="module" src="/assets/desk.js"></script>
      </head>
      <body>
        <header class="quay">
          <p class="quay-name">Pellwick Marina</p>
          <nav aria-label="${language === 'de' ? 'Seiten' : 'Pages'}">
            <ul>
              ${LINKS.map(([address, words]) => link(address, words[language], request.path))}
            </ul>
          </nav>
          <p class="who">
            ${person ? html`${person.name} · ` : ''}<a href="/sign-in">${person ? { en: 'Somebody else', de: 'Jemand anderes' }[language] : { en: 'Sign in', de: 'Anmelden' }[language]}</a> ·
            ${other(language, request)}
          </p>
        </header>
        <main>
          <h1>${title[language]}</h1>
          ${content}
        </main>
        ${panel(explanationFor(request), language)}
      </body>
    </html>`;
  return String(await page);
}

function link(address: string, words: string, here: string): Markup {
  return address === here
    ? html`<li><a href="${address}" aria-current="page">${words}</a></li>`
    : html`<li><a href="${address}">${words}</a></li>`;
}

function other(language: Language, request: Request): Markup {
  const [code, name] = language === 'de' ? ['en', 'English'] : ['de', 'Deutsch'];
  return html`<a href="/language/${code}?to=${encodeURIComponent(request.method === 'GET' ? request.originalUrl : request.path)}" lang="${code}">${name}</a>`;
}
