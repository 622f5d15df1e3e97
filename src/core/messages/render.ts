import { IntlMessageFormat } from 'intl-messageformat';
import type { Failure } from '../plan/run.ts';
import { type Texts, WITHHELD } from '../text.ts';
import { astOf, dateSlotsOf, remember } from './slots.ts';

/** The language that is spoken when none is asked for, and when a text is missing in the one asked for. */
export const DEFAULT_LOCALE = 'en';

/** The sentence of a finding. */
export function renderMessage(failure: Failure, locale = DEFAULT_LOCALE): string {
  const chosen = chooseNearest(failure.info.messages, locale);
  const { format, dates } = formatterOf(chosen.text, chosen.locale ?? locale);
  try {
    return format(slotsFor(failure, chosen.locale ?? locale, dates));
  } catch {
    // A rule's own facts may leave a slot empty; its finding is worth more than its sentence.
    return `${labelsOf(failure, locale)}: ${failure.info.rule}`;
  }
}

/** A text in a language, or a near one, or English. */
export function textIn(texts: Texts, locale = DEFAULT_LOCALE): string {
  return typeof texts === 'string' ? texts : chooseNearest([texts], locale).text;
}

interface Chosen {
  readonly text: string;
  /** The locale that the text is in, where it says. */
  readonly locale?: string;
}

/** The nearest text in the language wanted, then the nearest in English, then the nearest at all. */
function chooseNearest(layers: readonly Texts[], locale: string): Chosen {
  for (const wanted of languageOf(locale).wanted) {
    for (const layer of layers) {
      const chosen = choose(layer, wanted);
      if (chosen) return chosen;
    }
  }
  for (const layer of layers) {
    const [first] = Object.entries(layer);
    if (first) return { locale: first[0], text: first[1] };
  }
  return { text: '' };
}

function choose(texts: Texts, locale: string): Chosen | undefined {
  if (typeof texts === 'string') return { text: texts };
  const text = Object.hasOwn(texts, locale) ? texts[locale] : undefined;
  return text === undefined ? undefined : { text, locale };
}

interface Language {
  /** The tags to look for: `de-AT`, then `de` (RFC 4647 look-up), then English. */
  readonly wanted: readonly string[];
  readonly isRightToLeft: boolean;
}

const RIGHT_TO_LEFT = new Set(['ar', 'dv', 'fa', 'he', 'ku', 'ps', 'sd', 'ug', 'ur', 'yi']);
const languages = new Map<string, Language>();

function languageOf(locale: string): Language {
  const known = languages.get(locale);
  if (known) return known;
  const parts = locale.split('-');
  const wanted = [...parts.map((_, index) => parts.slice(0, parts.length - index).join('-')), DEFAULT_LOCALE];
  return remember(languages, locale, { wanted, isRightToLeft: RIGHT_TO_LEFT.has(parts[0] as string) });
}

interface Formatter {
  readonly format: (slots: Record<string, Slot>) => string;
  readonly dates: ReadonlySet<string>;
}

// Locales may come from requests, so what is remembered of them has a limit.
const formatters = new Map<string, Formatter>();

function formatterOf(text: string, locale: string): Formatter {
  const supported = supportedLocale(locale);
  const key = `${supported}\n${text}`;
  let formatter = formatters.get(key);
  if (!formatter) {
    const ast = astOf(text);
    const format = isPlain(ast) ? (slots: Record<string, Slot>) => joined(ast, slots) : formatOf(ast, supported);
    formatter = { format, dates: dateSlotsOf(text) };
    remember(formatters, key, formatter);
  }
  return formatter;
}

type Ast = ReturnType<typeof astOf>;

/** Most sentences have nothing to format: only words, and slots that say what they hold. */
function isPlain(ast: Ast): boolean {
  return ast.every(({ type }) => type === 0 || type === 1);
}

function joined(ast: Ast, slots: Record<string, Slot>): string {
  let sentence = '';
  for (const element of ast) {
    const { value } = element as { readonly value: string };
    if (element.type === 1 && !Object.hasOwn(slots, value)) throw new RangeError(`Nothing fills {${value}}.`);
    sentence += element.type === 1 ? String(slots[value]) : value;
  }
  return sentence;
}

function formatOf(ast: Ast, locale: string): Formatter['format'] {
  const message = new IntlMessageFormat(ast as ConstructorParameters<typeof IntlMessageFormat>[0], locale, undefined, {
    formatters: PRECISE,
  });
  return (slots) => String(message.format(slots));
}

