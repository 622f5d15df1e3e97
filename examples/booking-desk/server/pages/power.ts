import { type DeskPowerOrder, deskPowerOrder } from '@pellwick/marina';
import type { Request } from 'express';
import { html } from 'hono/html';
import type { ShownForm } from 'jestril/form';
import { choose, type Drawn, field, summary } from './fields.ts';
import { languageOf } from './language.ts';
import { layout } from './layout.ts';

/** An order that holds, and what it costs. */
export interface Quote {
  readonly order: DeskPowerOrder;
  readonly total: string;
}

/** The order that a query string makes, such as the code on a pedestal. With what it costs, once it holds. */
export function powerPage(
  request: Request,
  form: ShownForm,
  tariffs: readonly { readonly plug: string; readonly price: number | string }[],
  quote?: Quote,
  problem?: string,
): Promise<string> {
  const drawn: Drawn = { intake: deskPowerOrder, form, language: languageOf(request) };
  const { language } = drawn;
  const content = html`<form id="power" method="get" action="/power" data-intake="desk-power-order">
      ${summary(drawn, problem)}
      <fieldset>
        <legend>${{ en: 'Order', de: 'Bestellung' }[language]}</legend>
        ${field(drawn, 'mark', { label: { en: 'Registration mark', de: 'Kennzeichen' } })}
        ${choose(drawn, 'plug', { label: { en: 'Plug', de: 'Stecker' } }, [
          ['', { en: 'Choose a plug', de: 'Bitte wählen' }[language]],
          ...tariffs.map(
            ({ plug, price }) => [plug, { en: `${plug} (${price} a kWh)`, de: `${plug} (${price} je kWh)` }[language]] as const,
          ),
        ])}
        ${field(drawn, 'amount', { label: { en: 'Kilowatt-hours', de: 'Kilowattstunden' } })}
        ${field(drawn, 'limit', { label: { en: 'Limit', de: 'Obergrenze' }, hint: { en: 'What the order may cost', de: 'Was die Bestellung kosten darf' } })}
      </fieldset>
      <fieldset>
        <legend>${{ en: 'Contact', de: 'Kontakt' }[language]}</legend>
        ${field(drawn, 'contact.email', { label: { en: 'E-mail', de: 'E-Mail' } })} ${field(drawn, 'contact.phone', { label: { en: 'Phone', de: 'Telefon' } })}
      </fieldset>
      <button type="submit">${{ en: 'What does it cost?', de: 'Was kostet das?' }[language]}</button>
    </form>
    ${quote ? order(quote, form, language) : ''}`;
  return layout(request, { en: 'Shore power', de: 'Landstrom' }, content);
}

/** The same once more, to be posted. */
function order({ order: { amount, plug, mark }, total }: Quote, form: ShownForm, language: 'en' | 'de') {
  const told = {
    en: `${amount} kWh at ${plug} for ${mark}: ${total}`,
    de: `${amount} kWh über ${plug} für ${mark}: ${total}`,
  };
  return html`<form class="notice done" method="post" action="/power">
    <h2>${told[language]}</h2>
    ${form.entries.map(([name, value]) => html`<input type="hidden" name="${name}" value="${value}" />`)}
    <button type="submit">${{ en: 'Order it', de: 'Bestellen' }[language]}</button>
  </form>`;
}
