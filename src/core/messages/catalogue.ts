import type { Texts } from '../basics/text.ts';
import type { Catalogue } from './catalogues/catalogue.ts';
import type { SentenceId } from './catalogues/language.ts';

/** What the engine finds by itself; an intake's `messages` may give other words for it. */
export type EngineId = 'needed' | 'blank' | 'readable' | 'stranger' | 'known' | 'tag' | 'too-many';

/** The sentences of the engine itself, by reserved id. Rules bring their own. */
export const sentences: { readonly [id in EngineId]: { readonly en: string } } = {
  needed: { en: '{field} is needed.' },
  blank: { en: '{field} must not be blank.' },
  readable: { en: '{field} must be given once.' },
  stranger: { en: 'There is no field "{key}" here.' },
  known: { en: '{fields_count, plural, one {{fields} must be one that exists.} other {{fields} must belong to a record that exists.}}' },
  tag: { en: '{field} must be {options}.' },
  'too-many': { en: '{field} must have at most {most, plural, one {# entry} other {# entries}}.' },
};

/** Said of a submission that would cost more than its budget of entries allows. */
export const tooMuchWork = { en: '{field}: there are too many entries here to be judged together.' } as const;

export const engineIds = Object.keys(sentences) as readonly EngineId[];

export function isEngineId(id: string): id is EngineId {
  return Object.hasOwn(sentences, id);
}

const common = ['field', 'fields', 'fields_count'];

/** What a message for each may tell. */
export const engineSlots: { readonly [id in EngineId]: readonly string[] } = {
  needed: common,
  blank: common,
  readable: [...common, 'options'],
  stranger: [...common, 'key'],
  known: common,
  tag: [...common, 'options'],
  'too-many': [...common, 'most'],
};

/** What catalogues say for an id, the furthest layer of all. */
export function inCatalogues(catalogues: readonly Catalogue[], id: string): Texts[] {
  return catalogues.flatMap(({ locale, messages }) => (Object.hasOwn(messages, id) ? [{ [locale]: messages[id] as string }] : []));
}

/** A word that fills a sentence, in English and in the languages of catalogues. */
export function wordIn(catalogues: readonly Catalogue[], id: SentenceId, en: string): Texts {
  return Object.assign({ en }, ...inCatalogues(catalogues, id));
}
