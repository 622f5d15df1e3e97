import type { Fields } from '../kinds/field.ts';
import { roleOf } from '../kinds/kind.ts';
import type { Alike, PathOf } from './roles.ts';
import { define } from './rule.ts';
import { type BoundRule, bind, type RolePaths, type Use } from './use.ts';

type Ordered = 'day' | 'decimal';

export interface InOrder {
  readonly id: string;
  // `later` takes its kind from `earlier`, so that a day cannot be compared with a number.
  <F extends Fields, const E extends PathOf<F, Ordered>>(
    roles: { readonly earlier: E; readonly later: Alike<F, E, Ordered>['names'] },
    use?: Use<F>,
  ): BoundRule<F>;
}

const ORDERED: readonly Ordered[] = ['day', 'decimal'];

export const inOrderDefinition = define(
  'in-order',
  { earlier: roleOf(ORDERED), later: roleOf(ORDERED) },
  {
    alike: true,
    holds: ({ earlier, later }: { earlier: string | number; later: string | number }) => earlier < later,
    words: (_takes: object, { later }: { later: string | number }) => ({ kind: typeof later === 'number' ? 'number' : 'time' }),
    wordNames: ['kind'],
    message: { en: '{kind, select, number {{later} must be more than {earlier}.} other {{later} must be after {earlier}.}}' },
    blames: 'later',
  },
);

/** Two days or two numbers, the first before (less than) the second; blames the later one. Equal is not in order. */
export const inOrder: InOrder = Object.assign((roles: RolePaths, use?: object) => bind(inOrderDefinition, roles, {}, use) as never, {
  id: inOrderDefinition.id,
});
