import type { Fields } from '../kinds/field.ts';
import type { Collection } from '../stored/collection.ts';
import type { Columns } from '../stored/look-up.ts';
import type { Texts } from '../text.ts';
import { CLAIM_FACTS, CLAIMED, type Found } from './definition.ts';
import { type ColumnPaths, exactColumns, ROW, type StoredUse, storedRule } from './stored-rule.ts';
import type { BoundRule } from './use.ts';

/** A rule that some row exists, or that none does, for any columns of any collection. */
function whether(id: 'unique' | 'known', wanted: boolean, message: Texts) {
  const bound = storedRule(id);
  return (stored: { readonly name: string }, columns: object, use: object = {}) =>
    bound(stored, columns, use, [], ({ collection, terms }) => ({
      mirrors: id,
      ...(!wanted && { claims: { terms, exact: exactColumns(collection) }, ...CLAIM_FACTS }),
      looksUp: {
        [ROW]: { collection, terms, columns: [], want: 'exists', exceptItself: !wanted, ...(!wanted && { isFresh: true }), inner: {} },
      },
      holds: (_read: object, found: Found) => found[ROW] === wanted && !(CLAIMED in found),
      message,
    }));
}

const taken = whether('unique', false, {
  en: `{takenBy, select,
      row {{fields_count, plural, one {{fields} is already used in row {row}.} other {{fields} are already used together in row {row}.}}}
      entry {{fields_count, plural, one {{fields} is the same as in entry {entry}.} other {{fields} are the same as in entry {entry}.}}}
      other {{fields_count, plural, one {{fields} is already in use.} other {{fields} are already in use together.}}}}`,
});
const there = whether('known', true, {
  en: '{fields_count, plural, one {{fields} must be one that exists.} other {{fields} must belong to a record that exists.}}',
});

/**
 * No stored row has these values in these columns, nor has an earlier entry of the same list or an earlier row of a
 * `judgeMany`. The record that is judged again (`itself`) does not count.
 */
export const unique = <C extends Columns, K extends keyof C, F extends Fields>(
  collection: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use?: StoredUse<C, F>,
): BoundRule<F> => taken(collection, columns, use);

/** Some stored row has these values in these columns. */
export const known = <C extends Columns, K extends keyof C, F extends Fields>(
  collection: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use?: StoredUse<C, F>,
): BoundRule<F> => there(collection, columns, use);
