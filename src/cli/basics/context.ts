import type { Readable } from 'node:stream';
import type { Exit } from './misuse.ts';

/** What every command works with. */
export interface Context {
  readonly stdin: Readable;
  readonly stdout: { readonly isTTY?: boolean; readonly columns?: number };
  /** Gives a promise where the reader has to be waited for. */
  readonly out: (text: string) => Promise<void> | undefined;
  readonly warn: (text: string) => void;
  /** The exit code so far: it counts when the reader goes away. */
  note(exit: Exit): void;
}

/** Standard input, by name. */
export const STDIN = '-';
