import { roleOf } from '../kinds/kind.ts';
import type { Texts } from '../text.ts';
import type { Circumstances } from '../verdict.ts';
import type { Facts } from './definition.ts';
import { define } from './rule.ts';
import { bind, type ValueRule, type ValueUse } from './use.ts';

interface ValueBody<V, T> {
  /** Shared by definitions with one id. */
  readonly family?: object;
  /** Whether the value satisfies the rule. */
  check(value: V, takes: T, at: Circumstances): boolean;
  /** The facts of a finding, and their names. */
  readonly facts?: (takes: T, at: Circumstances) => Facts;
  readonly factNames?: readonly string[];
  readonly words?: (takes: T, value: V) => { readonly [slot: string]: Texts | readonly Texts[] };
  readonly wordNames?: readonly string[];
  readonly countsOnly?: boolean;
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
  const { check, facts, words, ...rest } = body;
  const definition = define(
    id,
    { field: roleOf(kinds) },
    {
      ...rest,
      check: check as never,
      holds: (read: { field: V }, _found: unknown, takes: T, at: Circumstances) => check(read.field, takes, at),
      facts: (_read: unknown, _found: unknown, takes: T, at: Circumstances) => facts?.(takes, at) ?? {},
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
