// Catalogues by language. An intake speaks those that it is given.
export type { Catalogue } from './catalogue.ts';
export * from './de.ts';
export * from './en.ts';
export type { Language } from './language.ts';
export * from './pl.ts';
export type { Words } from './words.ts';
