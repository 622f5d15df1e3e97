import type { Field } from '../core/declared/field.ts';
import type { Intake } from '../core/intake.ts';
import * as library from '../index.ts';
import { type Argument, type FieldDraft, type IntakeDraft, isCall, isField, Name } from './draft.ts';

/** An intake whose fields are known at run time only; none of them is given. */
export interface BuiltIntake extends Intake<{ readonly [name: string]: Field<string, unknown> }> {}

/**
 * A draft as an intake. Collections are not made: what is at hand at run time has none.
 *
 * @throws Fault as the declarations themselves would
 */
export function builtIntake({ name, fields, rules, refusesStrangers }: IntakeDraft): BuiltIntake {
  return library.intake(name, built(fields) as never, {
    rules: built(rules) as never,
    strangers: refusesStrangers ? 'refuse' : 'drop',
  }) as unknown as BuiltIntake;
}

/** What a call gives, with everything in it. */
export function built(value: Argument): unknown {
  if (isField(value)) return builtField(value);
  if (isCall(value)) return named(value.call)(...value.args.map(built));
  if (value instanceof Name) return named(value.name);
  if (Array.isArray(value)) return value.map(built);
  if (typeof value === 'object' && value !== null && !(value instanceof RegExp))
    return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, built(inner)]));
  return value;
}

function builtField({ kind, label, args, modifiers }: FieldDraft): unknown {
  let field = named(kind)(label, ...args.map(built)) as { readonly [modifier: string]: (...args: unknown[]) => unknown };
  for (const { call, args: given } of modifiers) field = field[call]?.(...given.map(built)) as typeof field;
  return field;
}

function named(name: string): (...args: unknown[]) => unknown {
  const found = (library as { readonly [name: string]: unknown })[name];
  if (typeof found !== 'function') throw new TypeError(`Jestril exports no ${name}.`);
  return found as (...args: unknown[]) => unknown;
}
