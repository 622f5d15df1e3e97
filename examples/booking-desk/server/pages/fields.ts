import { html } from 'hono/html';
import { type ControlAttributes, controlAttributes, type ShownForm } from 'jestril/form';
import { type Language, SIGN_IN, type Words } from './language.ts';
import type { Markup } from './layout.ts';

/** A form as it is drawn: which intake, what was typed, what to mend. */
export interface Drawn {
  readonly intake: { readonly name: string };
  readonly form: ShownForm;
  readonly language: Language;
  /** The form changes what is stored. */
  readonly amends?: boolean;
}

export interface FieldWords {
  readonly label: Words;
  readonly hint?: Words;
  /** Spans both columns. */
  readonly wide?: boolean;
  readonly rows?: number;
}

const pointerOf = (name: string) => `/${name.replaceAll('.', '/')}`;
const idOf = (name: string) => name.replaceAll('.', '-');

/** A text box, tick box, day, file … as the intake's field wants it, with its label, hint and findings. */
export function field(drawn: Drawn, name: string, words: FieldWords): Markup {
  const { type, ...attributes } = controlAttributes(drawn.intake, pointerOf(name), drawn);
  if (words.rows)
    return around(
      drawn,
      name,
      words,
      html`<textarea ${common(drawn, name, words, attributes)} rows="${words.rows}">${drawn.form.value(name)}</textarea>`,
    );
  if (type === 'checkbox') return tick(drawn, name, words, attributes);
  const value = type === 'password' || type === 'file' ? '' : drawn.form.value(name);
  const more = type === 'password' ? { ...attributes, autocomplete: 'new-password' } : attributes;
  const control = html`<input ${common(drawn, name, words, more)} type="${type ?? 'text'}" value="${value}" />`;
  return around(drawn, name, words, control, attributes.required);
}

/** A list to choose from. */
export function choose(
  drawn: Drawn,
  name: string,
  words: FieldWords,
  options: readonly (readonly [value: string, text: string])[],
): Markup {
  const { required } = controlAttributes(drawn.intake, pointerOf(name));
  const chosen = drawn.form.value(name);
  const list = options.map(([value, text]) =>
    value === chosen ? html`<option value="${value}" selected>${text}</option>` : html`<option value="${value}">${text}</option>`,
  );
  return around(drawn, name, words, html`<select ${common(drawn, name, words, required ? { required } : {})}>${list}</select>`, required);
}

function tick(drawn: Drawn, name: string, words: FieldWords, attributes: ControlAttributes): Markup {
  const isTicked = ['on', 'true', '1'].includes(drawn.form.value(name)) ? { checked: true } : {};
  return html`<div class="field wide tick" data-field="${pointerOf(name)}">
    <input ${common(drawn, name, words, { ...attributes, ...isTicked })} type="checkbox" />
    <label for="${idOf(name)}">${words.label[drawn.language]}${attributes.required ? MARK : ''}</label>
    ${findings(drawn, name)}
  </div>`;
}

/** Seen; what is read aloud says it by itself. */
export const MARK = html`<span class="needed" aria-hidden="true">*</span>`;

function around(drawn: Drawn, name: string, words: FieldWords, control: Markup, isNeeded = false): Markup {
  return html`<div class="field${words.wide ? ' wide' : ''}" data-field="${pointerOf(name)}">
    <label for="${idOf(name)}">${words.label[drawn.language]}${isNeeded ? MARK : ''}</label>
    ${words.hint ? html`<p class="hint" id="${idOf(name)}-hint">${words.hint[drawn.language]}</p>` : ''}
    ${control} ${findings(drawn, name)}
  </div>`;
}

/** What every control has: its name, what describes it, whether something is wrong, and the native constraints. */
function common({ form }: Drawn, name: string, { hint }: FieldWords, attributes: object): Markup[] {
  const pointer = pointerOf(name);
  const describedBy = [...(hint ? [`${idOf(name)}-hint`] : []), ...form.messages(pointer).map((_, at) => `finding-${idOf(name)}-${at}`)];
  const all: { readonly [attribute: string]: unknown } = {
    id: idOf(name),
    name,
    ...attributes,
    ...(describedBy.length > 0 && { 'aria-describedby': describedBy.join(' ') }),
    ...(form.isBlamed(pointer) && { 'aria-invalid': 'true' }),
  };
  return Object.entries(all).map(([attribute, value]) => (value === true ? html` ${attribute}` : html` ${attribute}="${String(value)}"`));
}

/** The findings that stand at a field. */
export function findings({ form, language }: Drawn, name: string): Markup[] {
  return form
    .messages(pointerOf(name))
    .map((message, at) => html`<p class="finding" data-finding="error" id="finding-${idOf(name)}-${at}" lang="${language}">${message}</p>`);
}

/** Everything that is to be mended, each linked to its field. */
export function summary({ form, language }: Drawn, problem?: string): Markup {
  const items = form.findings.map(({ places, message }) => {
    const id = idOf((places[0]?.pointer ?? '').slice(1).replaceAll('/', '.'));
    return html`<li lang="${language}"><a href="#${id}">${message}</a></li>`;
  });
  const isHidden = items.length === 0 && !problem;
  const isOut = problem === SIGN_IN[language];
  return html`<section class="notice" data-summary tabindex="-1" ${isHidden ? html`hidden` : ''}>
    <h2>${problem ?? { en: 'Please look at this', de: 'Bitte noch einmal ansehen' }[language]}</h2>
    ${items.length > 0 ? html`<ul data-findings>${items}</ul>` : ''}
    ${isOut ? html`<p><a href="/sign-in" target="_blank">${{ en: 'Sign in (in a new tab)', de: 'Anmelden (in einem neuen Tab)' }[language]}</a></p>` : ''}
  </section>
  <p class="hint">${{ en: '* needed', de: '* erforderlich' }[language]}</p>`;
}
