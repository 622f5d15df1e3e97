import { compareNumbers } from '../exact.ts';
import type { Fields } from '../kinds/field.ts';
import { roleOf } from '../kinds/kind.ts';
import type { Alike, OfKind } from './roles.ts';
import { define } from './rule.ts';
import { type BoundRule, bind, type RolePaths, type Use } from './use.ts';

type Ordered = 'day' | 'moment' | 'time' | 'decimal' | 'exact';

export interface InOrder {
  readonly id: string;
  // `later` takes its kind from `earlier`, so that a day cannot be compared with a number.
  <F extends Fields, const E extends string>(
    roles: { readonly earlier: OfKind<F, E, Ordered>['names']; readonly later: Alike<F, E, Ordered>['names'] },
    use?: Use<F> & {
      /** Two that are equal are in order, too. Defaults to false. */
      readonly orEqual?: boolean;
    },
  ): BoundRule<F>;
}

const ORDERED: readonly Ordered[] = ['day', 'moment', 'time', 'decimal', 'exact'];

type Value = string | number;

/** Days, moments and times sort as text; exact decimals are text too, and do not. */
function isNumber(value: Value): boolean {
  return typeof value === 'number' || /^-?[0-9.]+$/.test(value);
}

const inOrderDefinition = define(
  'in-order',
  { earlier: roleOf(ORDERED), later: roleOf(ORDERED) },
  {
    alike: true,
    holds: ({ earlier, later }: { earlier: Value; later: Value }, _found: object, { orEqual }: { orEqual: boolean }) => {
      const difference = isNumber(later) ? compareNumbers(earlier, later) : earlier < later ? -1 : earlier > later ? 1 : 0;
      return orEqual ? difference <= 0 : difference < 0;
    },
    words: ({ orEqual }: { orEqual: boolean }, { later }: { later: Value }) => ({
      kind: `${isNumber(later) ? 'number' : 'time'}${orEqual ? 'OrEqual' : ''}`,
    }),
    wordNames: ['kind'],
    message: {
      en: '{kind, select, number {{later} must be more than {earlier}.} numberOrEqual {{later} must not be less than {earlier}.} timeOrEqual {{later} must not be before {earlier}.} other {{later} must be after {earlier}.}}',
    },
    blames: 'later',
    samples: {
      holds: [
        { earlier: '2031-05-01', later: '2031-05-02', orEqual: false },
        { earlier: '2031-05-01', later: '2031-05-01', orEqual: true },
        { earlier: '9', later: '10', orEqual: false },
      ],
      fails: [
        { earlier: '2031-05-01', later: '2031-05-01', orEqual: false },
        { earlier: 2, later: 1, orEqual: true },
      ],
    },
  },
);

/** Two days, moments, times or numbers, the first before (less than) the second; blames the later one. */
export const inOrder: InOrder = Object.assign(
  (roles: RolePaths, { orEqual = false, ...use }: { readonly orEqual?: boolean } = {}) =>
    bind(inOrderDefinition, roles, { orEqual }, use) as never,
  { id: inOrderDefinition.id, definition: inOrderDefinition },
);
