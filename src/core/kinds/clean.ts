import type { UseSpec } from '../rules/use.ts';
import type { NEEDS } from './kind.ts';

/** A step that rewrites a value before it is judged; the steps of a field run in the order written. */
export interface Clean<in K extends string> {
  readonly type: 'clean';
  readonly name: string;
  readonly [NEEDS]: (kind: K) => void;
}

export interface CleanSpec {
  readonly type: 'clean';
  readonly name: string;
  readonly kinds: readonly string[];
  readonly apply: (value: never) => unknown;
}

/** What stands in a field's list, as the run time sees it. */
export type StepSpec = CleanSpec | UseSpec;

function textStep(name: string, apply: (text: string) => string): Clean<'text'> {
  const step: CleanSpec = { type: 'clean', name, kinds: ['text'], apply };
  return step as unknown as Clean<'text'>;
}

const TRIM = textStep('trim', (text) => text.trim());
const FOLD_CASE = textStep('fold-case', (text) => text.toLowerCase());

/** Takes white space off both ends. */
export const trim = (): Clean<'text'> => TRIM;

/** Turns letters into lower case, by Unicode's rules for no language in particular. */
export const foldCase = (): Clean<'text'> => FOLD_CASE;
