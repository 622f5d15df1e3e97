import type { Conflict } from '../stored/records.ts';
import type { Verdict } from '../verdict.ts';
import { factsOf } from './facts.ts';
import { verdictOf } from './finish.ts';
import { type Inputs, settingsOf } from './judge.ts';
import type { Plan, RolePlan, UsePlan } from './plan.ts';
import { isObject, refillFields } from './refill.ts';
import { readRoles, spotOf, Unread } from './roles.ts';
import { Run, type Spot } from './run.ts';

// A race is settled by the store's own constraint. What it refuses becomes the finding that the rule would have given.

export type RefusalInputs = Omit<Inputs, 'itself'> & { readonly value?: unknown };

/** The verdict of the rules that a violated constraint enforces; `undefined` when there is none. */
export function refusalOf(plan: Plan, conflict: Conflict, inputs: RefusalInputs): Verdict<unknown> | undefined {
  const use = behind(plan, conflict);
  if (!use) return undefined;
  const run = new Run(plan, { ...settingsOf(plan, inputs), explain: false });
  fill(run, inputs);
  const read = use.scope.length === 0 ? readRoles(run, use.roles, run.rootFrames) : {};
  const values = read instanceof Unread ? {} : read;
  // Refused is refused: what the rule only warns of, or tries, the store does not take.
  const refused = { ...use, severity: 'error', isTrial: false } as const;
  try {
    const facts = factsOf(use.facts, use.definition, values, {}, use.takes, run.at);
    const words = use.definition.words?.(use.takes as never, values as never) ?? {};
    run.fail(refused, spotsOf(use), facts, words, use.facts.labels);
  } catch (cause) {
    // The rule's own code cannot say what it would: the refusal stands all the same.
    run.fail(refused, spotsOf(use), {}, {}, use.facts.labels);
    run.leaveOpen(refused, spotsOf(use), 'fault', cause);
  }
  return verdictOf(run, inputs.locale);
}

/** Puts the accepted value where messages find it. */
function fill(run: Run, { value, given }: RefusalInputs): void {
  const { plan, frame } = run;
  if (isObject(given)) refillFields(plan.given, given, frame, true);
  if (isObject(value)) refillFields(plan.fields, value, frame, true);
}

/** Of entries the store does not say which one it was: then the list is blamed. */
function spotsOf({ scope, blamed }: UsePlan): Spot[] {
  const [list] = scope;
  return list ? [{ place: list.place, indexes: [] }] : blamed.map((role) => spotOf(role, []));
}

/** The use of the rule that the constraint enforces: by the constraint's name, else by its columns. */
function behind(plan: Plan, conflict: Conflict): UsePlan | undefined {
  const { uses } = plan;
  const { constraint, told } = conflict;
  const named = uses.find((use) => use.constraint !== undefined && (use.constraint === constraint || use.constraint === told));
  return named ?? uses.find((use) => (use.constraint === undefined || constraint === undefined) && isBehind(plan, use, conflict));
}

function isBehind(plan: Plan, { definition, roles, lookUps }: UsePlan, conflict: Conflict): boolean {
  const [lookUp] = lookUps;
  if (!lookUp || definition.mirrors !== conflict.sort) return false;
  const { collection, terms } = lookUp.spec;
  const columns = terms.flatMap(({ column, role }) => (role === undefined ? [] : [column]));
  switch (conflict.sort) {
    case 'unique':
      if (conflict.collections && !conflict.collections.includes(collection.name)) return false;
      return conflict.ofKey ? isAlike(columns, [collection.key]) : isAlike(columns, conflict.columns);
    case 'known':
      return refers(plan, collection.name, roles, conflict);
    case 'overlap':
      return conflict.collections?.includes(collection.name) ?? false;
    default:
      return false;
  }
}

/** Whether a missing reference is that of a rule `known`: the collection referred to, and the columns that refer. */
function refers({ storedIn }: Plan, collection: string, roles: readonly RolePlan[], conflict: Conflict): boolean {
  const { collections, columns, refersTo } = conflict;
  if (refersTo && !refersTo.includes(collection)) return false;
  if (storedIn && collections && !collections.includes(storedIn.name)) return false;
  if (!columns) return refersTo !== undefined;
  const fields = roles.map(({ place }) => String(place.segments.at(-1)));
  return isAlike(fields, columns) || refersTo !== undefined;
}

function isAlike(some: readonly string[], others: readonly string[] | undefined): boolean {
  return others !== undefined && some.length === others.length && some.every((name) => others.includes(name));
}
