import { fault } from '../basics/fault.ts';
import { bound, type ConditionBinding } from '../conditions/coming.ts';
import { fits, type RoleSpec } from '../declared/kind.ts';
import type { ConditionSpec, Definition, RoleField } from '../declared/rule.ts';
import { AsStored, type RolePaths } from '../declared/rule.ts';
import { leavesOf } from '../plan/leaves.ts';
import type { ConditionPlan, ListStep, LookUpPlan, RolePlan } from '../plan/plan.ts';
import { type Layout, type Target, targetOf } from './fields.ts';

/** What binding needs to know of the intake. */
export interface Ground {
  readonly intake: string;
  readonly layout: Layout;
  /** Says what a plan needs of the whole intake: its collections, its definitions by id. */
  readonly note: (definition: Definition) => void;
  readonly occasions: readonly string[];
  readonly hasZone: boolean;
}

/** The roles of a rule joined to fields, and the lists on whose entries the rule is evaluated. */
export interface BoundRoles {
  readonly roles: readonly RolePlan[];
  readonly scope: readonly ListStep[];
}

/** Joins roles to fields, relative to a group's path (`prefix`); throws for what does not fit. */
export function bindRoles(ground: Ground, { id, reads, alike }: Definition, paths: RolePaths, prefix: string): BoundRoles {
  for (const role of Object.keys(paths)) {
    if (!(role in reads)) fault(`Intake "${ground.intake}": rule "${id}" has no role "${role}".`);
  }
  const plain: { name: string; spec: RoleSpec; target: Target; isStored: boolean }[] = [];
  let scope: readonly ListStep[] = [];
  for (const [name, spec] of Object.entries(reads)) {
    if (spec.entry) continue;
    const { path, isStored } = pathOf(paths[name]);
    const who = `role "${name}" of rule "${id}"`;
    if (path === undefined) fault(`Intake "${ground.intake}": ${who} is bound to no field.`);
    const target = targetOf(ground.layout, ground.intake, prefix + path, who);
    checkKind(ground, who, spec, target);
    if (target.lists.length > scope.length) scope = target.lists;
    if (isStored && target.isGiven) fault(`Intake "${ground.intake}": ${who} reads "${path}" as stored, and what is given is not stored.`);
    plain.push({ name, spec, target, isStored });
  }
  for (const { name, target } of plain) {
    if (target.lists.some((list, depth) => scope[depth] !== list)) {
      fault(
        `Intake "${ground.intake}": rule "${id}" reads entries of two different lists at once (role "${name}" is "${target.place.path}"); use entries({...}) for one of them.`,
      );
    }
  }
  const roles = Object.entries(reads).map(([name, spec]): RolePlan => {
    if (spec.entry) return bindEntries(ground, id, name, spec, paths[name], prefix, scope);
    const { target, isStored } = plain.find((role) => role.name === name) as (typeof plain)[number];
    return roleAt(name, spec, target, isStored);
  });
  if (alike) checkAlike(ground, id, roles);
  return { roles, scope };
}

function pathOf(bound: RolePaths[string] | undefined): { readonly path: string | undefined; readonly isStored: boolean } {
  if (bound instanceof AsStored) return { path: bound.path, isStored: true };
  return { path: typeof bound === 'string' ? bound : undefined, isStored: false };
}

function roleAt(name: string, spec: RoleSpec, { place, lists, holders, outerHolders, isGiven, step }: Target, isStored = false): RolePlan {
  return { name, spec, place, depth: lists.length, step, lists, holders, outerHolders, isGiven, isStored };
}

/** Refuses to compare a day with a number. */
function checkAlike(ground: Ground, id: string, roles: readonly RolePlan[]): void {
  const [first, ...others] = roles.flatMap((role) => role.entry?.roles ?? [role]) as [RolePlan, ...RolePlan[]];
  for (const other of others) {
    if (first.step.kind.is.some((kind) => other.step.kind.is.includes(kind))) continue;
    const [one, two] = [first, other].map(({ place, step }) => `"${place.path}", which is ${step.kind.name}`);
    fault(`Intake "${ground.intake}": ${id} compares ${one}, with ${two}.`);
  }
}

