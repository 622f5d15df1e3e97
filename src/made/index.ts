export { type MadeExample, Maker, type MakerOptions } from './maker.ts';
export type { Situation } from './situation.ts';
