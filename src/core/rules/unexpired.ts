import { one } from '../asking/forms.ts';
import { fault } from '../basics/fault.ts';
import type { Circumstances } from '../basics/verdict.ts';
import type { Fields } from '../declared/field.ts';
import type { BoundRule, Found } from '../declared/rule.ts';
import type { Columns } from '../stored/look-up.ts';
import type { Collection } from './collection.ts';
import { resolveBound } from './relative.ts';
import { type ColumnPaths, ROW, roleFor, type StoredUse, storedRule } from './stored-rule.ts';

const bound = storedRule('unexpired');

/**
 * The record that these values lead to is still good: its day `until` is today or later, its moment `until` lies ahead.
 * A record without one does not expire; one that is not there is a finding `known`.
 *
 * @param columns column to field, as for `known`
 * @param use `until`: the column of the last good day, or of the moment when it ends
 *
 * @law The record that these values lead to is still good today (a day), or now (a moment). One that is not there is a finding `known`; one without a limit does not expire.
 * @option until | the column of the last good day, or of the moment when it ends | needed
 * @option only | only rows count that have these values, of fields or fixed with `exactly(…)` | all rows
 * @example [{ voucher: text('Voucher') }, [unexpired(collection('vouchers', { code: text, until: day }, { key: 'code' }), { code: 'voucher' }, { until: 'until' })]]
 * @holds { voucher: 'SPRING' }
 * @fails { voucher: 'WINTER' }
 * @stored {"vouchers":[{"code":"SPRING","until":"2031-05-31"},{"code":"WINTER","until":"2031-02-28"}]}
 */
export const unexpired = <C extends Columns, K extends keyof C, F extends Fields>(
  stored: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use: StoredUse<C, F> & { readonly until: keyof C },
): BoundRule<F> => {
  const { until: column, ...options } = use;
  const until = column as string;
  return bound(stored, columns, options, [until], ({ collection, terms }) => {
    roleFor(collection, until);
    const kind = collection.columns[until]?.spec.name;
    if (kind !== 'day' && kind !== 'moment') fault(`unexpired: ${collection.name}.${until} is ${kind}; it has to be a day or a moment.`);
    const isDay = kind === 'day';
    const isSecret = collection.secret.has(until);
    const limit = (at: Circumstances) => resolveBound({ relative: isDay ? 'today' : 'now', by: 0 }, at);
    const untilOf = (found: Found) => (found[ROW] as { readonly [column: string]: string | undefined } | undefined)?.[until];
    return {
      looksUp: { [ROW]: { collection, terms, columns: [until], form: one, exceptItself: false, inner: {} } },
      holds(_read: object, found: Found, _takes: object, at: Circumstances) {
        const end = untilOf(found);
        return end === undefined || (isDay ? end >= limit(at) : end > limit(at));
      },
      // A secret column stays one: the sentence then does without the day.
      facts: (_read: object, found: Found) => (isSecret ? { kind: 'secret', until: '' } : { kind, until: untilOf(found) }),
      factNames: ['kind', 'until'],
      needsZone: () => isDay,
      message: {
        en: `{kind, select,
          day {{fields} expired after {until, date, long}.}
          moment {{fields} expired on {until, date, long} at {until, time, short} UTC.}
          other {{fields} has expired.}}`,
      },
    };
  });
};
