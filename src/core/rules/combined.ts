import { fault } from '../fault.ts';
import { roleOf } from '../kinds/kind.ts';
import type { Texts } from '../text.ts';
import type { Circumstances } from '../verdict.ts';
import type { Definition, Takes } from './definition.ts';
import { define } from './rule.ts';
import { bind, type UseSpec, type ValueRule, type ValueUse } from './use.ts';

/** A combination brings its own message, since no part of it can speak for the whole. */
type WithMessage = ValueUse & { readonly message: Texts };

function combine(id: string, holds: (held: readonly boolean[]) => boolean) {
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
            parts.some(({ rule, takes }) => rule.needsZone?.(takes as never) === true),
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
  const answer = rule.check?.(value as never, takes as never, at);
  if (typeof answer !== 'boolean') throw new TypeError(`Rule "${rule.id}" gave something other than true or false.`);
  return answer;
}

/** Every one of these rules holds; one finding with a message of its own when not. */
export const satisfiesAll = combine('satisfies-all', (held) => held.every(Boolean));

/** At least one of these rules holds. */
export const satisfiesAny = combine('satisfies-any', (held) => held.some(Boolean));

/** None of these rules holds. */
export const satisfiesNone = combine('satisfies-none', (held) => !held.some(Boolean));
