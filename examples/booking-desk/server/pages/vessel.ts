import { certifiedRegistration } from '@pellwick/marina';
import type { Request } from 'express';
import { html } from 'hono/html';
import type { ShownForm } from 'jestril/form';
import { type Drawn, field, summary } from './fields.ts';
import { languageOf } from './language.ts';
import { layout } from './layout.ts';

/** The form of a vessel, with the certificate of its insurance. */
export function vesselPage(request: Request, form: ShownForm, problem?: string): Promise<string> {
  const drawn: Drawn = { intake: certifiedRegistration, form, language: languageOf(request) };
  const { language } = drawn;
  const metres = { en: 'In metres', de: 'In Metern' };
  const content = html`<form id="vessel" method="post" action="/vessels" enctype="multipart/form-data" data-intake="certified-registration" data-judge-at="/vessels/check">
    ${summary(drawn, problem)}
    <fieldset>
      <legend>${{ en: 'Vessel', de: 'Boot' }[language]}</legend>
      ${field(drawn, 'mark', { label: { en: 'Registration mark', de: 'Kennzeichen' }, hint: { en: 'Such as PW-2040', de: 'Etwa PW-2040' } })}
      ${field(drawn, 'name', { label: { en: 'Name of the vessel', de: 'Name des Bootes' }, hint: { en: 'As it stands on the hull', de: 'Wie er am Rumpf steht' } })}
      ${field(drawn, 'lengthOverall', { label: { en: 'Length overall', de: 'Länge über alles' }, hint: metres })}
      ${field(drawn, 'beam', { label: { en: 'Beam', de: 'Breite' }, hint: metres })}
      ${field(drawn, 'electric', { label: { en: 'It has an electric drive', de: 'Es hat einen Elektroantrieb' } })}
    </fieldset>
    <fieldset>
      <legend>${{ en: 'Insurance', de: 'Versicherung' }[language]}</legend>
      ${field(drawn, 'insuredUntil', { label: { en: 'Insured until', de: 'Versichert bis' }, hint: { en: 'The last day', de: 'Der letzte Tag' } })}
      ${field(drawn, 'certificate', { label: { en: 'Certificate', de: 'Nachweis' }, hint: { en: 'PDF or picture, up to 2 MB', de: 'PDF oder Bild, bis 2 MB' } })}
    </fieldset>
    <fieldset>
      <legend>${{ en: 'Skipper', de: 'Schiffsführung' }[language]}</legend>
      ${field(drawn, 'skipper.email', { label: { en: 'E-mail', de: 'E-Mail' } })} ${field(drawn, 'skipper.phone', { label: { en: 'Phone', de: 'Telefon' } })}
    </fieldset>
    <button type="submit">${{ en: 'Register the vessel', de: 'Boot anmelden' }[language]}</button>
  </form>`;
  return layout(request, { en: 'Register a vessel', de: 'Boot anmelden' }, content);
}
