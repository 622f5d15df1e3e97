import type { Fields } from '../declared/field.ts';
import { type Able, areSame, roleOf, type Sameness } from '../declared/kind.ts';
import type { BoundRule } from '../declared/rule.ts';
import type { Alike, OfKind } from './roles.ts';
import { define } from './rule.ts';
import { samenessOfRoles } from './same.ts';
import { bind, type Use } from './use.ts';

type Simple = Able<'listable'>;
const SIMPLE = roleOf([], { can: 'listable' });

const oneOfThem = define(
  'among',
  { value: SIMPLE, those: { spec: roleOf('any').spec, entry: { item: SIMPLE } } },
  {
    alike: true,
    forRoles: samenessOfRoles,
    holds: ({ value, those }: { value: unknown; those: readonly { readonly item: unknown }[] }, _found: object, takes: Sameness) =>
      those.some(({ item }) => areSame(item, value, takes)),
    message: { en: '{value} must be among {those}.' },
    blames: 'value',
    samples: {
      holds: [{ value: 'Ida', those: [{ item: 'Bo' }, { item: 'Ida' }] }],
      fails: [{ value: 'Ida', those: [] }],
    },
  },
);

/**
 * A value that some entry of a list has too: `among({ value: 'skipper', those: 'crew.*.name' })`; blames the value.
 *
 * @law A value that some entry of a list has too; blames the value.
 * @example [{ skipper: text('Skipper'), crew: list('Crew', text('Name')) }, [among({ value: 'skipper', those: 'crew.*' })]]
 * @holds { skipper: 'Ida', crew: ['Bo', 'Ida'] }
 * @fails { skipper: 'Liv', crew: ['Bo', 'Ida'] }
 */
export const among = <F extends Fields, const P extends string>(
  roles: { readonly value: OfKind<F, P, Simple>['names']; readonly those: Alike<F, P, Simple>['names'] },
  use?: Use<F>,
): BoundRule<F> => bind(oneOfThem, { value: roles.value as string, those: { item: roles.those as string } }, {}, use) as never;
