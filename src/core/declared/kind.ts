import type { Texts } from '../basics/text.ts';
import type { SchemaWords } from './schema-words.ts';

// Phantom keys: they exist for the type checker only, and are required properties because optional ones
// make noisy messages under exactOptionalPropertyTypes.
/** The type of the value. */
export declare const VALUE: unique symbol;
/** The presence and marks of a field. */
export declare const MARKS: unique symbol;
/** What a rule, look-up or condition needs of the place where it stands. */
export declare const NEEDS: unique symbol;

/** What a reader gives back when the raw value is not of its kind. */
export const UNREADABLE: unique symbol = Symbol.for('jestril.unreadable');
export type Read<T> = T | typeof UNREADABLE;

/** Attributes of an HTML control (WHATWG HTML, 4.10.5) that say to the browser what the intake says. */
export interface ControlAttributes {
  readonly type?: string;
  readonly required?: true;
  readonly minlength?: number;
  readonly maxlength?: number;
  readonly min?: string;
  readonly max?: string;
  readonly step?: string;
  readonly pattern?: string;
  readonly inputmode?: string;
  readonly accept?: string;
  readonly multiple?: true;
}

/** What a column of a database keeps, in words that each dialect has a type for; `any` where the column alone tells. */
export type StoredAs = 'text' | 'integer' | 'real' | 'numeric' | 'boolean' | 'date' | 'timestamp' | 'time' | 'json' | 'any';

/** How the raw values of one kind are read. */
export interface KindSpec<T = unknown> {
  /** The kind's name, as roles and messages use it. */
  readonly name: string;
  /** The kinds it counts as, itself first: a whole number is also a decimal. */
  readonly is: readonly string[];
  /** Said when a value cannot be read; `{field}` is the label. */
  readonly says: Texts;
  /** Said instead in JSON: of text that a form could carry, of a `Date` of the application's own; and of a number that is too long. */
  readonly hints?: { readonly text?: Texts; readonly date?: Texts; readonly long?: Texts };
  /** Reads a value as `JSON.parse` gives it, strictly. */
  json(raw: unknown): Read<T>;
  /** Reads text that a form, a query string or a CSV file carries; never blank unless the kind is text. */
  form(text: string): Read<T>;
  /** The same where it depends on the time zone of the intake. */
  formIn?(text: string, zone: string): Read<T>;
  /** Reads a value of the kind, which the application has made: a value that was accepted is read as itself. Defaults to `json`. */
  value?(raw: unknown): Read<T>;
  /** What a column keeps of it; no column is of a kind that does not say it. */
  readonly storedAs?: StoredAs;
  /** Reads what a database driver gives for a column of this kind. */
  stored(raw: unknown): Read<T>;
  /** The same of a row that was found, as people are told of it. Defaults to `stored`. */
  found?(raw: unknown): Read<T>;
  /** Its values are frozen while they are judged; whoever gets the accepted value gets a copy. */
  copy?(value: T): T;
  /** A change is merged into the stored value (RFC 7396), and does not replace it. */
  merged?(stored: T, change: unknown): unknown;
  /** What a form means that does not send the field at all: an unticked check box is `false`. */
  readonly unsent?: T;
  /** Further facts of a `readable` finding, such as the options of a choice. */
  readonly facts?: { readonly [fact: string]: readonly (string | number)[] };
  /** The same in words for people, where the message should say these. */
  readonly words?: { readonly [slot: string]: readonly Texts[] };
  /** With what it was made, where nothing else here tells. */
  readonly settings?: { readonly [name: string]: number };
  /** What sort of step reads its fields (`core/steps`); a scalar where nothing is said. */
  readonly step?: { readonly name: string };
  /** Two of its values can be told the same; `isSame` where `===` does not tell it. */
  readonly comparable?: true;
  isSame?(a: T, b: T): boolean;
  /** Its values have an order that every store has alike; `compare` where `<` does not tell it. */
  readonly ordered?: 'number' | 'time';
  compare?(a: T, b: T): number;
  /** Its values can be added up. */
  readonly summable?: true;
  /** A choice may be made among its values: of yes and no there is none. */
  readonly listable?: true;
  /** What is judged may be written otherwise than what was sent: a number without its zeros, a moment in another zone. */
  readonly isRewritten?: true;
  /** Its values are texts, which may be blank. */
  readonly isText?: true;
  /** Forms carry it as an object, and not as text. */
  readonly isObject?: true;
  /** What the control of a field is, where it is no plain text box. */
  readonly control?: (zone: string | undefined) => ControlAttributes;
  /** Some raw values, as JSON has them, that it reads. */
  readonly examples?: (today: string) => readonly unknown[];
  /** What JSON Schema says of a raw value. */
  readonly schema?: SchemaWords;
  /** The value before a bound, the bound, and the value after it; those that there are. */
  readonly around?: (bound: string | number) => readonly unknown[];
}

