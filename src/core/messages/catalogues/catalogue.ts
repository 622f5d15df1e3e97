import type { Words } from './words.ts';

/** Sentences of the engine, the kinds and the ready-made rules in one language, by id. What it lacks is said in English. */
export interface Catalogue {
  /** A BCP 47 tag, such as `de`. */
  readonly locale: string;
  /** By rule id; `readable/whole` and the like are said when a value of that kind cannot be read. */
  readonly messages: { readonly [id: string]: string };
  /** The words of descriptions in the language. */
  readonly words?: Words;
  /** @internal one of `jestril/catalogues`, which tests have looked at */
  readonly isOurs?: true;
}
