import { fault, nearest } from '../basics/fault.ts';
import type { Verdict } from '../basics/verdict.ts';
import { refillFields } from '../changes/refill.ts';
import { settingsOf } from '../judging/judge.ts';
import type { Inputs } from '../judging/options.ts';
import { REFUSED } from '../judging/options.ts';
import type { Plan, UsePlan } from '../plan/plan.ts';
import { factsOf } from '../run/facts.ts';
import type { Spot } from '../run/failures.ts';
import { verdictOf } from '../run/finish.ts';
import { isObject } from '../run/raw.ts';
import { readRoles, spotOf, Unread } from '../run/roles.ts';
import { Run } from '../run/run.ts';
import type { Conflict } from '../stored/records.ts';

// A race is settled by the store's own constraint. What it refuses becomes the finding that the rule would have given.

export type RefusalInputs = Omit<Inputs, 'itself'> & { readonly value?: unknown };

/** The verdict of the rules that a violated constraint enforces; `undefined` when there is none. */
export function refusalOf(plan: Plan, conflict: Conflict, inputs: RefusalInputs): Verdict<unknown> | undefined {
  const use = behind(plan, conflict);
  return use && refusalBy(plan, use, inputs);
}

/** The verdict of a use that the store step itself has refused by. */
export function refusedBy(plan: Plan, name: string, inputs: RefusalInputs): Verdict<unknown> {
  const use = plan.uses.find((each) => each.use === name) ?? plan.uses.find((each) => each.rule === name);
  const names = [...new Set(plan.uses.flatMap((each) => [each.use, each.rule]))];
  if (!use) fault(`Intake "${plan.name}": what stores refused by "${name}", and there is no such rule; ${nearest(name, names)}`);
  return refusalBy(plan, use, inputs);
}

/** What a use says when it fails, without having been asked. */
function refusalBy(plan: Plan, use: UsePlan, inputs: RefusalInputs): Verdict<unknown> {
  const run = new Run(plan, { ...settingsOf(plan, inputs, REFUSED), explain: false });
  fill(run, inputs);
  const read = use.scope.length === 0 ? readRoles(run, use.roles, run.rootFrames) : {};
  const values = read instanceof Unread ? {} : read;
  // Refused is refused: what the rule only warns of, or tries, the store does not take.
  const refused = { ...use, severity: 'error', isTrial: false } as const;
  try {
    const facts = factsOf(use.facts, use.definition, values, {}, use.takes, run.at);
    const words = use.definition.words?.(use.takes, values, run.plan.catalogues) ?? {};
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
function behind({ uses, storedIn }: Plan, conflict: Conflict): UsePlan | undefined {
  const { constraint, told } = conflict;
  const isNamed = (use: UsePlan) => use.constraint !== undefined && (use.constraint === constraint || use.constraint === told);
  const named = uses.find((use) => isNamed(use) && mayStandIn(use, conflict));
  if (named) return named;
  const candidates = uses.filter((use) => (use.constraint === undefined || constraint === undefined) && isBehind(storedIn, use, conflict));
  // Two references to one collection are told apart by the fields that refer.
  return conflict.sort === 'known' && candidates.length > 1 ? candidates.find((use) => refersBy(storedIn, use, conflict)) : candidates[0];
}

/** A name stands for a rule wherever it is, but for `unique`: keys of two tables may be called alike. */
function mayStandIn({ definition, lookUps: [lookUp] }: UsePlan, { sort, collections }: Conflict): boolean {
  if (sort !== 'unique' || definition.mirrors !== 'unique' || !collections) return true;
  return collections.includes(lookUp?.spec.collection.name ?? '');
}

function isBehind(storedIn: Plan['storedIn'], use: UsePlan, conflict: Conflict): boolean {
  const { definition, lookUps } = use;
  const [lookUp] = lookUps;
  if (!lookUp || definition.mirrors !== conflict.sort) return false;
  const { collection, terms } = lookUp.spec;
  const columns = [...terms.flatMap(({ column, role }) => (role === undefined ? [] : [column])), ...collection.scope];
  switch (conflict.sort) {
    case 'unique':
      if (conflict.collections && !conflict.collections.includes(collection.name)) return false;
      return isAlike(columns, conflict.ofKey ? collection.key : conflict.columns);
    case 'known':
      if (conflict.refersTo && !conflict.refersTo.includes(collection.name)) return false;
      if (storedIn && conflict.collections && !conflict.collections.includes(storedIn.name)) return false;
      return conflict.refersTo !== undefined || refersBy(storedIn, use, conflict);
    case 'overlap':
      return conflict.collections?.includes(collection.name) ?? false;
    default:
      return false;
  }
}

/** Whose the row is (`scope`) may stand in the reference, and is no field. */
function refersBy(storedIn: Plan['storedIn'], { roles }: UsePlan, { columns }: Conflict): boolean {
  const fields = roles.map(({ place }) => String(place.segments.at(-1)));
  return isAlike(
    fields,
    columns?.filter((column) => fields.includes(column) || !storedIn?.scope.includes(column)),
  );
}

/** Whether some rule could say what a violated constraint means, if it looked again. */
export function mayExplain({ uses, storedIn }: Plan, { sort, collections, refersTo, constraint: refused }: Conflict): boolean {
  return uses.some(({ definition, lookUps: [lookUp], constraint }) => {
    if (constraint !== undefined && refused === undefined) return true;
    if (!lookUp || definition.mirrors !== sort) return false;
    const { name } = lookUp.spec.collection;
    if (sort !== 'known') return collections === undefined || collections.includes(name);
    if (storedIn && collections && !collections.includes(storedIn.name)) return false;
    return refersTo === undefined || refersTo.includes(name);
  });
}

function isAlike(some: readonly string[], others: readonly string[] | undefined): boolean {
  return others !== undefined && some.length === others.length && some.every((name) => others.includes(name));
}