function bindEntries(
  ground: Ground,
  id: string,
  name: string,
  spec: RoleSpec,
  paths: RolePaths[string] | undefined,
  prefix: string,
  scope: readonly ListStep[],
): RolePlan {
  const who = (inner: string) => `role "${name}.${inner}" of rule "${id}"`;
  const say = (sentence: string) => fault(`Intake "${ground.intake}": ${sentence}`);
  if (typeof paths !== 'object' || paths instanceof AsStored)
    say(
      `role "${name}" of rule "${id}" reads entries; bind it with an object of paths such as { ${Object.keys(spec.entry ?? {})[0]}: 'crew.*.born' }.`,
    );
  let lists: readonly ListStep[] | undefined;
  const roles = Object.entries(spec.entry ?? {}).map(([inner, role]): RolePlan => {
    const path = (paths as { [role: string]: string })[inner] ?? say(`${who(inner)} is bound to no field.`);
    const target = targetOf(ground.layout, ground.intake, prefix + path, who(inner));
    checkKind(ground, who(inner), role, target);
    if (target.lists.length === 0) say(`${who(inner)} is bound to "${path}", which is not inside a list.`);
    if (scope.some((list, depth) => depth < target.lists.length && target.lists[depth] !== list))
      say(`${who(inner)} is bound to "${path}", and the rule reads each entry of "${scope[0]?.place.path}", which is another list.`);
    if (lists && (lists.length !== target.lists.length || lists.some((list, depth) => target.lists[depth] !== list)))
      say(`the roles of "${name}" of rule "${id}" are bound to different lists.`);
    lists = target.lists;
    return roleAt(inner, role, target);
  });
  // Bound to a list whose entries the rule is evaluated on: all entries of the list in which the one at hand stands.
  const all = lists as readonly ListStep[];
  const walked = all.slice(Math.min(scope.length, all.length - 1));
  const outer = walked[0] as ListStep;
  const home = targetOf(ground.layout, ground.intake, outer.place.path, `role "${name}" of rule "${id}"`);
  return { ...roleAt(name, spec, home), entry: { lists: walked, roles } };
}

function checkKind(ground: Ground, who: string, role: RoleSpec, target: Target): void {
  const { kind } = target.step;
  if (!fits(role, kind)) fault(`Intake "${ground.intake}": ${who} reads ${role.spec.name}, and "${target.place.path}" is ${kind.name}.`);
}

/** The look-ups of a definition, with the bound roles each is asked with. */
export function bindLookUps(lookUps: Definition['looksUp'], roles: readonly RolePlan[]): LookUpPlan[] {
  return Object.entries(lookUps).map(([name, spec]) => ({
    name,
    spec,
    blames: spec.terms.flatMap((term) => roles.filter((role) => role.name === term.role && !term.isBlameless)),
  }));
}

/** Joins a condition to fields. Its lists must be those of the rule that it guards, or around them. */
export function bindCondition(ground: Ground, spec: ConditionSpec, prefix: string, scope: readonly ListStep[]): ConditionPlan {
  const { intake, occasions, hasZone } = ground;
  const binding: ConditionBinding = {
    inner: (of) => bound(of, binding),
    occasions: (names) => checkOccasions({ name: intake, occasions }, names),
    zone(who) {
      if (!hasZone) fault(`Intake "${intake}": ${who} needs to know what day it is; add a time zone, such as zone: 'Europe/Oslo'.`);
    },
    reads(definition, paths, given) {
      ground.note(definition);
      const { roles, scope: own } = bindRoles(ground, definition, paths, prefix);
      const say = (sentence: string) => fault(`Intake "${intake}": condition "${definition.id}" ${sentence}`);
      if (own.some((list, depth) => scope[depth] !== list))
        say(`reads each entry of "${own.at(-1)?.place.path}", and guards a rule that does not.`);
      const takes = definition.forRoles?.(given, roles.map(fieldOf), say) ?? given;
      return { definition, takes, roles, lookUps: bindLookUps(definition.looksUp, roles) };
    },
  };
  return bound(spec, binding);
}

/** What a rule may know of the field that a role is bound to. */
export function fieldOf({ place, step }: RolePlan): RoleField {
  return { path: place.path, kind: step.kind, shapes: step.tag === undefined ? undefined : step.inside.flatMap(({ shape = [] }) => shape) };
}

/** Refuses an occasion that the intake does not declare. */
export function checkOccasions(intake: { readonly name: string; readonly occasions: readonly string[] }, names: readonly string[]): void {
  for (const name of names) {
    if (!intake.occasions.includes(name))
      fault(`Intake "${intake.name}" knows no occasion "${name}"; it declares ${intake.occasions.join(', ')}.`);
  }
}

/** Whether a condition has to wait for records. */
export function asksRecords(condition: ConditionPlan): boolean {
  return leavesOf(condition).some(({ lookUps }) => lookUps.length > 0);
}

/** Whether a condition asks for the occasion. */
export function namesOccasion(condition: ConditionPlan): boolean {
  return 'names' in condition || condition.of.some(namesOccasion);
}
