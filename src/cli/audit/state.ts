import { existsSync, readFileSync } from 'node:fs';
import { Misuse } from '../basics/misuse.ts';
import { writeWhole } from '../basics/whole-file.ts';
import type { Key } from './tables.ts';

/** How far an audit is. */
export interface State {
  readonly after?: Key;
  readonly sound: number;
  readonly refused: number;
  readonly undecided: number;
  readonly by: { readonly [use: string]: By };
  /** Uses that could not be decided, and why. */
  readonly open: { readonly [use: string]: { readonly count: number; readonly why: string } };
  /** Uses on trial: how often each would have failed. */
  readonly trials: { readonly [use: string]: number };
}

/** What a rule refuses among what is stored. */
export interface By {
  readonly field: string;
  readonly count: number;
  readonly example: { readonly key: string; readonly message: string };
}

/** How far an audit was, as a file remembers it. */
export function stateIn(path: string | undefined): State {
  const none: State = { sound: 0, refused: 0, undecided: 0, by: {}, open: {}, trials: {} };
  if (path === undefined || !existsSync(path)) return none;
  try {
    return { ...none, ...(JSON.parse(readFileSync(path, 'utf8')) as State) };
  } catch {
    throw new Misuse(`${path} holds no state of an audit; name another file, or take it away to begin anew.`);
  }
}

/** Written aside and put in its place, so that there is always a whole one. */
export function remember(path: string | undefined, state: State): void {
  if (path === undefined) return;
  writeWhole(path, [JSON.stringify(state)]);
}
