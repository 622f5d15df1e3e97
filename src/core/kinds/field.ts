import type { Clean, StepSpec } from '../cleaning/clean.ts';
import { fault } from '../fault.ts';
import type { Filling } from '../plan/plan.ts';
import type { BoundSpec, ValueRule } from '../rules/use.ts';
import type { KindSpec, MARKS, VALUE } from './kind.ts';
import type { ShapeSpec } from './shapes.ts';

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
export interface GroupField<out F extends Fields, out M extends Mark = never> extends Nested<'group', M> {
  readonly fields: F;
  orAbsent(): GroupField<F, M | 'absent'>;
  leftOut(): GroupField<F, M | 'leftOut'>;
  given(): GroupField<F, M | 'given'>;
}
export interface ListField<out I extends AnyField, out M extends Mark = never> extends Nested<'list', M> {
  readonly item: I;
  orAbsent(): ListField<I, M | 'absent'>;
  /** A missing list is an empty one. */
  orEmpty(): ListField<I, M | 'filled'>;
  /** In a form, rows that nobody has filled in are not there: a page may offer some to spare. The others keep their numbers. */
  blankRowsDropped(): ListField<I, M>;
  leftOut(): ListField<I, M | 'leftOut'>;
}
export interface TableField<out I extends AnyField, out M extends Mark = never> extends Nested<'table', M> {
  readonly each: I;
  orAbsent(): TableField<I, M | 'absent'>;
  /** A missing table is an empty one. */
  orEmpty(): TableField<I, M | 'filled'>;
  leftOut(): TableField<I, M | 'leftOut'>;
}
export type Shapes = { readonly [tagValue: string]: { readonly fields: Fields } };
export interface ShapesField<out Tag extends string, out S extends Shapes, out M extends Mark = never> extends Nested<'shapes', M> {
  readonly tag: Tag;
  readonly shapes: S;
  orAbsent(): ShapesField<Tag, S, M | 'absent'>;
  leftOut(): ShapesField<Tag, S, M | 'leftOut'>;
}
export interface Nested<out K extends string, out M extends Mark> {
  readonly kind: K;
  readonly label: string;
  readonly [VALUE]: unknown;
  readonly [MARKS]: M;
  /** Everything inside is secret. */
  secret(): this;
}
export interface AnyField {
  readonly kind: string;
  readonly label: string;
  readonly [VALUE]: unknown;
  readonly [MARKS]: Mark;
}
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
type ShapeValue<Tag extends string, S extends Shapes> = { [N in keyof S]: Flat<{ [T in Tag]: N } & AcceptedOf<S[N]['fields']>> }[keyof S];
export type Flat<T> = { [N in keyof T]: T[N] } & {};
type InsideOf<X extends AnyField> = X['kind'] extends 'group' | 'list' | 'table' | 'shapes' ? ValueOf<X> : X[typeof VALUE];

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

/** What stands in a field's own list: cleaning steps, which run first, and value rules. */
export type Step<K extends string> = ValueRule<K> | Clean<K>;

/** A field as the run time sees it. */
export interface FieldSpec {
  readonly kind: KindSpec;
  readonly label: string;
  readonly steps: readonly StepSpec[];
  readonly presence: 'needed' | 'optional' | Filling;
  readonly nullAllowed: boolean;
  readonly blankAllowed: boolean;
  readonly isSecret: boolean;
  readonly isLeftOut: boolean;
  readonly isGiven: boolean;
  /** Of a list: rows of a form that are all blank are not there. */
  readonly dropsBlankRows?: true;
  /** Of a group. */
  readonly fields?: Fields;
  readonly rules?: readonly BoundSpec[];
  /** Of a list. */
  readonly item?: AnyField;
  /** Of a table. */
  readonly each?: AnyField;
  /** Of shapes. */
  readonly tag?: string;
  readonly shapes?: { readonly [name: string]: ShapeSpec };
}

/** All fields are of this class at run time; the interfaces above say which modifiers each kind offers. */
class FieldNode {
  constructor(readonly spec: FieldSpec) {}
  get kind(): string {
    return this.spec.kind.name;
  }
  get label(): string {
    return this.spec.label;
  }
  get fields(): Fields | undefined {
    return this.spec.fields;
  }
  get item(): AnyField | undefined {
    return this.spec.item;
  }
  get each(): AnyField | undefined {
    return this.spec.each;
  }
  get tag(): string | undefined {
    return this.spec.tag;
  }
  get shapes(): object | undefined {
    return this.spec.shapes;
  }
  secret(): FieldNode {
    return this.#with({ isSecret: true });
  }
  orAbsent(): FieldNode {
    return this.#with({ presence: 'optional' });
  }
  orElse(value: unknown): FieldNode {
    return this.#with({ presence: typeof value === 'function' ? { call: value as () => unknown } : { value } });
  }
  orEmpty(): FieldNode {
    return this.#with({ presence: { empty: true } });
  }
  blankAllowed(): FieldNode {
    if (!this.spec.kind.is.includes('text')) fault(`"${this.label}" is ${this.spec.kind.name}; only text can be allowed to be blank.`);
    return this.#with({ blankAllowed: true });
  }
  blankRowsDropped(): FieldNode {
    if (!this.spec.item) fault(`"${this.label}" is ${this.spec.kind.name}; only a list has rows.`);
    return this.#with({ dropsBlankRows: true });
  }
  orNull(): FieldNode {
    return this.#with({ nullAllowed: true });
  }
  leftOut(): FieldNode {
    return this.#with({ isLeftOut: true });
  }
  given(): FieldNode {
    return this.#with({ isGiven: true });
  }
  #with(change: Partial<FieldSpec>): FieldNode {
    return new FieldNode({ ...this.spec, ...change });
  }
}

/** Makes the field of a kind; kinds call it and give it their own interface. */
export function makeField(
  kind: KindSpec,
  label: string,
  steps: readonly unknown[],
  inside: Pick<FieldSpec, 'fields' | 'rules' | 'item' | 'each' | 'tag' | 'shapes'> = {},
): never {
  if (typeof label !== 'string' || label === '') fault(`A ${kind.name} field needs a label as its first argument.`);
  return new FieldNode({
    kind,
    label,
    steps: steps as readonly StepSpec[],
    presence: 'needed',
    nullAllowed: false,
    blankAllowed: false,
    isSecret: false,
    isLeftOut: false,
    isGiven: false,
    ...inside,
  }) as never;
}

export function isField(field: unknown): field is AnyField {
  return field instanceof Object && 'spec' in field && (field.spec as Partial<FieldSpec> | undefined)?.steps !== undefined;
}

/** The run-time description of a field; a fault for what is none, such as a kind that was not called. */
export function specOf(field: AnyField, path: string): FieldSpec {
  const { spec } = (field ?? {}) as unknown as Partial<FieldNode>;
  return spec?.steps ? spec : fault(`"${path}" is not a field; make one with a kind, such as text('Name').`);
}