const supported = new Map<string, string>();

function supportedLocale(locale: string): string {
  let answer = supported.get(locale);
  if (answer === undefined) {
    try {
      answer = Intl.NumberFormat.supportedLocalesOf(locale)[0] ?? DEFAULT_LOCALE;
    } catch {
      answer = DEFAULT_LOCALE;
    }
    remember(supported, locale, answer);
  }
  return answer;
}

const made = new Map<string, unknown>();

/** One formatter of each sort, locale and options: making one costs a hundred times as much as using it. */
function remembered<F>(sort: string, locale: unknown, options: object | undefined, make: () => F): F {
  const key = `${sort} ${locale} ${JSON.stringify(options)}`;
  let formatter = made.get(key) as F | undefined;
  if (!formatter) {
    formatter = make();
    remember(made, key, formatter);
  }
  return formatter;
}

type Locales = string | string[];

/** What is withheld is no number and no date, and is shown as what it is. */
function orWithheld<F extends { format(value: never): string }>(formatter: F, isWithheld: (value: unknown) => boolean): F {
  const format = (value: unknown) => (value === WITHHELD || isWithheld(value) ? WITHHELD : formatter.format(value as never));
  // The message formatter asks for no more than this.
  return { format } as unknown as F;
}

// A number is told as precisely as the rule compares it, and a day is a day wherever the reader is.
const PRECISE = {
  getNumberFormat: (locales?: Locales, options?: object) =>
    remembered('number', locales, options, () =>
      orWithheld(new Intl.NumberFormat(locales, { maximumFractionDigits: 20, ...options }), Number.isNaN),
    ),
  getDateTimeFormat: (locales?: Locales | readonly string[], options?: Intl.DateTimeFormatOptions) =>
    remembered('date', locales, options, () =>
      orWithheld(new Intl.DateTimeFormat(locales as Locales, { ...options, timeZone: 'UTC' }), (value) => value === WITHHELD),
    ),
  getPluralRules: (locales?: Locales | readonly string[], options?: Intl.PluralRulesOptions) =>
    remembered('plural', locales, options, () => new Intl.PluralRules(locales as Locales, options)),
};

/** "a, b and c" or "a, b or c", in the language. */
function listText(locale: string, type: 'conjunction' | 'disjunction', words: readonly string[]): string {
  if (words.length < 2) return words.join();
  const known = supportedLocale(locale);
  return remembered(type, known, undefined, () => new Intl.ListFormat(known, { type })).format(words);
}

type Slot = string | number | Date;

function slotsFor(failure: Failure, locale: string, dates: ReadonlySet<string>): Record<string, Slot> {
  const slots: Record<string, Slot> = {
    fields: labelsOf(failure, locale),
    fields_count: new Set(failure.spots.map(({ place }) => place.label)).size,
  };
  for (const [role, label] of Object.entries(failure.labels)) slots[role] = textIn(label, locale);
  for (const [fact, value] of Object.entries(failure.facts)) {
    if (Array.isArray(value)) slots[fact] = listText(locale, 'disjunction', value.map(String));
    else if (typeof value === 'string' && dates.has(fact) && value !== WITHHELD) slots[fact] = dateOf(value);
    else slots[fact] = typeof value === 'number' ? value : String(value);
  }
  if (languageOf(locale).isRightToLeft) isolate(slots);
  const inWords = (texts: Texts) => textIn(texts, locale);
  for (const [slot, texts] of Object.entries(failure.words)) {
    slots[slot] = Array.isArray(texts) ? listText(locale, 'disjunction', texts.map(inWords)) : inWords(texts as Texts);
  }
  return slots;
}

/** Labels and values keep to their own direction, whatever stands beside them (Unicode TR 9, FSI and PDI). */
function isolate(slots: Record<string, Slot>): void {
  for (const [name, value] of Object.entries(slots)) if (typeof value === 'string') slots[name] = `\u2068${value}\u2069`;
}

/** A day or moment as a date; a time of day on a day of no matter. */
function dateOf(text: string): Date {
  if (text.length === 10) return new Date(`${text}T00:00:00Z`);
  return new Date(text.includes('T') ? text : `1970-01-01T${text}Z`);
}

/** The labels of the blamed fields, each once: "Arrival and Departure". */
function labelsOf({ spots }: Failure, locale: string): string {
  const labels = [...new Set(spots.map(({ place }) => textIn(place.label, locale)))];
  return listText(locale, 'conjunction', labels);
}
