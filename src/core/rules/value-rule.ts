import type { FieldSpec } from '../kinds/field.ts';
import { roleOf } from '../kinds/kind.ts';
import type { Texts } from '../text.ts';
import type { Circumstances } from '../verdict.ts';
import type { Facts, Say } from './definition.ts';
import { define } from './rule.ts';
import { bind, type ValueRule, type ValueUse } from './use.ts';

interface ValueBody<V, T> {
  /** Shared by definitions with one id. */
  readonly family?: object;
  /** Whether the value satisfies the rule. */
  check(value: V, takes: T, at: Circumstances): boolean;
  /** The facts of a finding, and their names. */
  readonly facts?: (takes: T, at: Circumstances, value: V) => Facts;
  readonly factNames?: readonly string[];
  readonly words?: (takes: T, value: V) => { readonly [slot: string]: Texts | readonly Texts[] };
  readonly wordNames?: readonly string[];
  readonly countsOnly?: boolean;
  /** Of a list: the index of the entry at fault, which is blamed instead of the list. */
  readonly entryOf?: (value: V, takes: T) => number | undefined;
  /** Reads constants by the field's kind, and refuses what the field can never be. */
  readonly forField?: (takes: T, field: FieldSpec, say: Say) => T;
  readonly needsZone?: (takes: T) => boolean;
  /** Throws a `Fault` for parameters that contradict themselves. */
  readonly refuses?: (takes: T) => void;
  readonly message: Texts;
}

/**
 * Defines a ready-made rule about one value: what it checks, what it tells, what it says.
 * What it gives back binds it with its parameters, in a field's own list.
 */
export function valueRule<K extends string, V, T extends object>(
  id: string,
  kinds: readonly K[],
  body: ValueBody<V, T>,
): (takes: T, use?: ValueUse) => ValueRule<K> {
  const { check, facts, words, forField, entryOf, ...rest } = body;
  const definition = define(
    id,
    { field: roleOf(kinds) },
    {
      ...rest,
      ...(entryOf && { entryOf: entryOf as never }),
      ...(forField && { forField: forField as never }),
      // Its facts come from its parameters alone.
      open: true,
      check: check as never,
      holds: (read: { field: V }, _found: unknown, takes: T, at: Circumstances) => check(read.field, takes, at),
      facts: (read: { field: V }, _found: unknown, takes: T, at: Circumstances) => facts?.(takes, at, read.field) ?? {},
      factNames: body.factNames ?? [],
      ...(words && { words: (takes: T, read: { field: V }) => words(takes, read.field) }),
      blames: 'field',
    },
  );
  return (takes, use) => {
    body.refuses?.(takes);
    return bind(definition, {}, takes, use) as unknown as ValueRule<K>;
  };
}
