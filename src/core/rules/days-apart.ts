import { type Day, nightsBetween } from '../basics/days.ts';
import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { Fields } from '../declared/field.ts';
import { roleOf } from '../declared/kind.ts';
import type { BoundRule } from '../declared/rule.ts';
import type { DayKind } from '../kinds/day.ts';
import type { Binding } from './roles.ts';
import { define } from './rule.ts';
import { bind, type Use } from './use.ts';

interface DayLimits {
  /** Defaults to none. */
  readonly least?: number;
  /** Defaults to none. */
  readonly most?: number;
}

const apart = define(
  'days-apart',
  { from: roleOf(['day']), to: roleOf(['day']) },
  {
    holds(
      { from, to }: { from: Day; to: Day },
      _found: object,
      { least = Number.NEGATIVE_INFINITY, most = Number.POSITIVE_INFINITY }: DayLimits,
    ) {
      const days = nightsBetween(from, to);
      return days >= least && days <= most;
    },
    facts: (_read: object, _found: object, takes: DayLimits) => ({ ...takes }),
    factNames: ['least', 'most'],
    isFixed: true,
    open: true,
    words: ({ least, most }: DayLimits) => ({
      limits: least === undefined ? 'most' : most === undefined ? 'least' : least === most ? 'exactly' : 'both',
    }),
    wordNames: ['limits'],
    message: {
      en: `{limits, select,
        most {{to} must be at most {most, plural, one {# day} other {# days}} after {from}.}
        least {{to} must be at least {least, plural, one {# day} other {# days}} after {from}.}
        exactly {{to} must be {most, plural, one {# day} other {# days}} after {from}.}
        other {{to} must be {least, number} to {most, plural, one {# day} other {# days}} after {from}.}
      }`,
    },
    blames: 'to',
    samples: {
      holds: [
        { from: '2031-05-01', to: '2031-05-02', least: 1, most: 28 },
        { from: '2031-05-01', to: '2031-05-29', least: 1, most: 28 },
      ],
      fails: [
        { from: '2031-05-01', to: '2031-05-01', least: 1, most: 28 },
        { from: '2031-05-01', to: '2031-05-30', least: 1, most: 28 },
      ],
    },
  },
);

/**
 * The days (nights) from one day to another, from `least` to `most`, both allowed; blames the second.
 *
 * @law The days from one day to another are within limits, both allowed; blames the second.
 * @option least | days at least | none
 * @option most | days at most | none
 * @example [{ from: day('Arrival'), to: day('Departure') }, [daysApart({ from: 'from', to: 'to' }, { least: 1, most: 28 })]]
 * @holds { from: '2031-05-01', to: '2031-05-29' }
 * @fails { from: '2031-05-01', to: '2031-05-30' }
 */
export const daysApart = <F extends Fields>(
  roles: Binding<{ from: DayKind; to: DayKind }, F>,
  limits: DayLimits,
  use?: Use<F>,
): BoundRule<F> => {
  const { least, most } = optionsOf('daysApart', limits, ['least', 'most']);
  for (const limit of [least, most])
    if (limit !== undefined && !Number.isInteger(limit)) fault(`daysApart: ${limit} is not a number of days.`);
  if (least === undefined && most === undefined) fault('daysApart needs least or most.');
  if (least !== undefined && most !== undefined && least > most) fault(`daysApart: least ${least} is more than most ${most}.`);
  return bind(apart, roles, limits, use) as never;
};
