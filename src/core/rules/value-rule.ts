import type { Texts } from '../basics/text.ts';
import type { Circumstances } from '../basics/verdict.ts';
import { type Ability, type ControlAttributes, type KindSpec, roleOf } from '../declared/kind.ts';
import type { Edges, Facts, FieldSpec, Reads, Say, Takes, ValueRule, ValueUse } from '../declared/rule.ts';
import type { SchemaWords } from '../declared/schema-words.ts';
import type { Catalogue } from '../messages/catalogues/catalogue.ts';
import { define } from './rule.ts';
import { bind } from './use.ts';

interface ValueBody<V, T> {
  /** Shared by definitions with one id. */
  readonly family?: object;
  /** Whether the value satisfies the rule. */
  check(value: V, takes: T, at: Circumstances): boolean;
  /** What an HTML control says of the same, and nothing stricter. */
  readonly control?: (takes: T, at: Circumstances) => ControlAttributes;
  /** Where what holds ends. */
  readonly edges?: (takes: T, at: Circumstances) => Edges;
  /** Values to try, on either side, where neither its edges nor its expression give any. */
  readonly examples?: (takes: T, at: Circumstances) => readonly unknown[];
  /** An expression that a text it holds for matches. */
  readonly matches?: (takes: T) => RegExp | undefined;
  /** What JSON Schema says of the same, for a field of that kind. */
  readonly schema?: (takes: T, kind: KindSpec) => SchemaWords | undefined;
  /** The facts of a finding, and their names. */
  readonly facts?: (takes: T, at: Circumstances, value: V) => Facts;
  readonly factNames?: readonly string[];
  readonly words?: (takes: T, value: V, catalogues: readonly Catalogue[]) => { readonly [slot: string]: Texts | readonly Texts[] };
  readonly wordNames?: readonly string[];
  readonly countsOnly?: boolean;
  /** Its words depend on the kind of the value alone, which the field settles. Without words, and with facts from parameters alone, it is so anyway. */
  readonly isFixed?: boolean;
  /** Of a list: the index of the entry at fault, which is blamed instead of the list. */
  readonly entryOf?: (value: V, takes: T) => number | undefined;
  /** Reads constants by the field's kind, and refuses what the field can never be. */
  readonly forField?: (takes: T, field: FieldSpec, say: Say) => T;
  readonly needsZone?: (takes: T) => boolean;
  /** Throws a `Fault` for parameters that contradict themselves. */
  readonly refuses?: (takes: T) => void;
  readonly message: Texts;
}

/** Of a format or a media type: JSON Schema lets a reader overlook it (2020-12 validation, 7.2.1 and 8). */
export const A_REMARK = 'all of it: a reader may take it for a remark';

/**
 * Defines a ready-made rule about one value: what it checks, what it tells, what it says.
 * What it gives back binds it with its parameters, in a field's own list.
 */
export function valueRule<K extends string, V, T extends object>(
  id: string,
  kinds: readonly K[] | { readonly can: Ability },
  body: ValueBody<V, T>,
): (takes: T, use?: ValueUse) => ValueRule<K> {
  // The one place where a value rule's types are let go: the kinds of its fields have settled them.
  const { check, facts, words, ...rest } = body as unknown as ValueBody<unknown, Takes>;
  const definition = define(
    id,
    { field: 'can' in kinds ? roleOf([], kinds) : roleOf(kinds) },
    {
      ...rest,
      // Its facts come from its parameters alone.
      open: true,
      check,
      holds: (read, _found, takes, at) => check(read.field, takes, at),
      facts: (read, _found, takes, at) => facts?.(takes, at, read.field) ?? {},
      // Neither looks at the clock or the value.
      isFixed: body.isFixed ?? ((facts?.length ?? 0) < 2 && (words?.length ?? 0) < 2),
      factNames: body.factNames ?? [],
      ...(words && { words: (takes: Takes, read: Reads, catalogues: readonly Catalogue[]) => words(takes, read.field, catalogues) }),
      blames: 'field',
    },
  );
  return (takes, use) => {
    body.refuses?.(takes);
    return bind(definition, {}, takes, use) as unknown as ValueRule<K>;
  };
}
