import type { Texts } from '../basics/text.ts';
import type { Circumstances, Severity } from '../basics/verdict.ts';
import type { Catalogue } from '../messages/catalogues/catalogue.ts';
import type { AnyField, Fields } from './field.ts';
import type { ControlAttributes, KindSpec, NEEDS, RoleSpec } from './kind.ts';
import type { LookUpSpec, TermSpec } from './look-up.ts';
import type { JsonSchema, SchemaWords } from './schema-words.ts';

/** What a missing field takes: a constant, what a function gives, or (a list or table) no entries. */
export type Filling = { readonly value: unknown } | { readonly call: () => unknown } | { readonly empty: true };

/** A step that rewrites a value before it is judged; the steps of a field run in the order written. */
export interface Clean<in K extends string> {
  readonly type: 'clean';
  readonly name: string;
  /** @internal */
  readonly [NEEDS]: (kind: K) => void;
}

export interface CleanSpec {
  readonly type: 'clean';
  readonly name: string;
  readonly kinds: readonly string[];
  /** Ready-made: its name says all. */
  readonly isOurs?: true;
  readonly apply: (value: never) => unknown;
}

/** What stands in a field's list, as the run time sees it. */
export type StepSpec = CleanSpec | UseSpec;

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
  /** Of a list or table: what its entries are called in sentences. */
  readonly entryLabel?: Texts;
  /** Of a list. */
  readonly item?: AnyField;
  /** Of a table. */
  readonly each?: AnyField;
  /** Of shapes. */
  readonly tag?: string;
  readonly shapes?: { readonly [name: string]: ShapeSpec };
}

export interface ShapeSpec {
  readonly fields: Fields;
  readonly rules: readonly BoundSpec[];
}

/** How a value rule is used in one place: always the last argument. */
export interface ValueUse {
  /** A name of its own, by which findings and the intake's `messages` call this use. */
  readonly as?: string;
  /** The occasions on which the rule is evaluated. Defaults to all. */
  readonly on?: string | readonly string[];
  /** A failed warning is reported, and does not stop acceptance. Defaults to `error`. */
  readonly severity?: Severity;
  /** The use is judged and told apart (`verdict.trials`), and decides nothing: for trying a new rule on live traffic. */
  readonly trial?: boolean;
  /** Said in this place instead of the rule's own message. */
  readonly message?: Texts;
}

/** A rule bound to fields, for the `rules` of an intake or group. */
export interface BoundRule<in F> {
  readonly id: string;
  /** @internal */
  readonly [NEEDS]: (fields: F) => void;
}

/** A rule about one value, for a field's own list. */
// Contravariant in the kind's name and not in the value's type: a day's value is a string, and a length of a day is a mistake.
export interface ValueRule<in K extends string> {
  readonly id: string;
  /** @internal */
  readonly [NEEDS]: (kind: K) => void;
}
/** A rule about texts. */
export type TextRule = ValueRule<'text'>;

export interface UseOptions extends ValueUse {
  readonly when?: ConditionSpec;
  readonly constraint?: string;
  readonly unguarded?: true;
}

/** Where a role could name a field: that field as it is stored, before the change. */
export class AsStored<out P extends string = string> {
  constructor(readonly path: P) {}
}

/** Role to path; the roles of an `entries` role to paths. */
export type RolePaths = { readonly [role: string]: string | AsStored | { readonly [role: string]: string } };

/** One rule bound in one place, as the run time sees it. */
export interface UseSpec {
  readonly type: 'use';
  readonly id: string;
  readonly rule: Definition;
  readonly roles: RolePaths;
  readonly takes: { readonly [parameter: string]: unknown };
  readonly options: UseOptions;
}

/** From `when`: rules under one condition. */
export interface GuardSpec {
  readonly type: 'when';
  readonly id: string;
  readonly condition: ConditionSpec;
  readonly rules: readonly BoundSpec[];
  readonly otherwise: readonly BoundSpec[];
}

export type BoundSpec = UseSpec | GuardSpec;

/** A condition as the run time sees it. */
export interface ConditionSpec {
  readonly condition: true;
  /** Joins it to the fields of an intake: `bound` in `conditions/coming.ts` says with what. */
  readonly bind: (binding: never) => unknown;
}

export type RoleSpecs = { readonly [role: string]: RoleSpec };

export type LookUpSpecs = { readonly [name: string]: LookUpSpec };

export type Takes = { readonly [parameter: string]: unknown };

export type Reads = { readonly [role: string]: unknown };

export type Found = { readonly [lookUp: string]: unknown; readonly [CLAIMED]?: Claimant };

export type Facts = { readonly [fact: string]: unknown };

