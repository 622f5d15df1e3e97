import type { Fields } from '../kinds/field.ts';
import { type Collection, collectionSpec } from '../stored/collection.ts';
import type { Columns } from '../stored/look-up.ts';
import type { Texts } from '../text.ts';
import { CLAIMED, claimFacts, type Definition, type Found } from './definition.ts';
import { define } from './rule.ts';
import { type ColumnPaths, DefinitionsByColumns, joinColumns, type LooseUse, type StoredUse } from './stored-columns.ts';
import { type BoundRule, bind } from './use.ts';

/** The look-up's name; no role can have it. */
const ROW = '(row)';

/** A rule that some row exists, or that none does, for any columns of any collection. */
function whether(id: string, wanted: boolean, message: Texts, more: Pick<Definition, 'mirrors'>) {
  const family = {};
  const made = new DefinitionsByColumns();
  return (stored: { readonly name: string }, columns: { readonly [column: string]: string }, options: LooseUse = {}) => {
    const collection = collectionSpec(stored);
    const { ignoringCase, only, ...use } = options;
    const { reads, terms, paths, blames, key } = joinColumns(id, collection, columns, options);
    const definition = made.get(collection, key, () =>
      define(id, reads, {
        family,
        ...more,
        ...(!wanted && { claims: { terms }, facts: claimFacts, factNames: ['takenBy', 'row', 'entry', 'sameAs'] }),
        looksUp: { [ROW]: { collection, terms, columns: [], want: 'exists', exceptItself: !wanted, inner: {} } },
        holds: (_read: object, found: Found) => found[ROW] === wanted && !(CLAIMED in found),
        message,
        blames,
      }),
    );
    return bind(definition, paths, {}, use) as never;
  };
}

const taken = whether(
  'unique',
  false,
  {
    en: `{takenBy, select,
      row {{fields_count, plural, one {{fields} is already used in row {row}.} other {{fields} are already used together in row {row}.}}}
      entry {{fields_count, plural, one {{fields} is the same as in entry {entry}.} other {{fields} are the same as in entry {entry}.}}}
      other {{fields_count, plural, one {{fields} is already in use.} other {{fields} are already in use together.}}}}`,
  },
  { mirrors: 'unique' },
);
const there = whether(
  'known',
  true,
  {
    en: '{fields_count, plural, one {{fields} must be one that exists.} other {{fields} must belong to a record that exists.}}',
  },
  { mirrors: 'known' },
);

/**
 * No stored row has these values in these columns, nor has an earlier entry of the same list or an earlier row of a
 * `judgeMany`. The record that is judged again (`itself`) does not count.
 */
export const unique = <C extends Columns, K extends keyof C, F extends Fields>(
  collection: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use?: StoredUse<C, F>,
): BoundRule<F> => taken(collection, columns as never, use as never);

/** Some stored row has these values in these columns. */
export const known = <C extends Columns, K extends keyof C, F extends Fields>(
  collection: Collection<C, K>,
  columns: ColumnPaths<C, F>,
  use?: StoredUse<C, F>,
): BoundRule<F> => there(collection, columns as never, use as never);
