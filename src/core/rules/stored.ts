import { fault, nearest } from '../fault.ts';
import type { Fields } from '../kinds/field.ts';
import { type RoleSpec, roleOf } from '../kinds/kind.ts';
import { type Collection, type CollectionSpec, collectionSpec } from '../stored/collection.ts';
import type { Columns, LookUpSpec } from '../stored/look-up.ts';
import type { Texts } from '../text.ts';
import type { Definition, Found } from './definition.ts';
import type { PathOf } from './roles.ts';
import { define } from './rule.ts';
import { type BoundRule, bind, type Use } from './use.ts';

/** Column to path, checked by kind. */
export type ColumnPaths<C extends Columns, F extends Fields> = { readonly [N in keyof C]?: PathOf<F, C[N]['kind']> };

export type StoredUse<C, F> = Use<F> & {
  /** Columns in which upper and lower case count as the same, as the store folds them. */
  readonly ignoringCase?: readonly (keyof C)[];
};

interface LooseUse {
  readonly ignoringCase?: readonly string[];
}

/** A rule that some row exists, or that none does, for any columns of any collection. */
function whether(id: string, wanted: boolean, exceptItself: boolean, message: Texts) {
  const family = {};
  const made = new WeakMap<CollectionSpec, Map<string, Definition>>();

  // One definition for each set of columns, so that the same rule bound twice alike is seen to be the same.
  const definitionOf = (collection: CollectionSpec, columns: readonly string[], ignoringCase: readonly string[]): Definition => {
    const known = made.get(collection) ?? new Map<string, Definition>();
    made.set(collection, known);
    const key = JSON.stringify([columns, ignoringCase]);
    let definition = known.get(key);
    if (!definition) {
      const lookUp: LookUpSpec = {
        collection,
        terms: columns.map((column) => ({ column, is: ignoringCase.includes(column) ? 'ignoringCase' : 'equal', role: column })),
        columns: [],
        want: 'exists',
        exceptItself,

        inner: {},
      };
      definition = define(id, Object.fromEntries(columns.map((column) => [column, roleFor(collection, column)])), {
        family,
        looksUp: { [ROW]: lookUp },
        holds: (_read: object, found: Found) => found[ROW] === wanted,
        message,
        blames: columns,
      });
      known.set(key, definition);
    }
    return definition;
  };

  return (stored: { readonly name: string }, paths: { readonly [column: string]: string }, options: LooseUse = {}) => {
    const collection = collectionSpec(stored);
    const { ignoringCase = [], ...use } = options;
    const columns = Object.keys(paths);
    if (columns.length === 0) fault(`${id}: name a column of ${collection.name} and the field to compare it with.`);
    for (const column of ignoringCase) {
      if (!columns.includes(column)) fault(`${id}: ignoringCase names "${column}", which is not compared.`);
    }
    return bind(definitionOf(collection, columns, ignoringCase), paths, {}, use) as never;
  };
}

/** The look-up's name; no role can have it. */
const ROW = '(row)';

function roleFor(collection: CollectionSpec, column: string): RoleSpec {
  const declared =
    collection.columns[column] ??
    fault(`Collection "${collection.name}" has no column "${column}"; ${nearest(column, Object.keys(collection.columns))}`);
  return roleOf([declared.spec.name]);
}

const taken = whether('unique', false, true, {
  en: '{fields_count, plural, one {{fields} is already in use.} other {{fields} are already in use together.}}',
});
const there = whether('known', true, false, {
  en: '{fields_count, plural, one {{fields} must be one that exists.} other {{fields} must belong to a record that exists.}}',
});

/** No stored row has these values in these columns. The record that is judged again (`itself`) does not count. */
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
