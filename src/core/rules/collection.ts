import * as forms from '../asking/forms.ts';
import { leaveRecordsOpen } from '../asking/leave-open.ts';
import { fault, nearest } from '../basics/fault.ts';
import { kindOf, optionsOf } from '../basics/known.ts';
import type { ValueOf } from '../declared/field.ts';
import type { Ability, Able, RoleSpec, Roles } from '../declared/kind.ts';
import type { CollectionSpec, LookUpForm, LookUpSpec, OrderSpec } from '../declared/look-up.ts';
import type { Columns, LookUp, LookUps, OneOf, RowOf } from '../stored/look-up.ts';
import { type FixedColumns, termsOf, type Where } from '../stored/where.ts';

interface MoreOfMany {
  /** When a stored record is judged again, it does not count itself. */
  readonly exceptItself?: true;
}
interface MoreOfAll extends MoreOfMany {
  /** Rows at most. Defaults to 1,000. */
  readonly most?: number;
}

/** Columns of these kinds. */
type ColumnsOf<C extends Columns, K extends string> = { [N in keyof C]: C[N]['kind'] extends K ? N : never }[keyof C];
/** Kinds with an order that every store has alike. */
type Ordered = Able<'ordered'>;
type Summed = Able<'summable'>;

/** A named set of stored rows, declared by the kinds of its columns. */
export interface Collection<in out C extends Columns, out Key extends keyof C> {
  readonly name: string;
  readonly columns: C;
  /** The column that tells rows apart, or those that do together. */
  readonly key: Key | readonly Key[];
  /**
   * The one row that matches. None is a finding `known`, blaming the roles asked with. It says that something must exist, so that it cannot
   * be asked with a role that may be absent (`maybe`): `oneOrNone` can, and `either` where another of its alternatives is always asked.
   */
  one<R extends Roles, const N extends keyof C, G extends LookUps<R & C> = {}>(
    where: Where<C, R, never>,
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
  /**
   * The first row in an order, or `undefined`: `first({ meter: 'meter' }, ['value'], { highest: 'readAt' })` is the latest reading.
   * Rows that hold nothing in the column of the order do not count.
   */
  first<R extends Roles, const N extends keyof C>(
    where: Where<C, R>,
    columns: readonly N[],
    order: FirstBy<C> & MoreOfMany,
  ): LookUp<R, Pick<RowOf<C>, N> | undefined>;
  /**
   * The first rows in an order, so many at most: `firstRows({ owner: 'owner' }, ['hash'], { highest: 'at', most: 5 })` are the last five.
   * Rows that hold nothing in the column of the order do not count.
   */
  firstRows<R extends Roles, const N extends keyof C>(
    where: Where<C, R>,
    columns: readonly N[],
    order: FirstBy<C> & MoreOfMany & { readonly most: number },
  ): LookUp<R, readonly Pick<RowOf<C>, N>[]>;
  /** The sum of a column over the rows that match: 0 for none, and exact for a column that is. Rows that hold nothing add nothing. */
  sum<R extends Roles, const N extends ColumnsOf<C, Summed>>(
    where: Where<C, R>,
    column: N,
    more?: MoreOfMany,
  ): LookUp<R, NonNullable<ValueOf<C[N]>>>;
  /** The highest (latest) value of a column over the rows that match, or `undefined`. */
  highest<R extends Roles, const N extends ColumnsOf<C, Ordered>>(
    where: Where<C, R>,
    column: N,
    more?: MoreOfMany,
  ): LookUp<R, NonNullable<ValueOf<C[N]>> | undefined>;
  /** The lowest (earliest) value of a column over the rows that match, or `undefined`. */
  lowest<R extends Roles, const N extends ColumnsOf<C, Ordered>>(
    where: Where<C, R>,
    column: N,
    more?: MoreOfMany,
  ): LookUp<R, NonNullable<ValueOf<C[N]>> | undefined>;
  /** How many rows match. */
  count<R extends Roles>(where: Where<C, R>, more?: MoreOfMany): LookUp<R, number>;
  /** Whether any row matches. */
  exists<R extends Roles>(where: Where<C, R>, more?: MoreOfMany): LookUp<R, boolean>;
}

type LooseOrder = { readonly highest?: string; readonly lowest?: string } & MoreOfAll;

type FirstBy<C extends Columns> =
  | { readonly highest: ColumnsOf<C, Ordered>; readonly lowest?: never }
  | { readonly lowest: ColumnsOf<C, Ordered>; readonly highest?: never };

/**
 * Declares a set of stored rows: its name, its columns by kinds, its key, and which columns are secret.
 * Only the columns that rules need have to be declared; `maybe(kind)` is a column that may hold NULL.
 * With `only: { deletedAt: exactly(null) }` rows marked as deleted are not there for any rule. With `scope: 'marina'` each marina has
 * rows of its own: the records say which one they are asked for (`records.within({ marina: 7 })`), and no other's are there.
 */
export const collection = <const C extends Columns, const K extends keyof C>(
  name: string,
  columns: C,
  more: {
    readonly key: K | readonly K[];
    readonly secret?: readonly (keyof C)[];
    readonly only?: FixedColumns<C>;
    readonly scope?: keyof C | readonly (keyof C)[];
  },
): Collection<C, K> => {
  if (typeof name !== 'string' || name === '') fault('A collection needs a name as its first argument.');
  if (typeof columns !== 'object' || columns === null)
    fault(`Collection "${name}" needs its columns as its second argument, such as { id: whole }.`);
  if (typeof more !== 'object' || more === null) fault(`Collection "${name}" needs its key as its third argument, such as { key: 'id' }.`);
  const names = Object.keys(columns);
  const columnOf = (column: string) => (columns as { readonly [name: string]: Partial<RoleSpec> | undefined })[column]?.spec;
  for (const column of names)
    if (!columnOf(column))
      fault(`Collection "${name}": column "${column}" is declared by a kind, such as text, and not by ${kindOf(columns[column])}.`);
    else if (!columnOf(column)?.storedAs)
      fault(`Collection "${name}": column "${column}" is ${columnOf(column)?.name}, which no column keeps.`);
  optionsOf(`Collection "${name}"`, more, ['key', 'secret', 'only', 'scope']);
  const listOf = (given: unknown) => (given === undefined ? [] : ([given].flat() as string[]));
  const [key, scope] = [listOf(more.key), listOf(more.scope)];
  if (key.length === 0) fault(`Collection "${name}" needs a key: the column that tells its rows apart, or those that do together.`);
  for (const each of [...key, ...scope, ...(more.secret ?? []), ...Object.keys(more.only ?? {})] as string[]) {
    if (!names.includes(each)) fault(`Collection "${name}" has no column "${each}"; ${nearest(each, names)}`);
  }
  const spec: CollectionSpec = {
    name,
    columns: columns as unknown as CollectionSpec['columns'],
    key,
    secret: new Set(more.secret as readonly string[] | undefined),
    only: termsOf(more.only ?? {}),
    scope,
    made: (): object => made,
    leaveOpen: leaveRecordsOpen as CollectionSpec['leaveOpen'],
  };
  const lookUp = (form: LookUpForm, where: object, rest: Partial<LookUpSpec>): LookUpSpec => ({
    collection: spec,
    ...termsOf(where),
    columns: [],
    form,
    exceptItself: false,
    inner: {},
    ...rest,
  });
  const many = (more: MoreOfMany = {}, known: readonly string[] = ['exceptItself']) => {
    const { exceptItself = false } = optionsOf(`Look-up in ${name}`, more, known) as { exceptItself?: boolean };
    if (typeof exceptItself !== 'boolean') fault(`Look-up in ${name}: exceptItself is true or left out.`);
    return { exceptItself };
  };
  const kindThat = (column: string, can: Ability, what: string) => {
    const { spec: kind } = spec.columns[column] ?? fault(`Collection "${name}" has no column "${column}"; ${nearest(column, names)}`);
    if (kind[can] === undefined) fault(`Collection "${name}": "${column}" is ${kind.name}, and ${what}.`);
  };
  const mostOf = ({ most = 1000 }: MoreOfAll) =>
    Number.isSafeInteger(most) && most > 0 ? most : fault(`Look-up in ${name}: most ${most} is not a number of rows.`);
  const orderOf = (method: string, { highest, lowest }: LooseOrder): OrderSpec => {
    const column = highest ?? lowest;
    if (column === undefined || (highest !== undefined && lowest !== undefined))
      fault(`Collection "${name}": ${method} needs an order, { highest: 'column' } or { lowest: 'column' }.`);
    kindThat(column, 'ordered', 'has no order that every store agrees on');
    return { column, from: lowest === undefined ? 'highest' : 'lowest' };
  };
  const end = (form: LookUpForm, from: OrderSpec['from']) => (where: object, column: string, more?: MoreOfMany) => {
    kindThat(column, 'ordered', `has no ${from} value that every store agrees on`);
    return lookUp(form, where, { columns: [column], order: { column, from }, ...many(more) });
  };
  const methods: {
    readonly [F in keyof Pick<Collection<C, K>, forms.FormName | 'firstRows'>]: (...args: never[]) => LookUpSpec;
  } = {
    one: (where: object, columns: readonly string[], then: { [name: string]: LookUpSpec } = {}) =>
      lookUp(forms.one, where, { columns, inner: then }),
    oneOrNone: (where: object, columns: readonly string[]) => lookUp(forms.oneOrNone, where, { columns }),
    all: (where: object, columns: readonly string[], more: MoreOfAll = {}) =>
      lookUp(forms.all, where, { columns, most: mostOf(more), ...many(more, ['exceptItself', 'most']) }),
    first: (where: object, columns: readonly string[], order: LooseOrder = {}) => {
      const { highest: _highest, lowest: _lowest, ...more } = order;
      return lookUp(forms.first, where, { columns, order: orderOf('first', order), ...many(more) });
    },
    firstRows: (where: object, columns: readonly string[], order: LooseOrder = {}) => {
      const { highest: _highest, lowest: _lowest, ...more } = order;
      if (order.most === undefined) fault(`Collection "${name}": firstRows needs most, the number of rows.`);
      return lookUp(forms.all, where, {
        columns,
        order: orderOf('firstRows', order),
        most: mostOf(order),
        ...many(more, ['exceptItself', 'most']),
      });
    },
    sum: (where: object, column: string, more?: MoreOfMany) => {
      kindThat(column, 'summable', 'cannot be summed up');
      return lookUp(forms.sum, where, { columns: [column], ...many(more) });
    },
    highest: end(forms.highest, 'highest'),
    lowest: end(forms.lowest, 'lowest'),
    count: (where: object, more?: MoreOfMany) => lookUp(forms.count, where, many(more)),
    exists: (where: object, more?: MoreOfMany) => lookUp(forms.exists, where, many(more)),
  };
  const made = { name, columns, key: more.key, spec, ...methods };
  return made as unknown as Collection<C, K>;
};
