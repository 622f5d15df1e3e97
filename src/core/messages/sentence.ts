import { sumOfProducts } from '../basics/exact.ts';
import { WITHHELD } from '../basics/text.ts';
import type { Element } from './parse.ts';
import { remember } from './slots.ts';
import { dateOptions, numberOptions } from './styles.ts';

// Compiles the syntax tree of an ICU message to functions, once a message and language. Formatters of Intl are made when
// a sentence first needs them, and the last number told is remembered: a message's numbers are mostly parameters.

export type Ast = readonly Element[];
export type Slot = string | number;
/** Gives what fills a slot; throws when nothing does. */
export type Fill<F> = (from: F, name: string) => Slot;
export type Sentence<F> = (from: F) => string;
type Part<F> = (from: F, count: number) => string;

/** `show` gives what stands for itself in the sentence. */
export function compileSentence<F>(ast: Ast, locale: string, fill: Fill<F>, show: Fill<F> = fill): Sentence<F> {
  const part = new Compiler(locale, fill, show).all(ast);
  return (from) => part(from, Number.NaN);
}

class Compiler<F> {
  readonly #locale: string;
  readonly #fill: Fill<F>;
  readonly #show: Fill<F>;

  constructor(locale: string, fill: Fill<F>, show: Fill<F>) {
    this.#locale = locale;
    this.#fill = fill;
    this.#show = show;
  }

