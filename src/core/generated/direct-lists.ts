import { leavesOf } from '../plan/leaves.ts';
import type { FieldStep, FieldSteps, Plan } from '../plan/plan.ts';
import { walkStep } from '../plan/walk.ts';
import { codeOf } from './steps.ts';

/**
 * The lists whose entries can be put together while they are read, without a frame for each: no rule looks into them, and what
 * they hold is read alike.
 */
export function directLists(plan: Plan): ReadonlySet<FieldStep> {
  const looked = lookedInto(plan);
  const direct = new Set<FieldStep>();
  const isLoose = (step: FieldStep): boolean =>
    codeOf(step).isLoose(step) && !looked.has(step) && step.inside.every(({ steps }) => steps.every(isLoose));
  // Where entries have frames, the loop puts their values together, and looks for frames in them all the way down.
  const mark = (steps: readonly FieldStep[], isFramed: boolean): void => {
    for (const step of steps) {
      const isDirect = !isFramed && codeOf(step).isDirect?.(step) === true && isLoose(step);
      if (isDirect) direct.add(step);
      for (const { steps: inner, isEntry } of step.inside) mark(inner, isFramed || (isEntry && !isDirect));
    }
  };
  mark(plan.fields.steps, false);
  return direct;
}

/** The fields that some rule reads, or walks through. */
function lookedInto({ fields, between, record, outside }: Plan): ReadonlySet<FieldStep> {
  const looked = new Set<FieldStep>();
  const look = (step: FieldStep): void => void looked.add(step);
  const lookAll = (all: Pick<FieldSteps, 'steps'>): void => {
    for (const step of all.steps) walkStep(step, look);
  };
  if (record.length > 0 || outside.length > 0) lookAll(fields);
  for (const { scope, roles, when } of between) {
    scope.forEach(look);
    for (const role of [...roles, ...when.flatMap(leavesOf).flatMap((leaf) => leaf.roles)]) {
      lookAll({ steps: [role.step] });
      role.lists.forEach(look);
      role.entry?.lists.forEach(look);
      for (const { step } of role.holders) look(step);
    }
  }
  return looked;
}
