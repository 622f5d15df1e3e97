import { de } from './de.ts';
import { en } from './en.ts';
import { pl } from './pl.ts';
import type { Words } from './words.ts';

const ALL: { readonly [language: string]: Words } = { en, de, pl };

/** The words of a language, or of English where there are none. */
export function wordsIn(locale: string): Words {
  return ALL[locale.split('-')[0] as string] ?? en;
}

export type { Words } from './words.ts';
