import { fault } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import type { Circumstances } from '../basics/verdict.ts';
import { notAsked } from '../declared/given-back.ts';
import { type KindSpec, roleOf } from '../declared/kind.ts';
import type { Definition, Takes, UseSpec, ValueRule, ValueUse } from '../declared/rule.ts';
import { schemaOf } from '../declared/schema-of.ts';
import type { SchemaWords } from '../declared/schema-words.ts';
import { define } from './rule.ts';
import { bind } from './use.ts';

/** A combination brings its own message, since no part of it can speak for the whole. */
type WithMessage = ValueUse & { readonly message: Texts };

/** Only what can be said of all parts can be said of the whole. */
function combined(keyword: 'allOf' | 'anyOf' | 'not', parts: readonly UseSpec[], kind: KindSpec): SchemaWords | undefined {
  const words = parts.map(({ rule, takes }) => schemaOf(rule, takes, kind));
  if (words.some((each) => each === undefined || each.leavesOut !== undefined)) return undefined;
  const schemas = words.map((each) => (each as SchemaWords).schema);
  return { schema: keyword === 'not' ? { not: { anyOf: schemas } } : { [keyword]: schemas } };
}

function combine(id: string, keyword: 'allOf' | 'anyOf' | 'not', holds: (held: readonly boolean[]) => boolean) {
  const family = {};
  const made = new Map<string, Definition>();

  // One definition for each set of kinds; the parts are parameters.
  const definitionFor = (kinds: readonly string[]): Definition => {
    const key = kinds.join();
    let definition = made.get(key);
    if (!definition) {
      definition = define(
        id,
        { field: roleOf(kinds) },
        {
          family,
          holds: (read: { readonly field: unknown }, _found: unknown, { parts }: Takes, at: Circumstances) =>
            holds((parts as readonly UseSpec[]).map((part) => partHolds(part, read.field, at))),
          needsZone: ({ parts }: { readonly parts: readonly UseSpec[] }) =>
            parts.some(({ rule, takes }) => rule.needsZone?.(takes) === true),
          examples: ({ parts }: Takes, at: Circumstances) =>
            (parts as readonly UseSpec[]).flatMap(({ rule, takes }) => rule.examples?.(takes, at) ?? []),
          schema: ({ parts }: Takes, kind: KindSpec) => combined(keyword, parts as readonly UseSpec[], kind),
          message: '{field}',
          blames: 'field',
        },
      );
      made.set(key, definition);
    }
    return definition;
  };

  return <K extends string>(rules: readonly ValueRule<K>[], use: WithMessage): ValueRule<K> => {
    const parts = rules as unknown as readonly UseSpec[];
    if (parts.length === 0) fault(`${id} needs at least one rule.`);
    if (use?.message === undefined) fault(`${id} needs a message of its own: no part of it can speak for the whole.`);
    for (const part of parts) {
      if (!part?.rule?.check || part.rule.how !== 'holds' || Object.keys(part.rule.looksUp).length > 0)
        fault(`${id} combines rules about one value that need no records.`);
    }
    const [first, ...others] = parts.map(({ rule }) => rule.reads.field?.accepts ?? [rule.reads.field?.spec.name ?? '']) as [
      readonly string[],
      ...(readonly string[])[],
    ];
    const kinds = first.filter((kind) => others.every((other) => other.includes(kind)));
    if (kinds.length === 0) fault(`${id} combines rules for different kinds.`);
    return bind(definitionFor(kinds), {}, { parts }, use) as unknown as ValueRule<K>;
  };
}

function partHolds({ rule, takes }: UseSpec, value: unknown, at: Circumstances): boolean {
  const answer = rule.check?.(value, takes, at);
  if (typeof answer !== 'boolean') throw notAsked(`Rule "${rule.id}"`, answer, 'true or false');
  return answer;
}

/**
 * Every one of these rules holds; one finding with a message of its own when not.
 *
 * @law Every one of these rules holds; one finding, with a message of its own.
 * @example text('Code', satisfiesAll([length({ max: 4 }), digits()], { message: '{field} must be up to four digits.' }))
 * @holds '407'
 * @fails '40a'
 */
export const satisfiesAll = combine('satisfies-all', 'allOf', (held) => held.every(Boolean));

/**
 * At least one of these rules holds.
 *
 * @example text('Contact', satisfiesAny([email(), phone()], { message: '{field} must be an e-mail address or a phone number.' }))
 * @holds '+4712345678'
 * @fails 'ida'
 */
export const satisfiesAny = combine('satisfies-any', 'anyOf', (held) => held.some(Boolean));

/**
 * None of these rules holds.
 *
 * @example text('Nickname', satisfiesNone([email(), phone()], { message: '{field} must not be a way to reach you.' }))
 * @holds 'ida'
 * @fails 'ida@fjordmail.example'
 */
export const satisfiesNone = combine('satisfies-none', 'not', (held) => !held.some(Boolean));
