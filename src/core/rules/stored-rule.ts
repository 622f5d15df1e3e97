import { fault, nearest } from '../basics/fault.ts';
import type { Fields, ValueOf } from '../declared/field.ts';
import { type RoleSpec, roleOf } from '../declared/kind.ts';
import type { CollectionSpec, TermSpec } from '../declared/look-up.ts';
import { collectionSpec } from '../declared/look-up.ts';
import type { Definition, RolePaths } from '../declared/rule.ts';
import type { Columns } from '../stored/look-up.ts';
import { type Fixed, termsOf } from '../stored/where.ts';
import type { PathOf } from './roles.ts';
import { define, type LooseBody } from './rule.ts';
import { bind, type Use } from './use.ts';

// What the ready-made rules about stored records share: columns joined to fields, and the rows that count at all.

/** The name of the look-up that such a rule decides by; no role can have it. */
export const ROW = '(row)';

/** Column to path, checked by kind. */
export type ColumnPaths<C extends Columns, F extends Fields> = { readonly [N in keyof C]?: PathOf<F, C[N]['kind']> };

/** Only rows count that have these values: those of fields, or fixed ones. */
export type OnlyRows<C extends Columns, F extends Fields> = {
  readonly [N in keyof C]?: PathOf<F, C[N]['kind']> | { readonly exactly: ValueOf<C[N]> | null };
};

export type StoredUse<C extends Columns, F extends Fields> = Use<F> & {
  /** Only rows count that have these values, of fields or fixed: `{ marina: 'caller.marina', deletedAt: exactly(null) }`. */
  readonly only?: OnlyRows<C, F>;
  /** Columns in which upper and lower case count as the same, as the store folds them. */
  readonly ignoringCase?: readonly (keyof C)[];
};

/** The same, as the run time sees it. */
interface LooseUse {
  readonly only?: { readonly [column: string]: string | Fixed<never> };
  readonly ignoringCase?: readonly string[];
}

/** Columns joined to roles of the same names, and the terms of a look-up with them. */
export interface Joined {
  readonly collection: CollectionSpec;
  readonly reads: { readonly [role: string]: RoleSpec };
  readonly terms: readonly TermSpec[];
  /** Which path each role is bound to. */
  readonly paths: RolePaths;
  /** The roles of the columns compared; those of `only` are not to blame. */
  readonly blames: readonly string[];
}

/**
 * A rule for any columns of any collection: the function binds it to some. There is one definition for each set of
 * columns, so that the same rule bound twice alike is seen to be the same.
 */
export function storedRule(id: string) {
  const family = {};
  const made = new WeakMap<CollectionSpec, Map<string, Definition>>();
  /** `more`: the parameters of the rule's own that tell definitions apart; `body`: the rule for some columns. */
  return (
    stored: { readonly name: string },
    columns: object,
    use: object,
    more: readonly string[],
    body: (joined: Joined) => Omit<LooseBody, 'family' | 'blames'>,
    /** Columns whose roles may be absent, where the column may hold nothing: the ends of an interval. */
    open: readonly string[] = [],
  ): never => {
    const { only, ignoringCase, ...options } = use as LooseUse;
    const joined = joinColumns(id, collectionSpec(stored), columns as { readonly [column: string]: string }, only, ignoringCase, open);
    const { collection, reads, terms, blames, paths } = joined;
    const known = made.get(collection) ?? new Map<string, Definition>();
    made.set(collection, known);
    const key = JSON.stringify([terms, more]);
    const definition = known.get(key) ?? define(id, reads, { ...body(joined), family, blames });
    known.set(key, definition);
    return bind(definition, paths, {}, options) as never;
  };
}

/** Joins the columns that a ready-made rule compares, and those that say which rows count. */
function joinColumns(
  id: string,
  collection: CollectionSpec,
  columns: { readonly [column: string]: string },
  only: NonNullable<LooseUse['only']> = {},
  ignoringCase: readonly string[] = [],
  open: readonly string[] = [],
): Joined {
  const compared = Object.keys(columns);
  if (compared.length === 0) fault(`${id}: name a column of ${collection.name} and the field to compare it with.`);
  for (const column of ignoringCase) {
    if (!compared.includes(column)) fault(`${id}: ignoringCase names "${column}", which is not compared.`);
  }
  for (const column of Object.keys(only)) {
    roleFor(collection, column);
    if (typeof only[column] !== 'string' && !('exactly' in (only[column] as object)))
      fault(`${id}: in "only", "${column}" is the name of a field, or exactly(…) with one value.`);
    if (compared.includes(column)) fault(`${id}: "${column}" stands among the columns compared and in "only"; leave one out.`);
  }
  const paths = { ...columns };
  for (const [column, asked] of Object.entries(only)) if (typeof asked === 'string') paths[column] = asked;
  const where = Object.fromEntries(Object.entries(only).map(([column, asked]) => [column, typeof asked === 'string' ? column : asked]));
  const terms = [
    ...compared.map((column): TermSpec => ({ column, is: ignoringCase.includes(column) ? 'ignoringCase' : 'equal', role: column })),
    ...termsOf(where).terms.map((term): TermSpec => ({ ...term, isBlameless: true })),
  ];
  const reads = Object.fromEntries(Object.keys(paths).map((column) => [column, roleFor(collection, column, open.includes(column))]));
  return { collection, reads, terms, paths, blames: compared };
}

/** The columns of a collection that hold exact decimals. */
export function exactColumns({ columns }: CollectionSpec): string[] {
  return Object.keys(columns).filter((column) => columns[column]?.spec.storedAs === 'numeric');
}

/** A role for the values of a column. */
export function roleFor(collection: CollectionSpec, column: string, mayBeOpen = false): RoleSpec {
  const declared =
    collection.columns[column] ??
    fault(`Collection "${collection.name}" has no column "${column}"; ${nearest(column, Object.keys(collection.columns))}`);
  return roleOf([declared.spec.name], mayBeOpen && declared.maybe ? { maybe: true } : {});
}