  all(elements: readonly Element[]): Part<F> {
    const parts = elements.map((element) => (element.type === 0 ? element.value : this.#part(element)));
    const [first = '', second, third] = parts;
    if (parts.length < 2) return typeof first === 'string' ? () => first : first;
    // Most sentences are a word before or after one slot, or a slot between words.
    if (parts.length === 2 && typeof first === 'function' && typeof second === 'string')
      return (from, count) => first(from, count) + second;
    if (parts.length === 3 && typeof first === 'string' && typeof second === 'function' && typeof third === 'string')
      return (from, count) => first + second(from, count) + third;
    return (from, count) => {
      let sentence = '';
      for (const part of parts) sentence += typeof part === 'string' ? part : part(from, count);
      return sentence;
    };
  }

  #part(element: Exclude<Element, { type: 0 }>): Part<F> {
    const fill = this.#fill;
    switch (element.type) {
      case 1: {
        const { value } = element;
        const show = this.#show;
        return (from) => String(show(from, value));
      }
      case 2: {
        const { value, style } = element;
        const { scale = 1, ...options } = numberOptions(style);
        const format = numberFormat(this.#locale, options);
        return (from) => {
          const slot = fill(from, value);
          // What is written with places is told with them: a sum of money is 60.00, and not 60.
          if (typeof slot === 'string' && isExactNumber(slot))
            return format(scale === 1 ? slot : sumOfProducts([[slot, scale]]), style === undefined);
          const number = numberIn(slot);
          return Number.isNaN(number) ? WITHHELD : format(number * scale);
        };
      }
      case 3:
      case 4: {
        const { value, style } = element;
        const options = dateOptions(element.type === 3 ? 'date' : 'time', style);
        const locale = this.#locale;
        // The last one told is remembered: of a day that many submissions name, and of a bound.
        let last = WITHHELD;
        let said = WITHHELD;
        return (from) => {
          const text = String(fill(from, value));
          if (text !== last) {
            said = dateFormat(locale, options).format(dateOf(text));
            last = text;
          }
          return said;
        };
      }
      case 5: {
        const options = this.#options(element);
        const { value } = element;
        return (from, count) => {
          const key = String(fill(from, value));
          const chosen = options.get(key) ?? options.get('other');
          if (!chosen) throw new RangeError(`No branch of {${value}} for ${key}.`);
          return chosen(from, count);
        };
      }
      case 6: {
        const options = this.#options(element);
        const { value, offset = 0, pluralType } = element;
        const locale = this.#locale;
        let rules: Intl.PluralRules | undefined;
        return (from) => {
          const number = numberIn(fill(from, value));
          const count = number - offset;
          let chosen = options.get(`=${number}`);
          if (!chosen) {
            rules ??= made(
              'plural',
              locale,
              { type: pluralType },
              () => new Intl.PluralRules(locale, pluralType ? { type: pluralType } : {}),
            );
            chosen = options.get(rules.select(count)) ?? options.get('other');
          }
          if (!chosen) throw new RangeError(`No branch of {${value}} for ${number}.`);
          return chosen(from, count);
        };
      }
      case 7: {
        const format = numberFormat(this.#locale, undefined);
        return (_from, count) => (Number.isNaN(count) ? WITHHELD : format(count));
      }
      default:
        throw new TypeError('A message has no tags.');
    }
  }

  #options(element: Extract<Element, { type: 5 | 6 }>): Map<string, Part<F>> {
    return new Map(Object.entries(element.options).map(([key, { value }]) => [key, this.all(value)]));
  }
}

/** What is withheld is no number, and is shown as what it is. */
function numberIn(slot: Slot): number {
  return typeof slot === 'number' ? slot : slot === WITHHELD ? Number.NaN : Number(slot);
}

const formatters = new Map<string, unknown>();

/** One formatter of each sort, locale and options: making one costs a hundred times as much as using it. */
export function made<T>(sort: string, locale: string, options: object | undefined, make: () => T): T {
  const key = `${sort} ${locale} ${JSON.stringify(options)}`;
  return (formatters.get(key) as T | undefined) ?? remember(formatters as Map<string, T>, key, make());
}

// A number is told as precisely as the rule compares it.
function numberFormat(locale: string, options: object | undefined): (number: number | string, isAsWritten?: boolean) => string {
  let format: Intl.NumberFormat | undefined;
  let last: number | string = Number.NaN;
  let text = '';
  return (number, isAsWritten = false) => {
    if (number !== last) {
      const places = isAsWritten ? ((number as string).split('.')[1]?.length ?? 0) : 0;
      if (places > 0) {
        const least = { ...options, minimumFractionDigits: Math.min(places, MOST_PLACES) };
        return exactText(
          made('number', locale, least, () => formatWith(locale, least)),
          number as string,
        );
      }
      format ??= made('number', locale, options, () => formatWith(locale, options));
      text = typeof number === 'string' ? exactText(format, number) : format.format(number);
      last = number;
    }
    return text;
  };
}

/** Places that every run time takes; the newer ones take 100 (ECMA-402 since 2024). */
const MOST_PLACES = 20;

function formatWith(locale: string, options: object | undefined): Intl.NumberFormat {
  return new Intl.NumberFormat(locale, { maximumFractionDigits: MOST_PLACES, ...options });
}

let isTextTaken: boolean | undefined;

/** Whether the run time formats decimal text with all its digits, as those of ECMA-402 since 2023 do. */
function takesText(): boolean {
  const text = '12345678901234567891';
  isTextTaken ??= new Intl.NumberFormat('en', { useGrouping: false }).format(text as never) === text;
  return isTextTaken;
}

/** A decimal number as text, which a number of the language would round. */
function exactText(format: Intl.NumberFormat, text: string): string {
  const [whole = '0', fraction = ''] = text.replace('-', '').split('.');
  if (takesText() && fraction.length <= MOST_PLACES) return format.format(text as never);
  // By hand: the whole part as the locale groups it, and the other digits one by one.
  const digits = [...fraction].map((digit) => format.format(BigInt(digit)));
  const point = format.formatToParts(0.5).find(({ type }) => type === 'decimal')?.value ?? '.';
  const sign = text.startsWith('-') ? (format.formatToParts(-1).find(({ type }) => type === 'minusSign')?.value ?? '-') : '';
  return `${sign}${format.format(BigInt(whole))}${digits.length > 0 ? point : ''}${digits.join('')}`;
}

/** Exact decimals are texts. */
function isExactNumber(text: string): boolean {
  return /^-?[0-9]+(\.[0-9]+)?$/.test(text);
}

// A day is a day wherever the reader is.
function dateFormat(locale: string, options: Intl.DateTimeFormatOptions | undefined): Intl.DateTimeFormat {
  return made('date', locale, options, () => new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' }));
}

/** A day or moment as a date; a time of day on a day of no matter. */
function dateOf(text: string): Date {
  if (text.length === 10) return new Date(`${text}T00:00:00Z`);
  return new Date(text.includes('T') ? text : `1970-01-01T${text}Z`);
}
