import { type BerthBooking, deskBooking } from '@pellwick/marina';
import type { Request } from 'express';
import { html, raw } from 'hono/html';
import type { ShownForm } from 'jestril/form';
import { choose, type Drawn, field, findings, MARK, summary } from './fields.ts';
import { languageOf } from './language.ts';
import { layout, type Markup } from './layout.ts';

export interface Berth {
  readonly code: string;
  readonly maxLength: number;
  /** Of a night. */
  readonly price: number;
}

/** A stored booking that is changed. */
export interface Change {
  readonly id: number;
  readonly stored: Partial<BerthBooking>;
}

/** What else the form says, or has. */
export interface More {
  readonly problem?: string;
  /** Rows of the crew beyond those that were sent. */
  readonly rows?: number;
}

/** The form of a new booking, or of a change to one. */
export function bookingPage(
  request: Request,
  form: ShownForm,
  berths: readonly Berth[],
  change?: Change,
  more: More = {},
): Promise<string> {
  const drawn: Drawn = { intake: deskBooking, form, language: languageOf(request), amends: change !== undefined };
  const title =
    change === undefined
      ? { en: 'Book a berth', de: 'Liegeplatz buchen' }
      : { en: `Change booking ${change.id}`, de: `Buchung ${change.id} ändern` };
  return layout(request, title, content(drawn, berths, change, more));
}

function content(drawn: Drawn, berths: readonly Berth[], change: Change | undefined, { problem, rows = 0 }: More): Markup {
  const { language } = drawn;
  const words = { vessel: ['Vessel', 'Boot'], stay: ['Stay', 'Aufenthalt'], pier: ['On the pier', 'Auf dem Steg'] } as const;
  const say = (word: keyof typeof words) => words[word][language === 'de' ? 1 : 0];
  const isNew = change === undefined;
  return html`<form id="booking" method="post" action="${isNew ? '/bookings' : `/bookings/${change.id}`}" data-intake="desk-booking" data-judge-at="${isNew ? '/bookings/check' : ''}">
    ${DEFAULT} ${summary(drawn, problem)} ${change ? storedIn(change) : ''}
    <fieldset>
      <legend>${say('vessel')}</legend>
      ${field(drawn, 'mark', { label: { en: 'Registration mark', de: 'Kennzeichen' }, hint: { en: 'Such as PW-2040', de: 'Etwa PW-2040' } })}
      ${field(drawn, 'lengthOverall', { label: { en: 'Length overall', de: 'Länge über alles' }, hint: { en: 'In metres', de: 'In Metern' } })}
      ${field(drawn, 'beam', { label: { en: 'Beam', de: 'Breite' }, hint: { en: 'In metres, at the widest', de: 'In Metern, an der breitesten Stelle' } })}
    </fieldset>
    <fieldset>
      <legend>${say('stay')}</legend>
      ${choose(
        drawn,
        'berth',
        {
          label: { en: 'Berth', de: 'Liegeplatz' },
          hint: { en: 'The length that it takes, and a night', de: 'Die mögliche Länge, und je Nacht' },
        },
        [
          ['', { en: 'Choose a berth', de: 'Bitte wählen' }[language]],
          ...berths.map(({ code, maxLength, price }) => [code, `${code} (${maxLength} m, ${price.toFixed(2)})`] as const),
        ],
      )}
      ${choose(
        drawn,
        'power',
        { label: { en: 'Shore power', de: 'Landstrom' }, hint: { en: 'Electric vessels need it', de: 'Elektroboote brauchen ihn' } },
        [
          ['', { en: 'None', de: 'Keiner' }[language]],
          ['16A', '16A'],
          ['32A', '32A'],
        ],
      )}
      ${field(drawn, 'arrives', { label: { en: 'Arrival', de: 'Ankunft' } })} ${field(drawn, 'departs', { label: { en: 'Departure', de: 'Abreise' } })}
    </fieldset>
    ${crew(drawn, rows, isNew ? '/bookings/new' : `/bookings/${change.id}/rows`)}
    <fieldset>
      <legend>${say('pier')}</legend>
      ${field(drawn, 'gateCode', {
        label: { en: 'Gate code', de: 'Torcode' },
        hint: isNew
          ? { en: 'Four digits of your choice', de: 'Vier Ziffern nach Wahl' }
          : { en: 'Leave it empty to keep yours', de: 'Leer lassen, um Ihren zu behalten' },
      })}
      ${field(drawn, 'gateCodeAgain', { label: { en: 'Gate code again', de: 'Torcode noch einmal' }, hint: { en: 'The same four digits', de: 'Dieselben vier Ziffern' } })}
      ${field(drawn, 'notes', { label: { en: 'Notes (if you like)', de: 'Bemerkungen (wenn Sie mögen)' }, wide: true, rows: 2 })}
      ${isNew ? field(drawn, 'terms', { label: { en: 'I keep to the harbour rules', de: 'Ich halte mich an die Hafenordnung' } }) : ''}
    </fieldset>
    <button type="submit">${isNew ? { en: 'Book this berth', de: 'Liegeplatz buchen' }[language] : { en: 'Keep the change', de: 'Änderung speichern' }[language]}</button>
  </form>`;
}

/** The Enter key presses the first button of a form: this one, and not the one that adds a row. */
const DEFAULT = html`<input type="submit" hidden />`;

/** What the page's script has to know of a stored booking: all but its secret. */
function storedIn({ stored: { gateCode: _secret, ...stored } }: Change): Markup {
  return html`<script type="application/json" data-stored>${raw(JSON.stringify(stored).replaceAll('<', '\\u003c'))}</script>`;
}

/** As many as a booking takes. */
const MOST = 12;

/** The crew: the rows that were sent, two at least, since blank ones are not there. A script adds and takes away; without one, a button. */
function crew(drawn: Drawn, more: number, adding: string): Markup {
  const { form, language } = drawn;
  const sent = form.rows('/crew');
  const spare = Math.max(2 - sent.length, more);
  const last = sent.at(-1) ?? -1;
  const rows = [...sent, ...Array.from({ length: spare }, (_, at) => last + 1 + at)].slice(0, MOST);
  const add = { en: 'Add a crew member', de: 'Crewmitglied hinzufügen' }[language];
  return html`<fieldset class="wide" id="crew" tabindex="-1">
    <legend>${{ en: 'Crew', de: 'Crew' }[language]}${MARK}</legend>
    <div class="field wide" data-field="/crew">${findings(drawn, 'crew')}</div>
    <ol id="crew-list" class="wide" data-remove="${{ en: 'Remove crew member', de: 'Crewmitglied entfernen' }[language]}">
      ${rows.map(
        (index) => html`<li>
          ${field(drawn, `crew.${index}.name`, { label: { en: 'Name', de: 'Name' } })}
          ${field(drawn, `crew.${index}.born`, { label: { en: 'Born', de: 'Geboren' } })}
        </li>`,
      )}
    </ol>
    <p class="wide" data-add="${add}"><button class="quiet" formaction="${adding}" formnovalidate>${add}</button></p>
  </fieldset>`;
}
