// Catalogues by language. An intake speaks those that it is given.
export type { Catalogue } from './catalogue.ts';
export { de } from './de.ts';
export { pl } from './pl.ts';
