import type { Catalogue } from './catalogue.ts';
import * as all from './index.ts';
import type { Language } from './language.ts';
import type { Words } from './words.ts';

// Every language that the package has, where it is no matter how much is loaded.

const exported: readonly (Language | Words)[] = Object.values(all);
export const SHIPPED: readonly Language[] = exported.flatMap((each) => ('messages' in each ? [each] : []));
const WORDS: readonly Words[] = exported.flatMap((each) => ('language' in each ? [each] : []));

/** The words of a language: of the catalogues given, of the package, or of English where there are none. */
export function wordsIn(locale: string, catalogues: readonly Catalogue[] = []): Words {
  const [language] = locale.split('-');
  const own = catalogues.find((catalogue) => catalogue.words && catalogue.locale.split('-')[0] === language);
  return own?.words ?? WORDS.find((words) => words.language === language) ?? all.enWords;
}
