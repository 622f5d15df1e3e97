import { fault } from '../fault.ts';
import type { Kind, NEEDS, RoleSpec } from '../kinds/kind.ts';
import type { UseSpec } from '../rules/use.ts';

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

/**
 * A cleaning step of one's own: `cleaning('marina/no-blanks', text, (mark) => mark.replaceAll(' ', ''))`.
 * Cleaning what is clean already should change nothing, since a value may be judged again.
 */
export function cleaning<const K extends string, T>(name: string, kind: Kind<K, T>, apply: (value: T) => T): Clean<K> {
  if (typeof name !== 'string' || name === '') fault('A cleaning step needs a name as its first argument.');
  const step: CleanSpec = { type: 'clean', name, kinds: [(kind as unknown as RoleSpec).spec.name], apply };
  return step as unknown as Clean<K>;
}
