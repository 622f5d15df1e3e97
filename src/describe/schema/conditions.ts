import type { JsonSchema } from '../../core/declared/schema-words.ts';
import { byCondition } from '../../core/plan/by-condition.ts';
import { type BySort, bySort } from '../../core/plan/by-sort.ts';
import { type ConditionPlan, ENTRY, type PlaceSpec, type RolePlan } from '../../core/plan/plan.ts';
import { wantedIn } from '../words/sentences.ts';

/** What a condition demands of the submission so that it holds, or fails; `undefined` where a schema cannot say it. */
export function conditionSchema(condition: ConditionPlan, holds: boolean, occasion: string): JsonSchema | boolean | undefined {
  // All hold, or one that does not is enough; of any the other way round.
  const parts = (of: readonly ConditionPlan[], isAll: boolean) => {
    const said = of.map((each) => conditionSchema(each, holds, occasion));
    return said.some((part) => part === undefined) ? undefined : joined(said as (JsonSchema | boolean)[], isAll === holds);
  };
  return byCondition<JsonSchema | boolean | undefined>(condition, {
    not: ({ of: [negated] }) => conditionSchema(negated as ConditionPlan, !holds, occasion),
    all: ({ of }) => parts(of, true),
    any: ({ of }) => parts(of, false),
    occasion: ({ names }) => names.includes(occasion) === holds,
    calendar: () => undefined,
    condition({ definition, takes, roles }) {
      const [first] = roles;
      if (definition.isPresence && first) return presence(first, holds);
      const wanted = wantedIn(definition, takes);
      if (!wanted || !roles.every(canBeSaid)) return undefined;
      const compare = roles.map((role, at) => compared(role, wanted[at] ?? [], holds));
      // Where a value is absent, the condition is skipped, whichever way it is asked.
      const there = roles.flatMap((role) => (isFilled(role) ? [] : [within(role.place, { required: [keyOf(role.place)] })]));
      const told = joined(compare, holds);
      return there.length === 0 ? told : joined([told, ...there], true);
    },
  });
}

/** What says how many entries there are at least. */
const LEAST: BySort<string | undefined> = {
  scalar: () => undefined,
  group: () => undefined,
  list: () => 'minItems',
  table: () => 'minProperties',
  shapes: () => undefined,
};

/** That a field is there, or is not. */
function presence({ step, place, isGiven, isStored, holders }: RolePlan, holds: boolean): JsonSchema | boolean | undefined {
  if (isGiven || isStored || place.segments.includes(ENTRY) || holders.some(({ shape }) => shape !== undefined)) return undefined;
  // What is empty when it is left out is there once something is in it.
  const least = step.filledBy && bySort(step, LEAST);
  if (step.filledBy && !least) return holds;
  const key = keyOf(place);
  const some = least && { properties: { [key]: { [least]: 1 } } };
  const there = within(place, { required: [key], ...some });
  return holds ? there : { not: there };
}

function joined(parts: readonly (JsonSchema | boolean)[], isAll: boolean): JsonSchema | boolean {
  if (parts.some((part) => part === !isAll)) return !isAll;
  const left = parts.filter((part): part is JsonSchema => typeof part !== 'boolean');
  if (left.length === 0) return isAll;
  if (left.length === 1) return left[0] as JsonSchema;
  return isAll ? { allOf: left } : { anyOf: left };
}

/** A field whose value stands in the submission as it is judged. */
function canBeSaid({ step, place, isGiven, isStored, holders }: RolePlan): boolean {
  // A field in one of several shapes stands where another shape may have one of the same name.
  if (isGiven || isStored || place.segments.includes(ENTRY) || holders.some(({ shape }) => shape !== undefined)) return false;
  if (step.tag !== undefined) return true;
  const { filledBy } = step;
  if (filledBy && !('value' in filledBy)) return false;
  return !step.sort.isMade && step.cleans.length === 0 && !step.kind.isRewritten && !step.kind.isObject;
}

function isFilled({ step }: RolePlan): boolean {
  return step.filledBy !== undefined;
}

function compared({ step, place }: RolePlan, wanted: readonly unknown[], holds: boolean): JsonSchema {
  const among = { enum: [...wanted] };
  const told = holds ? among : { not: among };
  if (step.tag !== undefined)
    return within({ segments: [...place.segments, step.tag] }, { properties: { [step.tag]: told }, required: [step.tag] });
  const key = keyOf(place);
  const isDefault = step.filledBy && 'value' in step.filledBy && wanted.includes(step.filledBy.value) === holds;
  // What is missing counts as its default.
  return within(place, { properties: { [key]: told }, ...(step.filledBy && !isDefault && { required: [key] }) });
}

function keyOf({ segments }: Pick<PlaceSpec, 'segments'>): string {
  return segments.at(-1) as string;
}

/** A schema of the object that a field stands in, as one of the whole submission. */
export function within({ segments }: Pick<PlaceSpec, 'segments'>, schema: JsonSchema): JsonSchema {
  return [...segments.slice(0, -1)]
    .reverse()
    .reduce<JsonSchema>((inner, key) => ({ properties: { [key as string]: inner }, required: [key as string] }), schema);
}
