import type { Kind } from '../declared/kind.ts';
import type { Clean } from '../declared/rule.ts';
import { text } from '../kinds/text.ts';
import { cleaning } from './clean.ts';

type TextStep = Clean<'text'>;

function ours(name: string, kind: Kind<'text', string>, apply: (value: string) => string): TextStep {
  return { ...cleaning(name, kind, apply), isOurs: true } as TextStep;
}

const TRIM = ours('trim', text, (value) => value.trim());
const COLLAPSE = ours('collapse', text, (value) => value.replace(/\s+/gu, ' '));
const FOLD_CASE = ours('fold-case', text, (value) => value.toLowerCase());
const LINE_ENDS = ours('line-ends', text, (value) => value.replace(/\r\n?/g, '\n'));
// Cc but for tab and line feed, and the format characters that turn the direction of text (Unicode TR 9).
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is dropped
const CONTROLS = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/g;
const DROP_CONTROLS = ours('drop-controls', text, (value) => value.replace(CONTROLS, ''));

const ENTITIES: { readonly [character: string]: string } = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
const ESCAPE_MARKUP = ours('escape-markup', text, (value) =>
  value.replace(/&(?!(?:amp|lt|gt|quot|#39);)|[<>"']/g, (character) => ENTITIES[character] as string),
);

/**
 * Takes white space off both ends.
 *
 * @example text('F', trim())
 * @holds ' A1 '
 * @fails ' '
 */
export const trim = (): TextStep => TRIM;

/**
 * Makes every run of white space one blank.
 *
 * @example text('F', collapse())
 * @holds 'near\n\n  the pier'
 * @fails ' '
 */
export const collapse = (): TextStep => COLLAPSE;

/**
 * Turns letters into lower case, by Unicode's rules for no language in particular.
 *
 * @law Turns letters into lower case.
 * @example text('F', foldCase())
 * @holds 'Ida@Fjordmail.Example'
 * @fails ' '
 */
export const foldCase = (): TextStep => FOLD_CASE;

/**
 * Writes the same characters the same way (Unicode TR 15). Defaults to NFC.
 *
 * @law Writes the same characters the same way (Unicode TR 15); NFC unless another form is named.
 * @example text('F', unicodeForm())
 * @holds 'A\u030a'
 * @fails ' '
 */
export const unicodeForm = (form: 'NFC' | 'NFD' | 'NFKC' | 'NFKD' = 'NFC'): TextStep =>
  ours(`unicode-${form.toLowerCase()}`, text, (value) => value.normalize(form));

/**
 * Makes every line end a line feed; forms send carriage return and line feed.
 *
 * @law Makes every line end a line feed.
 * @example text('F', lineEnds())
 * @holds 'a\r\nb'
 * @fails ' '
 */
export const lineEnds = (): TextStep => LINE_ENDS;

/**
 * Drops control characters, but for tabs and line feeds, and those that turn the direction of text.
 *
 * @law Drops control characters but for tabs and line feeds, and those that turn the direction of text.
 * @example text('F', dropControls())
 * @holds 'a\u202e\u0007b'
 * @fails '\u0007'
 */
export const dropControls = (): TextStep => DROP_CONTROLS;

/**
 * Writes the characters that HTML reads as markup as entities. What is an entity already stays, so that cleaning twice
 * changes nothing; escape at the place of display instead where `&amp;` may be meant as typed.
 *
 * @law Writes what HTML reads as markup as entities; what is an entity already stays.
 * @example text('F', escapeMarkup())
 * @holds '<b> & &amp;'
 * @fails ' '
 */
export const escapeMarkup = (): TextStep => ESCAPE_MARKUP;
