import type { TracedCondition, TraceLine } from '../basics/verdict.ts';
import type { ConditionPlan } from '../plan/plan.ts';
import type { Case, Guard } from '../run/case.ts';
import { shownPointer } from '../run/places.ts';

/** What a trace tells of a case: the entry that it is about, and what its conditions came to. */
export function tracedOf({ use, indexes, guards }: Case): Pick<TraceLine, 'entry' | 'conditions'> {
  const list = use.scope.at(-1);
  const conditions = guards ? use.when.flatMap((condition) => conditionOf(condition, guards) ?? []) : [];
  return {
    ...(list && indexes.length > 0 && { entry: shownPointer({ place: list.item.place, indexes }) }),
    ...(conditions.length > 0 && { conditions }),
  };
}

type Guards = ReadonlyMap<ConditionPlan, Guard>;

function conditionOf(condition: ConditionPlan, guards: Guards): TracedCondition | undefined {
  const guard = guards.get(condition);
  if (guard === undefined) return undefined;
  const parts = condition.of.flatMap((member) => conditionOf(member, guards) ?? []);
  return {
    sort: condition.sort.name,
    ...('definition' in condition && { id: condition.definition.id }),
    ...outcomeOf(guard),
    ...(parts.length > 0 && { parts }),
  };
}

function outcomeOf(guard: Guard): Pick<TracedCondition, 'outcome' | 'why' | 'because'> {
  if (guard === 'holds') return { outcome: 'held' };
  if (guard === 'fails') return { outcome: 'failed' };
  if ('why' in guard) return { outcome: 'unsettled', why: guard.why };
  return { outcome: 'skipped', because: guard.skipped.map(shownPointer) };
}
