import { exists } from '../asking/forms.ts';
import type { Texts } from '../basics/text.ts';
import type { Fields } from '../declared/field.ts';
import type { BoundRule } from '../declared/rule.ts';
import { CLAIMED, type Found } from '../declared/rule.ts';
import type { Columns } from '../stored/look-up.ts';
import type { Collection } from './collection.ts';
import { CLAIM_FACTS } from './definition.ts';
import { type ColumnPaths, exactColumns, ROW, type StoredUse, storedRule } from './stored-rule.ts';

/** A rule that some row exists, or that none does, for any columns of any collection. */
function whether(id: 'unique' | 'known', wanted: boolean, message: Texts) {
  const bound = storedRule(id);
  return (stored: { readonly name: string }, columns: object, use: object = {}) =>
    bound(stored, columns, use, [], ({ collection, terms }) => ({
      mirrors: id,
      ...(!wanted && { claims: { terms, exact: exactColumns(collection) }, ...CLAIM_FACTS }),
      looksUp: {
        [ROW]: { collection, terms, columns: [], form: exists, exceptItself: !wanted, ...(!wanted && { isFresh: true }), inner: {} },
      },
      holds: (_read: object, found: Found) => found[ROW] === wanted && !(CLAIMED in found),
      message,
    }));
}

const taken = whether('unique', false, {
  en: `{takenBy, select,
      row {{fields_count, plural, one {{fields} is already used in row {row}.} other {{fields} are already used together in row {row}.}}}
      refusedRow {{fields_count, plural, one {{fields} is also used in row {row}, which was not accepted.} other {{fields} are also used together in row {row}, which was not accepted.}}}
      entry {{fields_count, plural, one {{fields} is the same as in entry {entry}.} other {{fields} are the same as in entry {entry}.}}}
      other {{fields_count, plural, one {{fields} is already in use.} other {{fields} are already in use together.}}}}`,
});
const there = whether('known', true, {
  en: '{fields_count, plural, one {{fields} must be one that exists.} other {{fields} must belong to a record that exists.}}',
});

/**
 * No stored row has these values in these columns, nor has an earlier entry of the same list or an earlier row of a
 * `judgeMany`. The record that is judged again (`itself`) does not count.
 *
 * @law No stored row has these values in these columns, but for the record that is judged again (`itself`); nor has an earlier entry of the same list, or an earlier row of a `judgeMany`.
 * @option ignoringCase | columns in which upper and lower case count as the same, as the store folds them | none
 * @option only | only rows count that have these values, of fields or fixed with `exactly(…)` | all rows
 * @option constraint | the name of the database’s constraint that enforces the same | known by its columns
 * @example [{ email: text('E-mail') }, [unique(collection('owners', { id: whole, email: text }, { key: 'id' }), { email: 'email' }, { ignoringCase: ['email'] })]]
 * @holds { email: 'bo@fjordmail.example' }
 * @fails { email: 'IDA@fjordmail.example' }
 * @stored {"owners":[{"id":1,"email":"ida@fjordmail.example","version":3}]}
 */
export const unique = <C extends Columns, K extends keyof C, F extends Fields>(
  collection: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use?: StoredUse<C, F>,
): BoundRule<F> => taken(collection, columns, use);

/**
 * Some stored row has these values in these columns.
 *
 * @option ignoringCase | columns in which upper and lower case count as the same, as the store folds them | none
 * @option only | only rows count that have these values, of fields or fixed with `exactly(…)` | all rows
 * @option constraint | the name of the database’s constraint that enforces the same | known by its columns
 * @example [{ owner: whole('Owner') }, [known(collection('owners', { id: whole, email: text }, { key: 'id' }), { id: 'owner' })]]
 * @holds { owner: 1 }
 * @fails { owner: 2 }
 * @stored {"owners":[{"id":1,"email":"ida@fjordmail.example","version":3}]}
 */
export const known = <C extends Columns, K extends keyof C, F extends Fields>(
  collection: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use?: StoredUse<C, F>,
): BoundRule<F> => there(collection, columns, use);
