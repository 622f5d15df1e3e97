// Imports of any size, as a call.
export { type Screened, screen } from './screen.ts';
export type { FoundBy, OpenBy, Origin, TriedBy } from './summary.ts';
