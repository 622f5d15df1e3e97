// An intake that is not declared yet: calls by name, that are made at run time or written as source.

/** A call of something that Jestril exports: a kind, a rule, a cleaning step, a condition. */
export interface Call {
  readonly call: string;
  readonly args: readonly Argument[];
}

export type Argument =
  | string
  | number
  | boolean
  | null
  | RegExp
  | Name
  | Call
  | FieldDraft
  | readonly Argument[]
  | { readonly [name: string]: Argument };

/** Something by its name: a kind among columns, a constant of the module. */
export class Name {
  readonly name: string;

  constructor(name: string) {
    this.name = name;
  }
}

/** A field: `text('Name', trim(), length({ max: 80 })).orAbsent()`. */
export interface FieldDraft {
  readonly kind: string;
  readonly label: string;
  /** After the label: options, fields, an item, steps and rules. */
  readonly args: readonly Argument[];
  /** What is called on it, in this order. */
  readonly modifiers: readonly Call[];
  /** What it rests on, for whoever reviews it: a comment above it. */
  readonly remarks: readonly string[];
}

export type FieldDrafts = { readonly [key: string]: FieldDraft };

export interface IntakeDraft {
  readonly name: string;
  readonly fields: FieldDrafts;
  readonly rules: readonly Call[];
  readonly refusesStrangers: boolean;
  readonly remarks: readonly string[];
  /** Collections that its rules look into, by the names of their constants. */
  readonly collections?: readonly CollectionDraft[];
}

export interface CollectionDraft {
  readonly constant: string;
  readonly name: string;
  /** The kinds of its columns, by name. */
  readonly columns: { readonly [column: string]: string };
  readonly key: readonly string[];
}

export function call(name: string, ...args: readonly Argument[]): Call {
  return { call: name, args };
}

export function isCall(value: unknown): value is Call {
  return typeof value === 'object' && value !== null && 'call' in value && Array.isArray((value as Call).args);
}

export function isField(value: unknown): value is FieldDraft {
  return typeof value === 'object' && value !== null && 'modifiers' in value;
}
