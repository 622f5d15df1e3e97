/** One sentence or word for people: in one language, or one text a language (`{ en: '…', nb: '…' }`). */
export type Texts = string | { readonly [locale: string]: string };

/** Stands where something secret would stand. */
export const WITHHELD = '…';

/**
 * The number of Unicode code points, as PostgreSQL's `char_length` and JSON Schema's `maxLength` count.
 * `text.length` counts UTF-16 units, which gives an emoji two.
 */
export function codePoints(text: string): number {
  let count = text.length;
  for (let i = 0; i < text.length - 1; i++) {
    const unit = text.charCodeAt(i);
    if (unit >= 0xd800 && unit <= 0xdbff) {
      count--;
      i++;
    }
  }
  return count;
}

/** True when nothing but white space (ECMAScript's `WhiteSpace` and line ends) is there. */
export function isBlank(text: string): boolean {
  return text.length === 0 || (text.charCodeAt(0) <= 0x20 || text.charCodeAt(0) > 0x7f ? text.trim() === '' : false);
}

const LONE_SURROGATE = /[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/;

/**
 * Text that a store can keep: no NUL, which PostgreSQL refuses, and no half of a surrogate pair,
 * which has no UTF-8 form (RFC 3629).
 */
export function isStorable(text: string): boolean {
  return !text.includes('\0') && (HAS_WELL_FORMED ? (text as WellFormed).isWellFormed() : !LONE_SURROGATE.test(text));
}

// ES2024; Node.js 20 and current browsers have it, older browsers take the expression.
const HAS_WELL_FORMED = 'isWellFormed' in String.prototype;
type WellFormed = string & { isWellFormed(): boolean };

/** At most `most` code points of a text, an ellipsis after what was cut. */
export function shorten(text: string, most = 100): string {
  if (text.length <= most) return text;
  const cut = text.charCodeAt(most - 1);
  return `${text.slice(0, cut >= 0xd800 && cut <= 0xdbff ? most - 1 : most)}…`;
}
