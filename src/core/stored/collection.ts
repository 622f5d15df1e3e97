import { fault, nearest } from '../fault.ts';
import type { RoleSpec } from '../kinds/kind.ts';
import type { Roles } from '../rules/roles.ts';
import {
  type Columns,
  type FixedColumns,
  type LookUp,
  type LookUpSpec,
  type LookUps,
  type OneOf,
  type RowOf,
  type TermSpec,
  termsOf,
  type Where,
} from './look-up.ts';

interface MoreOfMany {
  /** When a stored record is judged again, it does not count itself. */
  readonly exceptItself?: true;
}
interface MoreOfAll extends MoreOfMany {
  /** Rows at most. Defaults to 1,000. */
  readonly most?: number;
}

/** A named set of stored rows, declared by the kinds of its columns. */
export interface Collection<in out C extends Columns, out Key extends keyof C> {
  readonly name: string;
  readonly columns: C;
  readonly key: Key;
  /** The one row that matches. None is a finding `known`, blaming the roles asked with. */
  one<R extends Roles, const N extends keyof C, G extends LookUps<R & C> = {}>(
    where: Where<C, R>,
    columns: readonly N[],
    then?: G,
  ): LookUp<R, OneOf<C, N, G>>;
  /** The one row that matches, or `undefined` handed to the rule. */
  oneOrNone<R extends Roles, const N extends keyof C>(where: Where<C, R>, columns: readonly N[]): LookUp<R, Pick<RowOf<C>, N> | undefined>;
  /** All rows that match, up to `most`. */
  all<R extends Roles, const N extends keyof C>(
    where: Where<C, R>,
    columns: readonly N[],
    more?: MoreOfAll,
  ): LookUp<R, readonly Pick<RowOf<C>, N>[]>;
  /** How many rows match. */
  count<R extends Roles>(where: Where<C, R>, more?: MoreOfMany): LookUp<R, number>;
  /** Whether any row matches. */
  exists<R extends Roles>(where: Where<C, R>, more?: MoreOfMany): LookUp<R, boolean>;
}

/** A collection as the run time sees it. */
export interface CollectionSpec {
  readonly name: string;
  readonly columns: { readonly [column: string]: RoleSpec };
  readonly key: string;
  readonly secret: ReadonlySet<string>;
  /** Terms that every look-up has besides its own: rows for which they do not hold are not there. */
  readonly only: readonly TermSpec[];
}

/**
 * Declares a set of stored rows: its name, its columns by kinds, its key, and which columns are secret.
 * Only the columns that rules need have to be declared; `maybe(kind)` is a column that may hold NULL.
 * With `only: { deletedAt: exactly(null) }` rows marked as deleted are not there for any rule.
 */
export const collection = <const C extends Columns, const K extends keyof C>(
  name: string,
  columns: C,
  more: { readonly key: K; readonly secret?: readonly (keyof C)[]; readonly only?: FixedColumns<C> },
): Collection<C, K> => {
  const names = Object.keys(columns);
  if (typeof name !== 'string' || name === '') fault('A collection needs a name as its first argument.');
  for (const column of [more.key, ...(more.secret ?? []), ...Object.keys(more.only ?? {})] as string[]) {
    if (!names.includes(column)) fault(`Collection "${name}" has no column "${column}"; ${nearest(column, names)}`);
  }
  const spec: CollectionSpec = {
    name,
    columns: columns as unknown as CollectionSpec['columns'],
    key: more.key as string,
    secret: new Set(more.secret as readonly string[] | undefined),
    only: termsOf(more.only ?? {}),
  };
  const lookUp = (want: LookUpSpec['want'], where: object, rest: Partial<LookUpSpec>): LookUpSpec => ({
    collection: spec,
    terms: termsOf(where),
    columns: [],
    want,
    exceptItself: false,
    inner: {},
    ...rest,
  });
  const many = (more: MoreOfMany = {}) => ({ exceptItself: more.exceptItself === true });
  const made = {
    name,
    columns,
    key: more.key,
    spec,
    one: (where: object, columns: readonly string[], then: { [name: string]: LookUpSpec } = {}) =>
      lookUp('one', where, { columns, inner: then }),
    oneOrNone: (where: object, columns: readonly string[]) => lookUp('oneOrNone', where, { columns }),
    all: (where: object, columns: readonly string[], more: MoreOfAll = {}) =>
      lookUp('all', where, { columns, most: more.most ?? 1000, ...many(more) }),
    count: (where: object, more?: MoreOfMany) => lookUp('count', where, many(more)),
    exists: (where: object, more?: MoreOfMany) => lookUp('exists', where, many(more)),
  };
  return made as unknown as Collection<C, K>;
};

/** The run-time description behind a collection. */
export function collectionSpec(made: { readonly name: string }): CollectionSpec {
  return (made as unknown as { readonly spec: CollectionSpec }).spec;
}
