import { compareNumbers } from '../basics/exact.ts';
import { fault } from '../basics/fault.ts';
import type { Fields } from '../declared/field.ts';
import { roleOf } from '../declared/kind.ts';
import type { BoundRule, RolePaths } from '../declared/rule.ts';
import type { Alike, OfKind } from './roles.ts';
import { define } from './rule.ts';
import { bind, type Use } from './use.ts';

type OrderedKind = 'day' | 'moment' | 'time-of-day' | 'decimal' | 'exact';

export interface InOrder {
  readonly id: string;
  // `later` takes its kind from `earlier`, so that a day cannot be compared with a number.
  <F extends Fields, const E extends string>(
    roles: { readonly earlier: OfKind<F, E, OrderedKind>['names']; readonly later: Alike<F, E, OrderedKind>['names'] },
    use?: Use<F> & {
      /** Two that are equal are in order, too. Defaults to false. */
      readonly orEqual?: boolean;
    },
  ): BoundRule<F>;
}

const ORDERED: readonly OrderedKind[] = ['day', 'moment', 'time-of-day', 'decimal', 'exact'];

type OrderedValue = string | number;

const NUMBER = /^-?[0-9.]+$/;

/** Days, moments and times sort as text; exact decimals are text too, and do not. */
function isNumber(value: OrderedValue): boolean {
  // What has a dash after its fourth character is a day or moment, which most of them are.
  return typeof value === 'number' || (value.charCodeAt(4) !== 45 && NUMBER.test(value));
}

const inOrderDefinition = define(
  'in-order',
  { earlier: roleOf(ORDERED), later: roleOf(ORDERED) },
  {
    alike: true,
    holds: ({ earlier, later }: { earlier: OrderedValue; later: OrderedValue }, _found: object, { orEqual }: { orEqual: boolean }) => {
      if (!isNumber(later)) return orEqual ? earlier <= later : earlier < later;
      const difference = compareNumbers(earlier, later);
      return orEqual ? difference <= 0 : difference < 0;
    },
    words: ({ orEqual }: { orEqual: boolean }, { later }: { later: OrderedValue }) => ({
      kind: `${isNumber(later) ? 'number' : 'time'}${orEqual ? 'OrEqual' : ''}`,
    }),
    wordNames: ['kind'],
    // Number or time: the kind of the fields settles it.
    isFixed: true,
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

/**
 * Two days, moments, times or numbers, the first before (less than) the second; blames the later one.
 *
 * @option orEqual | two that are equal are in order, too | false
 * @example [{ from: day('Arrival'), to: day('Departure') }, [inOrder({ earlier: 'from', later: 'to' })]]
 * @holds { from: '2031-05-01', to: '2031-05-02' }
 * @fails { from: '2031-05-01', to: '2031-05-01' }
 */
export const inOrder: InOrder = Object.assign(
  (roles: RolePaths, { orEqual = false, ...use }: { readonly orEqual?: boolean } = {}) =>
    bind(
      inOrderDefinition,
      roles,
      { orEqual: typeof orEqual === 'boolean' ? orEqual : fault('inOrder: orEqual is true or false.') },
      use,
    ) as never,
  { id: inOrderDefinition.id, definition: inOrderDefinition },
);
