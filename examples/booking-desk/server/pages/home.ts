import type { Request } from 'express';
import { html } from 'hono/html';
import { PEOPLE, personOf } from '../identity.ts';
import { languageOf } from './language.ts';
import { layout, type Markup } from './layout.ts';

interface Booking {
  readonly id: number | undefined;
  readonly ownerId: number;
  readonly berth: string;
  readonly mark: string;
  readonly arrives: string;
  readonly departs: string;
}

/** Who lies where, and the way to change what is one's own. */
export function homePage(request: Request, bookings: readonly Booking[]): Promise<string> {
  const language = languageOf(request);
  const person = personOf(request);
  const heads = { en: ['Berth', 'Vessel', 'From', 'To', 'Change'], de: ['Liegeplatz', 'Boot', 'Von', 'Bis', 'Ändern'] }[language];
  const rows = bookings.map(({ id, ownerId, berth, mark, arrives, departs }) => {
    const isOwn = person && (person.staff || person.id === ownerId);
    const change = isOwn ? html`<a href="/bookings/${id}">${heads[4]} ${id}</a>` : '';
    return html`<tr id="booking-${id}"><td>${berth}</td><td>${mark}</td><td>${day(arrives, language)}</td><td>${day(departs, language)}</td><td>${change}</td></tr>`;
  });
  const done = doneOf(request, language);
  const content = html`${done ? html`<section class="notice done" tabindex="-1" data-done><h2>${done}</h2>${certificate(request, language)}</section>` : ''}
    <div class="bookings">
      <h2 id="bookings-title">${{ en: 'Bookings', de: 'Buchungen' }[language]}</h2>
      <div class="scroll" tabindex="0" role="region" aria-labelledby="bookings-title">
        <table>
          <thead><tr>${heads.map((head) => html`<th scope="col">${head}</th>`)}</tr></thead>
          <tbody>${rows}</tbody>
        </table>
      </div>
    </div>`;
  return layout(request, { en: 'Who lies where', de: 'Wer liegt wo' }, content);
}

const DONE: { readonly [what: string]: { readonly en: string; readonly de: string } } = {
  booked: { en: 'Booked. Your booking number is', de: 'Gebucht. Ihre Buchungsnummer ist' },
  changed: { en: 'The change is kept. Booking', de: 'Die Änderung ist gespeichert. Buchung' },
  registered: { en: 'The vessel is registered under number', de: 'Das Boot ist angemeldet unter Nummer' },
  ordered: { en: 'Shore power is ordered. Order', de: 'Landstrom ist bestellt. Bestellung' },
  welcome: { en: 'Welcome to Pellwick. Your account has number', de: 'Willkommen in Pellwick. Ihr Konto hat die Nummer' },
};

/** What was done before this page was shown. */
function doneOf({ query: { done, id } }: Request, language: 'en' | 'de'): string | undefined {
  const words = DONE[String(done)];
  return words && /^\d+$/.test(String(id)) ? `${words[language]} ${id}.` : undefined;
}

/** The way to a certificate that has just come. */
function certificate({ query: { done, id } }: Request, language: 'en' | 'de'): Markup | string {
  if (done !== 'registered' || !/^\d+$/.test(String(id))) return '';
  return html`<p><a href="/vessels/${String(id)}/certificate">${{ en: 'Its certificate, as it is kept', de: 'Der Nachweis, wie er aufbewahrt wird' }[language]}</a></p>`;
}

/** A day as people read it. */
function day(text: string, language: string): string {
  return new Date(text).toLocaleDateString(language === 'de' ? 'de-DE' : 'en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  });
}

/** The stand-in for the marina's identity provider: choose who you are. */
export function signInPage(request: Request): Promise<string> {
  const language = languageOf(request);
  const { to } = request.query;
  const content = html`<p>${{ en: 'The demo believes whatever you choose.', de: 'Die Demo glaubt, was Sie wählen.' }[language]}</p>
    ${PEOPLE.map(
      ({ id, name }) => html`<form method="post" action="/sign-in" class="choice">
        <input type="hidden" name="id" value="${id}" />
        ${typeof to === 'string' ? html`<input type="hidden" name="to" value="${to}" />` : ''}
        <button type="submit" class="quiet">${name}</button>
      </form>`,
    )}`;
  return layout(request, { en: 'Who are you?', de: 'Wer sind Sie?' }, content);
}

export function problemPage(request: Request, title: string, detail = ''): Promise<string> {
  return layout(request, { en: title, de: title }, html`<p>${detail}</p><p><a href="/">Pellwick Marina</a></p>`);
}
