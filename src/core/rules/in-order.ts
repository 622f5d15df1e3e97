import { fault } from '../basics/fault.ts';
import type { Fields } from '../declared/field.ts';
import { type Able, type KindSpec, roleOf } from '../declared/kind.ts';
import type { BoundRule, RoleField, RolePaths } from '../declared/rule.ts';
import type { Alike, OfKind } from './roles.ts';
import { define } from './rule.ts';
import { bind, type Use } from './use.ts';

type OrderedKind = Able<'ordered'>;

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

const ORDERED = roleOf([], { can: 'ordered' });

type OrderedValue = string | number;
/** What the kind of the fields says of its order. */
type Order = { readonly orEqual: boolean; readonly ordered?: KindSpec['ordered']; readonly compare?: KindSpec['compare'] };

const inOrderDefinition = define(
  'in-order',
  { earlier: ORDERED, later: ORDERED },
  {
    alike: true,
    forRoles: ({ orEqual }: Order, [first]: readonly RoleField[]): Order => ({
      orEqual,
      ordered: first?.kind.ordered,
      ...(first?.kind.compare && { compare: first.kind.compare }),
    }),
    holds: ({ earlier, later }: { earlier: OrderedValue; later: OrderedValue }, _found: object, { orEqual, compare }: Order) => {
      if (!compare) return orEqual ? earlier <= later : earlier < later;
      const difference = compare(earlier, later);
      return orEqual ? difference <= 0 : difference < 0;
    },
    words: ({ orEqual, ordered }: Order) => ({ kind: `${ordered ?? 'time'}${orEqual ? 'OrEqual' : ''}` }),
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
        { earlier: 9, later: 10, orEqual: false },
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
