import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { Texts } from '../basics/text.ts';
import type { Field } from '../declared/field.ts';
import { valueGiven } from '../declared/given-back.ts';
import { type Kind, type KindSpec, type Read, type RoleSpec, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import { kindBy } from './field.ts';

/** A kind that fields are made with by label and steps alone. */
type Base<S extends string, F extends string, T> = Kind<S, T> & ((label: string, ...steps: Step<S>[]) => Field<F, T>);

/** A kind of one's own; it also counts as what it is based on. */
export interface OwnKind<in out K extends string, in out S extends string, out F extends string, out T> extends Kind<K, T> {
  (label: string, ...steps: (Step<S> | Step<K>)[]): Field<K | F, T>;
}

/**
 * Defines a kind of one's own upon another: the base reads the raw value, then `reads` refuses it (`undefined`) or gives
 * its canonical form. Fields of it also fit the roles and value rules of the base.
 *
 * @param name namespaced, such as `marina/berth-code`
 * @param body `says` is told when a value cannot be read; `{field}` is the label
 *
 * @law A kind of your own upon another: it refuses a value, or gives its canonical form, and also counts as the other.
 * @example ownKind('marina/berth-code', text, { reads: (code) => (/^[a-z]\d$/i.test(code) ? code.toUpperCase() : undefined), says: '{field} must be a berth code, such as A1.' })('Berth')
 * @holds 'a1'
 * @fails 'pier'
 */
export function ownKind<const K extends string, S extends string, F extends string, T, U extends T = T>(
  name: K,
  base: Base<S, F, T>,
  body: {
    readonly reads: (value: T) => U | undefined;
    readonly says: Texts;
    /** Some raw values that it reads, as JSON has them: descriptions show them, and proofs try them. */
    readonly examples?: readonly unknown[];
  },
): OwnKind<K, S, F, U> {
  const { spec: under } = (base ?? {}) as unknown as Partial<RoleSpec>;
  if (typeof name !== 'string' || name === '') fault('A kind of one’s own needs a name as its first argument.');
  if (under === undefined || under.is.includes(name)) fault(`Kind "${name}" has to be based on another kind, such as text.`);
  optionsOf(`Kind "${name}"`, body, ['reads', 'says', 'examples']);
  if (typeof body.reads !== 'function') fault(`Kind "${name}" needs reads, a function of the value.`);
  if (body.says === undefined) fault(`Kind "${name}" needs says, the sentence for a value that it cannot read.`);
  const then = (value: Read<unknown>) => {
    if (value === UNREADABLE) return value;
    const own = body.reads(value as T);
    return own === undefined || own === null ? UNREADABLE : valueGiven(under, own, `Kind "${name}"`);
  };
  const spec: KindSpec = {
    ...under,
    name,
    is: [name, ...under.is],
    says: body.says,
    ...(under.schema && { schema: { ...under.schema, leavesOut: `what ${name} refuses of its own` } }),
    ...(body.examples && { examples: () => body.examples as readonly unknown[] }),
    json: (raw) => then(under.json(raw)),
    value: (raw) => (under.value ?? under.json)(raw),
    form: (text) => then(under.form(text)),
    stored: (raw) => then(under.stored(raw)),
  };
  return kindBy<OwnKind<K, S, F, U>>(spec);
}
