import type { Streams } from './check/check.ts';
import type { Exit } from './misuse.ts';

/** What every command works with. */
export interface Context extends Streams {
  /** The exit code so far: it counts when the reader goes away. */
  note(exit: Exit): void;
}
