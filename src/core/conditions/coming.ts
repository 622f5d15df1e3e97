import type { ConditionSpec, Definition, RolePaths, Takes } from '../declared/rule.ts';
import type { ConditionPlan, ConditionSort, ReadsCondition } from '../plan/plan.ts';
import { type Case, type FindFor, type Guard, WAITING } from '../run/case.ts';
import type { Run } from '../run/run.ts';

/** A sort of condition as the loop asks it. Conditions are three-valued, and one that is unsettled stays so under `not`. */
export interface Coming<C = ConditionPlan> extends ConditionSort {
  /** @param guards what the conditions that it is made of came to */
  come(condition: C, guards: readonly Guard[], run: Run, item: Case, find: FindFor): Guard;
}

/** What conditions are joined to the fields of an intake with. */
export interface ConditionBinding {
  inner(spec: ConditionSpec): ConditionPlan;
  /** Refuses occasions that the intake does not declare. */
  occasions(names: readonly string[]): void;
  /** Refuses an intake that does not say in which zone its days are. */
  zone(who: string): void;
  reads(definition: Definition, roles: RolePaths, takes: Takes): Pick<ReadsCondition, 'definition' | 'takes' | 'roles' | 'lookUps'>;
}

/** A condition, by what it becomes once its fields are known. */
export function declared(bind: (binding: ConditionBinding) => ConditionPlan): ConditionSpec {
  return { condition: true, bind };
}

/** A condition joined to the fields of an intake. */
export function bound(spec: ConditionSpec, binding: ConditionBinding): ConditionPlan {
  return spec.bind(binding as never) as ConditionPlan;
}

/** Of several conditions the order plays no part: one that settles all does so, wherever it stands. */
export function together(guards: readonly Guard[], settling: 'holds' | 'fails'): Guard {
  if (guards.includes(settling)) return settling;
  const open = guards.filter((guard) => typeof guard === 'object');
  // What has to be asked may still settle it.
  if (open.includes(WAITING)) return WAITING;
  return open.find((guard) => 'why' in guard) ?? open[0] ?? (settling === 'fails' ? 'holds' : 'fails');
}
