import { text } from '../kinds/text.ts';
import { type Clean, cleaning } from './clean.ts';

type TextStep = Clean<'text'>;

const TRIM = cleaning('trim', text, (value) => value.trim());
const COLLAPSE = cleaning('collapse', text, (value) => value.replace(/\s+/gu, ' '));
const FOLD_CASE = cleaning('fold-case', text, (value) => value.toLowerCase());
const LINE_ENDS = cleaning('line-ends', text, (value) => value.replace(/\r\n?/g, '\n'));
// Cc but for tab and line feed, and the format characters that turn the direction of text (Unicode TR 9).
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is dropped
const CONTROLS = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]/g;
const DROP_CONTROLS = cleaning('drop-controls', text, (value) => value.replace(CONTROLS, ''));

const ENTITIES: { readonly [character: string]: string } = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
const ESCAPE_MARKUP = cleaning('escape-markup', text, (value) =>
  value.replace(/&(?!(?:amp|lt|gt|quot|#39);)|[<>"']/g, (character) => ENTITIES[character] as string),
);

/** Takes white space off both ends. */
export const trim = (): TextStep => TRIM;

/** Makes every run of white space one blank. */
export const collapse = (): TextStep => COLLAPSE;

/** Turns letters into lower case, by Unicode's rules for no language in particular. */
export const foldCase = (): TextStep => FOLD_CASE;

/** Writes the same characters the same way (Unicode TR 15). Defaults to NFC. */
export const unicodeForm = (form: 'NFC' | 'NFD' | 'NFKC' | 'NFKD' = 'NFC'): TextStep =>
  cleaning(`unicode-${form.toLowerCase()}`, text, (value) => value.normalize(form));

/** Makes every line end a line feed; forms send carriage return and line feed. */
export const lineEnds = (): TextStep => LINE_ENDS;

/** Drops control characters, but for tabs and line feeds, and those that turn the direction of text. */
export const dropControls = (): TextStep => DROP_CONTROLS;

/**
 * Writes the characters that HTML reads as markup as entities. What is an entity already stays, so that cleaning twice
 * changes nothing; escape at the place of display instead where `&amp;` may be meant as typed.
 */
export const escapeMarkup = (): TextStep => ESCAPE_MARKUP;
