import { leavesOf } from '../plan/leaves.ts';
import type { FieldStep, Frame, RolePlan, UsePlan } from '../plan/plan.ts';
import type { Run } from '../run/run.ts';

/** Whether a left-out field is needed again: a rule reads it beside something that has changed, or that is supplied anew. */
export function isConfirmed({ plan, amending }: Run, step: FieldStep, frames: readonly Frame[]): boolean {
  const isChanged = (role: RolePlan): boolean => {
    if (readsIn(role, step)) return role.entry !== undefined && isEntryChanged(role);
    return amending?.isSame(role, frames) === false;
  };
  // Of the entries' roles, those that read something else.
  const isEntryChanged = (role: RolePlan): boolean => {
    const entry = role.entry as NonNullable<RolePlan['entry']>;
    const others = entry.roles.filter((inner) => !readsIn(inner, step));
    return others.length > 0 && amending?.isSame({ ...role, entry: { ...entry, roles: others } }, frames) === false;
  };
  const confirms = ({ roles, when }: UsePlan): boolean => {
    const asked = when.flatMap(leavesOf).flatMap((leaf) => leaf.roles);
    if (![...roles, ...asked].some((role) => readsIn(role, step))) return false;
    return roles.some((role) => role.isGiven || isChanged(role)) || asked.some((role) => !role.isGiven && isChanged(role));
  };
  return plan.uses.some(confirms);
}

/** Whether a role reads a field, or something inside it. */
function readsIn(role: RolePlan, step: FieldStep): boolean {
  return (
    role.step === step ||
    role.lists.some((list) => list === step) ||
    role.holders.some((holder) => holder.step === step) ||
    (role.entry?.roles.some((inner) => readsIn(inner, step)) ?? false)
  );
}