// Functions are methods here: what a rule reads is settled where it is declared, and nobody else looks at its type.
/** A rule as the run time sees it, whoever made it. */
export interface Definition {
  readonly id: string;
  /** Ready-made: a test has checked what others are checked for when they are defined. */
  readonly isOurs?: boolean;
  /** Definitions of one family may share an id: `unique` makes one for every set of columns. */
  readonly family: object;
  readonly reads: RoleSpecs;
  readonly takes: { readonly [parameter: string]: RoleSpec };
  readonly looksUp: LookUpSpecs;
  /** Look-ups for the message only, asked once the rule has failed. What they find is under their names in `found`. */
  readonly tells?: LookUpSpecs;
  /** Two rows, or two entries of a list, must not both have what it reads. */
  readonly claims?: ClaimSpec;
  /** The sort of constraint by which a database enforces the same. */
  readonly mirrors?: 'unique' | 'known' | 'overlap' | 'other';
  readonly how: 'holds' | 'failing' | 'asks';
  run(read: Reads, found: Found, takes: Takes, at: Circumstances): unknown;
  /** What the application has written, where `run` only calls it. */
  readonly written?: unknown;
  /** Of a value rule: the same with the bare value, so that nothing is allocated for what holds. */
  check?(value: unknown, takes: Takes, at: Circumstances): unknown;
  /** Of a value rule on lists: it looks at the number of entries only, whatever they are. */
  readonly countsOnly?: boolean;
  /** Of a value rule on lists: the index of the entry at fault, which is blamed instead of the list. */
  entryOf?(value: unknown, takes: Takes): number | undefined;
  /** Milliseconds an `asks` may take. */
  readonly within?: number;
  /** Of a value rule: what an HTML control says of the same, and nothing stricter. */
  control?(takes: Takes, at: Circumstances): ControlAttributes;
  /** Of a value rule: where what holds ends. Values around it are tried when an intake is proved. */
  edges?(takes: Takes, at: Circumstances): Edges;
  /** Of a value rule: values to try, on either side, where neither its edges nor its expression give any. */
  examples?(takes: Takes, at: Circumstances): readonly unknown[];
  /** Of a value rule: an expression that a text it holds for matches. */
  matches?(takes: Takes): RegExp | undefined;
  /** Of a value rule: what JSON Schema says of the same, for a field of that kind. What is left out cannot be said there. */
  schema?(takes: Takes, kind: KindSpec): SchemaWords | undefined;
  /** The same of a rule between fields of one object, by the keys of the fields that its roles read. */
  schemaBetween?(keys: { readonly [role: string]: string }, takes: Takes): JsonSchema;
  /** Worked out only for what failed. */
  facts?(read: Reads, found: Found, takes: Takes, at: Circumstances): Facts;
  /** Facts that tell nothing of what was read or found, and are told beside secrets too; `true` for all. */
  readonly open?: true | readonly string[];
  /** Reads the constants among its parameters by the field that it stands on, and refuses what that field can never be. */
  forField?(takes: Takes, field: FieldSpec, say: Say): Takes;
  /** The same for what several roles are bound to. */
  forRoles?(takes: Takes, roles: readonly RoleField[], say: Say): Takes;
  /** The names that `facts` gives, where they are known beforehand. */
  readonly factNames?: readonly string[];
  /** What only the message needs: words for people in its language, and what selects between its branches. */
  words?(takes: Takes, read: Reads, catalogues: readonly Catalogue[]): { readonly [slot: string]: Texts | readonly Texts[] };
  readonly wordNames?: readonly string[];
  /** Its facts and words come from its parameters (and from what kind its fields are): what it tells is the same for every submission. */
  readonly isFixed?: boolean;
  /** It asks only whether a field is there: under however many conditions, that is one cause. */
  readonly isPresence?: true;
  /** All roles have to be bound to fields of one kind, whichever of those they accept. */
  readonly alike?: true;
  /** True when these parameters need the intake's time zone. */
  needsZone?(takes: Takes): boolean;
  /** Throws a `Fault` for parameters that contradict themselves. */
  refuses?(takes: Takes): void;
  readonly message: Texts;
  readonly blames: readonly string[];
}

/** Values as far as which something holds, or sizes of texts, lists and files. */
export interface Edges {
  readonly bounds?: readonly (string | number)[];
  readonly sizes?: readonly number[];
}

/** Throws a `Fault` that says where; the sentence goes on from there. */
export type Say = (sentence: string) => never;

/** A field that a role is bound to. */
export interface RoleField {
  readonly path: string;
  readonly kind: KindSpec;
  /** Of shapes: their names. */
  readonly shapes: readonly string[] | undefined;
}

/** What is claimed: the values asked with, or with an interval that must not overlap another. */
export interface ClaimSpec {
  readonly terms: readonly TermSpec[];
  /** The columns that hold exact decimals: texts that are compared as numbers. */
  readonly exact: readonly string[];
  readonly interval?: {
    readonly from: string;
    readonly to: string;
    readonly touching: boolean /** Texts that stand for numbers. */;
    readonly isNumber: boolean;
  };
}

/** In `found`: who claimed the same before. Besides, no look-up was asked. */
export const CLAIMED: unique symbol = Symbol.for('jestril.claimed');

/** An earlier row of a `judgeMany`, or an earlier entry of the same submission. */
export interface Claimant {
  readonly row?: number;
  /** The row was not accepted itself. */
  readonly isRefused?: boolean;
  readonly entry?: number | string;
  readonly pointer?: string;
}
