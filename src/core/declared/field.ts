import type { Texts } from '../basics/text.ts';
import type { MARKS, VALUE } from './kind.ts';

/** What the modifiers of a field have made of it. */
export type Mark = 'absent' | 'filled' | 'leftOut' | 'given';

/** A named place in an intake: immutable, each modifier gives a new one. */
export interface Field<out K extends string, out T, out M extends Mark = never> {
  readonly kind: K;
  readonly label: string;
  readonly [VALUE]: T;
  readonly [MARKS]: M;
  /** The value appears in no finding, fact, message, trace, log line or redisplayed form. */
  secret(): this;
  /** The field may be missing; `null` counts as missing. */
  orAbsent(): Field<K, T, Exclude<M, 'filled'> | 'absent'>;
  /** A missing field takes this value; a function is called once a judgement that needs it. */
  orElse(value: T | (() => T)): Field<K, T, Exclude<M, 'absent'> | 'filled'>;
  /** Judged, but not part of the accepted value (a repeated passphrase). */
  leftOut(): Field<K, T, M | 'leftOut'>;
  /** Supplied by the application with each judgement, never read from the submission. */
  given(): Field<K, T, M | 'given'>;
  /** A needed text may be empty or white space only. */
  blankAllowed(): this;
  /** `null` is a value of the field, not its absence. */
  orNull(): Field<K, T | null, M>;
}

// Groups and lists carry only their insides; their value type is worked out on demand (ValueOf), never inside the
// interface, so that every variance annotation is trivially true and the checker never computes one.
/** Fields under one name. */
export interface GroupField<out F extends Fields, out M extends Mark = never> extends Nested<'group', M> {
  readonly fields: F;
  /** The group may be missing. */
  orAbsent(): GroupField<F, M | 'absent'>;
  /** Judged, but not part of the accepted value. */
  leftOut(): GroupField<F, M | 'leftOut'>;
  /** Supplied by the application with each judgement. */
  given(): GroupField<F, M | 'given'>;
}

/** Entries in an order, each like the item. */
export interface ListField<out I extends AnyField, out M extends Mark = never> extends Nested<'list', M> {
  readonly item: I;
  /** The list may be missing. */
  orAbsent(): ListField<I, M | 'absent'>;
  /** A missing list is an empty one. */
  orEmpty(): ListField<I, M | 'filled'>;
  /** In a form, rows that nobody has filled in are not there: a page may offer some to spare. The others keep their numbers. */
  blankRowsDropped(): ListField<I, M>;
  /**
   * Sentences about what is inside say which entry they are about: `entryLabel('Helper {number}')` makes "Helper 1: Birthday is needed."
   * Entries are counted from 1. One text a language, where the intake speaks several.
   */
  entryLabel(words: Texts): ListField<I, M>;
  /** Judged, but not part of the accepted value. */
  leftOut(): ListField<I, M | 'leftOut'>;
}

/** Entries by any names, each alike. */
export interface TableField<out I extends AnyField, out M extends Mark = never> extends Nested<'table', M> {
  readonly each: I;
  /** Sentences about what is inside say which entry they are about: `entryLabel('Price of {name}')`. */
  entryLabel(words: Texts): TableField<I, M>;
  /** The table may be missing. */
  orAbsent(): TableField<I, M | 'absent'>;
  /** A missing table is an empty one. */
  orEmpty(): TableField<I, M | 'filled'>;
  /** Judged, but not part of the accepted value. */
  leftOut(): TableField<I, M | 'leftOut'>;
}

/** Shapes by the text that tells them apart. */
export type Shapes = { readonly [tagValue: string]: { readonly fields: Fields } };

/** An object of one of several shapes. */
export interface ShapesField<out Tag extends string, out S extends Shapes, out M extends Mark = never> extends Nested<'one-of-shapes', M> {
  readonly tag: Tag;
  readonly shapes: S;
  /** The object may be missing. */
  orAbsent(): ShapesField<Tag, S, M | 'absent'>;
  /** Judged, but not part of the accepted value. */
  leftOut(): ShapesField<Tag, S, M | 'leftOut'>;
}

/** What all fields with something inside have. */
export interface Nested<out K extends string, out M extends Mark> {
  readonly kind: K;
  readonly label: string;
  readonly [VALUE]: unknown;
  readonly [MARKS]: M;
  /** Everything inside is secret. */
  secret(): this;
}

/** A field, whatever its kind is. */
export interface AnyField {
  readonly kind: string;
  readonly label: string;
  readonly [VALUE]: unknown;
  readonly [MARKS]: Mark;
}

/** Fields by their names. */
export type Fields = { readonly [name: string]: AnyField };

/** The value type of a field, kind or role. */
export type ValueOf<X> = X extends { readonly tag: infer Tag extends string; readonly shapes: infer S extends Shapes }
  ? ShapeValue<Tag, S>
  : X extends { readonly fields: infer G extends Fields }
    ? AcceptedOf<G>
    : X extends { readonly item: infer I }
      ? ValueOf<I>[]
      : X extends { readonly each: infer I }
        ? { [name: string]: ValueOf<I> }
        : X extends { readonly [VALUE]: infer T }
          ? T
          : never;

export type ShapeValue<Tag extends string, S extends Shapes> = {
  [N in keyof S]: Flat<{ [T in Tag]: N } & AcceptedOf<S[N]['fields']>>;
}[keyof S];

/** Members put together into one type, so that messages show them. */
export type Flat<T> = { [N in keyof T]: T[N] } & {};

export type InsideOf<X extends AnyField> = X['kind'] extends 'group' | 'list' | 'table' | 'one-of-shapes' ? ValueOf<X> : X[typeof VALUE];

/** The accepted value of a set of fields. */
export type AcceptedOf<F extends Fields> = Flat<
  {
    -readonly [N in keyof F as F[N][typeof MARKS] & ('leftOut' | 'absent' | 'given') extends never ? N : never]: InsideOf<F[N]>;
  } & {
    -readonly [N in keyof F as F[N][typeof MARKS] & ('leftOut' | 'given') extends never
      ? 'absent' extends F[N][typeof MARKS]
        ? N
        : never
      : never]?: InsideOf<F[N]>;
  }
>;

/** What the application has to supply with each judgement. */
export type GivenOf<F extends Fields> = Flat<
  {
    readonly [N in keyof F as 'given' extends F[N][typeof MARKS]
      ? F[N][typeof MARKS] & ('absent' | 'filled') extends never
        ? N
        : never
      : never]: InsideOf<F[N]>;
  } & {
    readonly [N in keyof F as 'given' extends F[N][typeof MARKS]
      ? F[N][typeof MARKS] & ('absent' | 'filled') extends never
        ? never
        : N
      : never]?: InsideOf<F[N]>;
  }
>;
