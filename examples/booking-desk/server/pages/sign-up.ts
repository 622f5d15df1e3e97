import { ownerSignUp } from '@pellwick/marina';
import type { Request } from 'express';
import { html } from 'hono/html';
import type { ShownForm } from 'jestril/form';
import { type Drawn, field, summary } from './fields.ts';
import { languageOf } from './language.ts';
import { layout } from './layout.ts';

/** The form of a new account. */
export function signUpPage(request: Request, form: ShownForm, problem?: string): Promise<string> {
  const drawn: Drawn = { intake: ownerSignUp, form, language: languageOf(request) };
  const { language } = drawn;
  const content = html`<form id="sign-up" method="post" action="/sign-up" data-intake="owner-sign-up" data-judge-at="/sign-up/check">
    ${summary(drawn, problem)}
    <fieldset>
      <legend>${{ en: 'About you', de: 'Über Sie' }[language]}</legend>
      ${field(drawn, 'name', { label: { en: 'Name', de: 'Name' } })} ${field(drawn, 'born', { label: { en: 'Born', de: 'Geboren' } })}
      ${field(drawn, 'contact.email', { label: { en: 'E-mail', de: 'E-Mail' }, hint: { en: 'This, or a phone number', de: 'Diese oder eine Telefonnummer' } })}
      ${field(drawn, 'contact.phone', { label: { en: 'Phone', de: 'Telefon' }, hint: { en: 'Such as +47 123 45 678', de: 'Etwa +47 123 45 678' } })}
    </fieldset>
    <fieldset>
      <legend>${{ en: 'Your passphrase', de: 'Ihre Passphrase' }[language]}</legend>
      ${field(drawn, 'passphrase', { label: { en: 'Passphrase', de: 'Passphrase' }, hint: { en: 'Twelve characters or more', de: 'Zwölf Zeichen oder mehr' } })}
      ${field(drawn, 'passphraseAgain', { label: { en: 'Passphrase again', de: 'Passphrase noch einmal' }, hint: { en: 'The same once more', de: 'Dieselbe noch einmal' } })}
      ${field(drawn, 'terms', { label: { en: 'I accept the terms of the marina', de: 'Ich nehme die Bedingungen des Hafens an' } })}
    </fieldset>
    <button type="submit">${{ en: 'Open the account', de: 'Konto eröffnen' }[language]}</button>
  </form>`;
  return layout(request, { en: 'Open an account', de: 'Konto eröffnen' }, content);
}