/** What a kind can be asked for, besides its name. */
export type Ability = 'comparable' | 'ordered' | 'summable' | 'listable';
/** What kinds with abilities say of themselves, for the type checker: each adds a line of its own. */
// biome-ignore lint/suspicious/noEmptyInterface: filled where kinds are
export interface KindSpecs {}
/** The names of the kinds that can. */
export type Able<A extends Ability> = {
  [K in keyof KindSpecs]: KindSpecs[K] extends { readonly [N in A]: unknown } ? K : never;
}[keyof KindSpecs];

/** A kind by its name, usable as a role of a rule, a parameter or a column. */
export interface Kind<out K extends string, out T> {
  readonly kind: K;
  readonly [VALUE]: T;
}

/** A kind or role as the run time sees it. */
export interface RoleSpec {
  readonly spec: KindSpec;
  /** The kinds it fits, where these are not just that of `spec`. */
  readonly accepts?: readonly string[] | 'any';
  /** It fits every kind that can, too. */
  readonly can?: Ability;
  /** From `maybe`: the rule also runs when the field is absent. */
  readonly maybe?: true;
  /** Of presence rules: whether something was given. Of conditions: of shapes the tag that tells them apart. */
  readonly reads?: 'presence' | 'tag';
  /** From `entries`: the roles read of each entry of a list. */
  readonly entry?: { readonly [role: string]: RoleSpec };
}

/** A kind of the public face `K`: what makes its fields, joined with what makes it a role. */
export function asKind<K extends Kind<string, unknown>>(spec: KindSpec, make: (...args: never[]) => unknown): K {
  return Object.assign(make, { kind: spec.name, spec }) as unknown as K;
}

/** A constant of a definition, as the kind of its field reads it. */
export function readConstant(kind: KindSpec, value: unknown, who: string, say: (sentence: string) => never): unknown {
  const read = kind.json(value);
  if (read !== UNREADABLE) return read;
  const { options } = kind.facts ?? {};
  return say(`${who} ${JSON.stringify(value)}, which is ${options ? `none of ${options.join(', ')}` : `no ${kind.name}`}.`);
}

const ABILITIES: { readonly [A in Ability]: string } = {
  comparable: 'what can be compared',
  ordered: 'what has an order',
  summable: 'what can be added up',
  listable: 'what can be listed',
};

/** A role for a value of one of several kinds, of those that can, or of any. */
export function roleOf(accepts: readonly string[] | 'any', more: Pick<RoleSpec, 'maybe' | 'reads' | 'can'> = {}): RoleSpec {
  const name = accepts === 'any' ? 'any' : [more.can ? ABILITIES[more.can] : [], accepts].flat().join(' or ');
  const none = () => UNREADABLE;
  return { spec: { name, is: [], says: '', json: none, form: none, stored: none }, accepts, ...more };
}

/** Whether a role can be bound to a field of this kind. */
export function fits(role: RoleSpec, kind: KindSpec): boolean {
  if (role.accepts === 'any' || (role.can && kind[role.can] !== undefined)) return true;
  return (role.accepts ?? [role.spec.name]).some((name) => kind.is.includes(name));
}

/** A named input of a rule is described by the kind it reads. */
export type Role = Kind<string, unknown>;

/** The roles of a rule, by kinds. */
export type Roles = { readonly [role: string]: Role };

/** What a rule is told of comparing, where `===` is not enough. */
export type Sameness = { readonly isSame?: (a: unknown, b: unknown) => boolean };
export const samenessOf = ({ isSame }: Pick<KindSpec, 'isSame'> = {}): Sameness => (isSame ? { isSame } : {});

/** Whether two values of a kind are the same. */
export function areSame(a: unknown, b: unknown, { isSame }: Sameness): boolean {
  return a === b || (isSame?.(a, b) ?? false);
}
