import { fault, nearest } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import { DEFAULT_LOCALE } from '../messages/render.ts';

/** What an intake says in other languages, by locale. */
export type Languages = {
  readonly [locale: string]: {
    readonly labels?: { readonly [path: string]: string };
    readonly options?: { readonly [path: string]: { readonly [option: string]: string } };
    readonly messages?: { readonly [name: string]: string };
  };
};

/** A text and its translations as one. What the intake says itself counts as English. */
function together(own: Texts | undefined, translations: { readonly [locale: string]: string }): Texts | undefined {
  if (Object.keys(translations).length === 0) return own;
  return { ...(typeof own === 'string' ? { [DEFAULT_LOCALE]: own } : own), ...translations };
}

/** The intake's messages with those in its languages. */
export function messagesOf(own: { readonly [name: string]: Texts }, languages: Languages): { readonly [name: string]: Texts } {
  const names = new Set([...Object.keys(own), ...Object.values(languages).flatMap(({ messages = {} }) => Object.keys(messages))]);
  return Object.fromEntries(
    [...names].map((name) => [
      name,
      together(
        Object.hasOwn(own, name) ? own[name] : undefined,
        pick(languages, ({ messages }) => messages?.[name]),
      ) as Texts,
    ]),
  );
}

/** A field's label in all languages. */
export function labelOf(label: string, path: string, languages: Languages): Texts {
  return together(
    label,
    pick(languages, ({ labels }) => labels?.[path]),
  ) as Texts;
}

/** The words of an option in all languages. */
export function optionOf(words: Texts, option: string | number, path: string, languages: Languages): Texts {
  return together(
    words,
    pick(languages, ({ options }) => options?.[path]?.[option]),
  ) as Texts;
}

function pick(languages: Languages, of: (language: Languages[string]) => string | undefined): { [locale: string]: string } {
  const found: { [locale: string]: string } = {};
  for (const [locale, language] of Object.entries(languages)) {
    const text = of(language);
    if (text !== undefined) found[locale] = text;
  }
  return found;
}

/** Refuses translations for fields that are not there. */
export function checkLanguages(intake: string, languages: Languages, paths: readonly string[]): void {
  for (const [locale, { labels = {}, options = {} }] of Object.entries(languages)) {
    for (const path of [...Object.keys(labels), ...Object.keys(options)]) {
      if (!paths.includes(path)) fault(`Intake "${intake}", language "${locale}": "${path}" is no field; ${nearest(path, paths)}`);
    }
  }
}
