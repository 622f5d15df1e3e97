import { fault } from '../basics/fault.ts';
import type { AnyField, Fields, Shapes, ValueOf } from '../declared/field.ts';
import type { Kind, RoleSpec, Roles, VALUE } from '../declared/kind.ts';
import type { AsStored } from '../declared/rule.ts';

export interface MaybeRole<out K extends string, out T> extends Kind<K, T | undefined> {
  readonly absent: 'allowed';
}
/** A role (or column) that may be absent: the rule runs and reads `undefined`. An unsound field still skips the rule. */
export const maybe = <K extends string, T>(kind: Kind<K, T>): MaybeRole<K, T> => {
  const { spec } = (kind ?? {}) as unknown as Partial<RoleSpec>;
  if (!spec) fault('maybe needs a kind, such as maybe(text).');
  return { kind: kind.kind, absent: 'allowed', spec, maybe: true } as unknown as MaybeRole<K, T>;
};

export interface EntriesRole<out E extends Roles> extends Kind<'entries', readonly ReadOf<E>[]> {
  readonly entry: E;
}
/** A role that reads these roles of every entry of a list at once. */
export const entries = <E extends Roles>(entry: E): EntriesRole<E> => {
  if (Object.keys(entry).length === 0) fault('entries({}) names no role: say what to read of each entry.');
  return { kind: 'entries', entry, spec: { name: 'entries', is: ['entries'] } } as unknown as EntriesRole<E>;
};

/** What a rule reads, by role. */
export type ReadOf<R> = { readonly [P in keyof R]: ValueOf<R[P]> } & {};

// The paths of the fields of F that fit a role: 'owner.email' in groups, 'crew.*.born' in lists.
// One pass over the fields: { text: 'name' | 'mark'; day: 'arrives' }. Equal keys of a remapped type unite their values.
type ByKind<F extends Fields> = { [N in keyof F & string as F[N]['kind']]: N };
type At<T, K> = string extends K ? T[keyof T] : K extends keyof T ? T[K] : never;
type Inside<X, K> = X extends { readonly shapes: infer S extends Shapes }
  ? { [N in keyof S & string]: `.${N}.${Paths<S[N]['fields'], K>['names']}` }[keyof S & string]
  : X extends { readonly fields: infer G extends Fields }
    ? `.${Paths<G, K>['names']}`
    : X extends { readonly item: infer I extends AnyField } | { readonly each: infer I extends AnyField }
      ? `.*${InItem<I, K>}`
      : never;
// Of the several kinds that an item counts as, one is enough.
type InItem<I extends AnyField, K> = ([I['kind'] & K] extends [never] ? never : '') | Inside<I, K>;
type Nest<F extends Fields> = At<ByKind<F>, 'group' | 'list' | 'table' | 'one-of-shapes'> & string;
// An interface and not an alias, so that messages print the names and not `Paths<{...}>`.
interface Paths<in out F extends Fields, in out K> {
  names: (At<ByKind<F>, K> & string) | { [N in Nest<F>]: `${N}${Inside<F[N], K>}` }[Nest<F>];
}
export type Loose = 'bind this rule inside intake(...) or group(...)';
/** The path of any field. */
export type AnyPath<F extends Fields> = Paths<F, string>['names'];
/** The paths of the fields of one kind, or a sentence for the compiler to show. */
export type PathOf<F extends Fields, K> = string extends keyof F
  ? Loose
  : [Paths<F, K>['names']] extends [never]
    ? `(there is no ${K & string} field here)`
    : Paths<F, K>['names'];
export type AnyPathOrLoose<F extends Fields> = string extends keyof F ? Loose : AnyPath<F>;

type OnlyEntries<P> = P extends `${string}.*${string}` ? P : never;
type BindEntries<E extends Roles, F extends Fields> = {
  readonly [P in keyof E]: string extends keyof F ? Loose : OnlyEntries<Paths<F, E[P]['kind']>['names']>;
};
/** For each role the path of a field of its kind. */
export type Binding<R extends Roles, F extends Fields> = {
  readonly [P in keyof R]: R[P] extends { readonly entry: infer E extends Roles }
    ? BindEntries<E, F>
    : PathOf<F, R[P]['kind']> | AsStored<PathOf<F, R[P]['kind']>>;
};

// The kinds of the field at one path: a walk along the path costs a fraction of listing the paths of every kind.
type KindAt<F extends Fields, P> = P extends keyof F
  ? F[P]['kind']
  : P extends `${infer N}.${infer Rest}`
    ? N extends keyof F
      ? KindIn<F[N], Rest>
      : never
    : never;
type KindIn<X, P> = X extends { readonly shapes: infer S extends Shapes }
  ? P extends `${infer N}.${infer Rest}`
    ? N extends keyof S
      ? KindAt<S[N]['fields'], Rest>
      : never
    : never
  : X extends { readonly fields: infer G extends Fields }
    ? KindAt<G, P>
    : X extends { readonly item: infer I extends AnyField } | { readonly each: infer I extends AnyField }
      ? P extends '*'
        ? I['kind']
        : P extends `*.${infer Rest}`
          ? KindIn<I, Rest>
          : never
      : never;

/** What the field at a path can be compared with: a value of its own; of shapes the name of one. */
export type ConstantAt<F extends Fields, P> = P extends keyof F
  ? ConstantOf<F[P]>
  : P extends `${infer N}.${infer Rest}`
    ? N extends keyof F
      ? ConstantIn<F[N], Rest>
      : never
    : never;
type ConstantOf<X> = X extends { readonly shapes: infer S }
  ? keyof S
  : X extends { readonly kind: 'group' | 'list' | 'table' }
    ? never
    : X extends { readonly [VALUE]: infer T }
      ? T & (string | number | boolean)
      : never;
type ConstantIn<X, P> = X extends { readonly shapes: infer S extends Shapes }
  ? P extends `${infer N}.${infer Rest}`
    ? N extends keyof S
      ? ConstantAt<S[N]['fields'], Rest>
      : never
    : never
  : X extends { readonly fields: infer G extends Fields }
    ? ConstantAt<G, P>
    : X extends { readonly item: infer I } | { readonly each: infer I }
      ? P extends '*'
        ? ConstantOf<I>
        : P extends `*.${infer Rest}`
          ? ConstantIn<I, Rest>
          : never
      : never;

/** `names`: the paths of the fields of the same kind as the field at `P`, of the kinds `K`. */
// An interface for the sake of messages, again; used as `Alike<F, P, K>['names']`, since an alias would be printed.
export interface Alike<in out F extends Fields, in out P, in out K extends string> {
  // Where the first path is wrong already, the second is not blamed as well.
  names: [KindAt<F, P> & K] extends [never] ? string : PathOf<F, KindAt<F, P> & K>;
}

/** `names`: the path `P` itself where it is that of a field of one of the kinds `K`, else the paths there are. */
// Only a path that is wrong has the paths of all kinds listed.
export interface OfKind<in out F extends Fields, in out P, in out K extends string> {
  names: [KindAt<F, P> & K] extends [never] ? PathOf<F, K> : P;
}
