import type { Field } from '../core/declared/field.ts';
import type { Intake } from '../core/intake.ts';
import { madeBy } from '../core/kinds/told.ts';
import * as library from '../index.ts';
import { type Argument, type FieldDraft, type IntakeDraft, isCall, isField, Name } from './draft.ts';

/** An intake whose fields are known at run time only; none of them is given. */
export interface BuiltIntake extends Intake<{ readonly [name: string]: Field<string, unknown> }> {}

/**
 * A draft as an intake, with the collections that its rules look into.
 *
 * @throws Fault as the declarations themselves would
 */
export function builtIntake({ name, fields, rules, refusesStrangers, collections = [] }: IntakeDraft): BuiltIntake {
  const stored = new Map<string, unknown>();
  for (const { constant, name: called, columns, key } of collections) {
    const kinds = Object.fromEntries(Object.entries(columns).map(([column, kind]) => [column, named(kind)]));
    stored.set(constant, library.collection(called, kinds as never, { key: (key.length === 1 ? key[0] : key) as never }));
  }
  const [storedIn] = stored.values();
  return library.intake(name, built(fields) as never, {
    rules: built(rules, stored) as never,
    strangers: refusesStrangers ? 'refuse' : 'drop',
    ...(storedIn !== undefined && { storedIn: storedIn as never }),
  }) as unknown as BuiltIntake;
}

/**
 * What a call gives, with everything in it.
 *
 * @param constants what names stand for, besides what Jestril exports
 */
export function built(value: Argument, constants: ReadonlyMap<string, unknown> = new Map()): unknown {
  const inner = (each: Argument) => built(each, constants);
  if (isField(value)) return builtField(value, inner);
  if (isCall(value)) return named(value.call)(...value.args.map(inner));
  if (value instanceof Name) return constants.get(value.name) ?? named(value.name);
  if (Array.isArray(value)) return value.map(inner);
  if (typeof value === 'object' && value !== null && !(value instanceof RegExp))
    return Object.fromEntries(Object.entries(value).map(([key, each]) => [key, inner(each)]));
  return value;
}

function builtField({ kind, label, args, modifiers }: FieldDraft, inner: (each: Argument) => unknown): unknown {
  let field = named(kind)(label, ...args.map(inner)) as { readonly [modifier: string]: (...args: unknown[]) => unknown };
  for (const { call, args: given } of modifiers) field = field[call]?.(...given.map(inner)) as typeof field;
  return field;
}

function named(name: string): (...args: unknown[]) => unknown {
  const found = madeBy(name)?.make ?? (library as { readonly [name: string]: unknown })[name];
  if (typeof found !== 'function') throw new TypeError(`Jestril exports no ${name}.`);
  return found as (...args: unknown[]) => unknown;
}
