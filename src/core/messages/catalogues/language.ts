import type { Catalogue } from './catalogue.ts';
import type { de } from './de.ts';

/** Everything that a language has a sentence for; a test holds it against what is said. */
export type SentenceId = keyof (typeof de)['messages'];

/** A catalogue that lacks nothing, and the compiler says what it lacks: `export const fr: Language = { locale: 'fr', messages: { … } }`. */
export interface Language extends Catalogue {
  readonly messages: { readonly [id in SentenceId]: string } & { readonly [id: string]: string };
}
