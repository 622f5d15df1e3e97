import { leavesOf } from '../plan/leaves.ts';
import type { FieldStep, FieldSteps, Plan } from '../plan/plan.ts';
import { walkStep, walkSteps } from '../plan/walk.ts';

/**
 * The lists whose entries can be put together while they are read, without a frame for each: no rule looks into them, and what
 * they hold is read alike.
 */
export function directLists(plan: Plan): ReadonlySet<FieldStep> {
  const looked = lookedInto(plan);
  const direct = new Set<FieldStep>();
  walkSteps(plan.fields, (step) => {
    if (step.op !== 'list' || step.isNamed || !countsOnly(step) || looked.has(step)) return;
    let isDirect = true;
    walkStep(step.item, (inner) => {
      const isList = inner.op === 'list' && (inner.isNamed || !countsOnly(inner));
      const isOpenGroup = inner.op === 'group' && (!inner.needed || inner.nullAllowed);
      const isCopied = inner.op === 'scalar' && inner.kind.copy !== undefined;
      if (isList || isOpenGroup || isCopied || inner.op === 'shapes' || looked.has(inner)) isDirect = false;
    });
    if (isDirect) direct.add(step);
  });
  return direct;
}

function countsOnly({ checks }: FieldStep): boolean {
  return checks.every(({ definition, isTrial }) => definition.countsOnly && !isTrial);
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
