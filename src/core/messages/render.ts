import type { Texts } from '../basics/text.ts';
import type { Finding } from '../basics/verdict.ts';
import { generally } from './generally.ts';
import { compileSentence, made, type Sentence, type Slot } from './sentence.ts';
import { astOf, remember } from './slots.ts';

/** The language that is spoken when none is asked for, and when a text is missing in the one asked for. */
export const DEFAULT_LOCALE = 'en';

/** What a sentence is made of. */
export interface Told {
  readonly info: { readonly rule: string; readonly messages: readonly Texts[] };
  readonly spots: readonly { readonly place: { readonly label: Texts } }[];
  readonly facts: Finding['facts'];
  readonly words: { readonly [slot: string]: Texts | readonly Texts[] };
  readonly labels: { readonly [role: string]: Texts };
}

/** The sentences of a use, by language; locales may come from requests, so there is a limit. */
const sentencesOf = new WeakMap<readonly Texts[], Map<string, Sentence<Told>>>();
const MOST_LOCALES = 50;

/** The sentence of a finding. */
export function renderMessage(told: Told, locale = DEFAULT_LOCALE): string {
  const { messages } = told.info;
  let sentences = sentencesOf.get(messages);
  if (!sentences) {
    sentences = new Map();
    sentencesOf.set(messages, sentences);
  }
  let sentence = sentences.get(locale);
  if (!sentence) {
    if (sentences.size >= MOST_LOCALES) sentences.clear();
    sentence = sentenceIn(messages, locale);
    sentences.set(locale, sentence);
  }
  try {
    return sentence(told);
  } catch {
    // A rule's own facts may leave a slot empty; its finding is worth more than its sentence.
    return `${labelsOf(told, locale)}: ${told.info.rule}`;
  }
}

/** The same sentence; throws where a slot is left empty. For proofs. */
export function renderOrThrow(told: Told, locale: string): string {
  return sentenceIn(told.info.messages, locale)(told);
}

/**
 * The sentence as it stands before anything was submitted: what only a submission or the store fills is named instead.
 *
 * @param unknown the name of what a slot is filled with, unless it is known beforehand
 */
export function renderGenerally(told: Told, locale: string, unknown: (slot: string) => string | undefined): string {
  const chosen = chooseNearest(told.info.messages, locale);
  const spoken = chosen.locale ?? locale;
  const ast = generally(astOf(chosen.text), unknown);
  return compileSentence(ast, supportedLocale(spoken), filler(spoken))(told).trim().replaceAll(/\s+/g, ' ');
}

const compiled = new Map<string, Sentence<Told>>();

/** The nearest text, compiled; one that many uses have is compiled once. */
function sentenceIn(messages: readonly Texts[], locale: string): Sentence<Told> {
  const chosen = chooseNearest(messages, locale);
  const spoken = chosen.locale ?? locale;
  const key = `${spoken}\n${chosen.text}`;
  const known = compiled.get(key);
  if (known) return known;
  const fill = filler(spoken);
  const show = languageOf(spoken).isRightToLeft ? isolating(straight(fill)) : straight(fill);
  return remember(compiled, key, compileSentence(astOf(chosen.text), supportedLocale(spoken), fill, show));
}

/** A text with slots in a language, filled with these. */
export function renderWords(texts: Texts, facts: Told['facts'], locale = DEFAULT_LOCALE): string {
  const layers = (typeof texts === 'object' && layersOf.get(texts)) || [texts];
  if (typeof texts === 'object') layersOf.set(texts, layers);
  return renderMessage({ info: { rule: '', messages: layers }, spots: [], facts, words: {}, labels: {} }, locale);
}

/** The same list each time, by which its sentences are remembered. */
const layersOf = new WeakMap<object, readonly Texts[]>();

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
  // What a request says may be anything.
  if (typeof locale !== 'string') return languageOf(DEFAULT_LOCALE);
  const known = languages.get(locale);
  if (known) return known;
  const parts = locale.split('-');
  const wanted = [...parts.map((_, index) => parts.slice(0, parts.length - index).join('-')), DEFAULT_LOCALE];
  return remember(languages, locale, { wanted, isRightToLeft: RIGHT_TO_LEFT.has(parts[0] as string) });
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

/** "a, b and c" or "a, b or c", in the language. */
function listText(locale: string, type: 'conjunction' | 'disjunction', words: readonly string[]): string {
  if (words.length < 2) return words.join();
  const known = supportedLocale(locale);
  return made(type, known, undefined, () => new Intl.ListFormat(known, { type })).format(words);
}

type Fill = (told: Told, name: string) => Slot;

/** What fills the slots of a message, in a language. */
function filler(locale: string): Fill {
  const inWords = (texts: Texts) => textIn(texts, locale);
  return (told, name) => {
    const { words, facts, labels } = told;
    if (Object.hasOwn(words, name)) {
      const texts = words[name] as Texts | readonly Texts[];
      return Array.isArray(texts) ? listText(locale, 'disjunction', texts.map(inWords)) : inWords(texts as Texts);
    }
    if (Object.hasOwn(facts, name)) {
      const value = facts[name] as Told['facts'][string];
      if (typeof value === 'number') return value;
      return Array.isArray(value) ? listText(locale, 'disjunction', value.map(String)) : String(value);
    }
    if (Object.hasOwn(labels, name)) return textIn(labels[name] as Texts, locale);
    if (name === 'fields') return labelsOf(told, locale);
    if (name === 'fields_count') return new Set(told.spots.map(({ place }) => place.label)).size;
    throw new RangeError(`Nothing fills {${name}}.`);
  };
}

/** The characters that turn the direction of text (Unicode TR 9): a value with them would turn the sentence around it. */
const TURNING = /[\u202a-\u202e\u2066-\u2069]/g;

/** Values are told without what turns the direction of a sentence; findings have them in their facts as they are. */
function straight(fill: Fill): Fill {
  return (told, name) => {
    const slot = fill(told, name);
    return typeof slot === 'string' && Object.hasOwn(told.facts, name) ? slot.replaceAll(TURNING, '') : slot;
  };
}

/** Labels and values keep to their own direction, whatever stands beside them (Unicode TR 9, FSI and PDI). */
function isolating(fill: Fill): Fill {
  return (told, name) => {
    const slot = fill(told, name);
    return typeof slot === 'string' && !Object.hasOwn(told.words, name) ? `\u2068${slot}\u2069` : slot;
  };
}

/** The labels of the blamed fields, each once: "Arrival and Departure". */
function labelsOf({ spots }: Told, locale: string): string {
  const labels = [...new Set(spots.map(({ place }) => textIn(place.label, locale)))];
  return listText(locale, 'conjunction', labels);
}
