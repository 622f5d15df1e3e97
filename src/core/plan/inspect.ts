import { WITHHELD } from '../basics/text.ts';
import type { CollectionSpec, LookUpSpec } from '../declared/look-up.ts';
import { type ByCondition, byCondition } from './by-condition.ts';
import { type BySort, bySort } from './by-sort.ts';
import { leavesOf } from './leaves.ts';
import type { ConditionPlan, FieldStep, FieldSteps, LookUpPlan, Plan, RolePlan, UsePlan, ValueCheck } from './plan.ts';
import { walkSteps } from './walk.ts';

// The plan written out as JSON, so that it can be read, compared and fingerprinted. Every step and rule stands by its id with its
// parameters, every role by the path that it reads; a function of the application's is opaque, and stands by where it is.

/** What JSON can say, as a plan is written out. */
export type Json = string | number | boolean | null | readonly Json[] | { readonly [name: string]: Json };

/** The whole plan of an intake: the same from run to run, and another whenever something else is judged. */
export function inspectPlan(plan: Plan): { readonly [name: string]: Json } {
  const { name, zone, report, mostFindings, refuseStrangers, occasions, storedIn, collections } = plan;
  return {
    name,
    ...(zone !== undefined && { zone }),
    report,
    mostFindings,
    strangers: refuseStrangers ? 'refuse' : 'drop',
    occasions: [...occasions],
    ...(storedIn && { storedIn: storedIn.name }),
    fields: fieldsOf(plan.fields),
    ...(plan.given.steps.length > 0 && { given: fieldsOf(plan.given) }),
    rules: plan.uses.map(ruleOf),
    collections: collections.map(collectionOf),
  };
}

/**
 * A short text that tells plans apart: 53 bits of their JSON, in base 36. Two plans with the same one judge alike, as far as no function
 * of the application's has changed. Values that belong to secret fields, which the JSON withholds, count.
 */
export function fingerprintOfPlan(plan: Plan): string {
  let [high, low] = [0xdeadbeef, 0x41c6ce57];
  for (const character of JSON.stringify([inspectPlan(plan), withheldIn(plan)])) {
    const code = character.codePointAt(0) as number;
    high = Math.imul(high ^ code, 2_654_435_761);
    low = Math.imul(low ^ code, 1_597_334_677);
  }
  high = Math.imul(high ^ (high >>> 16), 2_246_822_507) ^ Math.imul(low ^ (low >>> 13), 3_266_489_909);
  low = Math.imul(low ^ (low >>> 16), 2_246_822_507) ^ Math.imul(high ^ (high >>> 13), 3_266_489_909);
  return (4_294_967_296 * (2_097_151 & low) + (high >>> 0)).toString(36);
}

/** What is withheld from the JSON. */
function withheldIn(plan: Plan): Json {
  const found: Json[] = [];
  for (const part of [plan.fields, plan.given])
    walkSteps(part, ({ place, filledBy }) => {
      if (place.isSecret && filledBy && 'value' in filledBy) found.push(plain(filledBy.value));
    });
  for (const { takes, roles } of plan.uses.flatMap(({ when }) => when.flatMap(leavesOf))) if (isSecret(roles)) found.push(plain(takes));
  return found;
}

function isSecret(roles: readonly RolePlan[]): boolean {
  return roles.some(({ place }) => place.isSecret);
}

function fieldsOf({ steps }: FieldSteps): Json {
  return steps.map((step) => fieldOf(step));
}

function fieldOf(step: FieldStep): Json {
  const { place, kind, nullAllowed, isLeftOut, checks } = step;
  const { options } = kind.facts ?? {};
  return {
    path: place.path,
    label: plain(place.label),
    kind: kind.name,
    ...(kind.is.length > 1 && { is: [...kind.is] }),
    presence: presenceOf(step),
    ...(place.entryLabels && { entryLabels: place.entryLabels.map((words) => plain(words ?? null)) }),
    ...(nullAllowed && { null: true }),
    ...(isLeftOut && { leftOut: true }),
    ...(place.isSecret && { secret: true }),
    ...(options && { options: [...options] }),
    ...kind.settings,
    ...(step.blankAllowed && { blank: true }),
    ...(step.cleans.length > 0 && { cleans: step.cleans.map(({ name }) => name) }),
    ...(checks.length > 0 && { rules: checks.map(checkOf) }),
    ...bySort(step, INSIDE),
  };
}

function presenceOf({ needed, filledBy, place }: FieldStep): Json {
  if (!filledBy) return needed ? 'needed' : 'optional';
  if ('empty' in filledBy) return { value: [] };
  return 'value' in filledBy ? { value: place.isSecret ? WITHHELD : plain(filledBy.value) } : { call: opaque(`${place.path}.orElse`) };
}

const INSIDE: BySort<{ readonly [name: string]: Json }> = {
  scalar: () => ({}),
  group: ({ inner }) => ({ fields: fieldsOf(inner) }),
  list: ({ most, dropsBlankRows, item }) => ({ most, ...(dropsBlankRows && { blankRows: 'dropped' }), item: fieldOf(item) }),
  table: ({ most, item }) => ({ most, each: fieldOf(item) }),
  shapes: ({ tag, shapes }) => ({ tag, shapes: Object.fromEntries([...shapes].map(([name, fields]) => [name, fieldsOf(fields)])) }),
};

function checkOf({ rule, use, severity, isTrial, on, takes, messages, definition: { open } }: ValueCheck): Json {
  return {
    rule,
    use,
    severity,
    ...(isTrial && { trial: true }),
    ...(on && { on: [...on] }),
    takes: plain(takes, rule),
    ...(open !== undefined && { open: plain(open) }),
    messages: plain(messages),
  };
}

function ruleOf(use: UsePlan): Json {
  const {
    rule,
    severity,
    isTrial,
    on,
    takes,
    phase,
    definition,
    scope,
    roles,
    blamed,
    lookUps,
    tells,
    when,
    messages,
    constraint,
    isUnguarded,
  } = use;
  const { how, isOurs, within, open } = definition;
  return {
    rule,
    use: use.use,
    step: phase,
    severity,
    ...(isTrial && { trial: true }),
    ...(on && { on: [...on] }),
    ...(scope.length > 0 && { each: scope.map(({ place }) => place.path) }),
    roles: Object.fromEntries(roles.map((role) => [role.name, roleOf(role)])),
    takes: plain(takes, rule),
    [how]: isOurs ? rule : opaque(`${rule}.${how}`),
    ...(within !== undefined && { within }),
    ...(open !== undefined && { open: plain(open) }),
    blames: blamed.map(({ name }) => name),
    ...(lookUps.length > 0 && { looksUp: lookUpsOf(lookUps) }),
    ...(tells.length > 0 && { tells: lookUpsOf(tells) }),
    ...(when.length > 0 && { when: when.map(conditionOf) }),
    ...(constraint !== undefined && { constraint }),
    ...(isUnguarded && { unguarded: true }),
    messages: plain(messages),
  };
}

function roleOf({ place, entry, isStored, spec }: RolePlan): Json {
  if (entry) return { entries: Object.fromEntries(entry.roles.map((role) => [role.name, roleOf(role)])) };
  const about = { ...(isStored && { stored: true }), ...(spec.maybe && { maybe: true }) };
  return Object.keys(about).length === 0 ? place.path : { path: place.path, ...about };
}

function lookUpsOf(lookUps: readonly LookUpPlan[]): Json {
  return Object.fromEntries(lookUps.map(({ name, spec }) => [name, lookUpOf(spec)]));
}

function lookUpOf({ collection, form, terms, either, columns, order, most, exceptItself, onlyItself, isFresh, inner }: LookUpSpec): Json {
  return {
    collection: collection.name,
    want: form.name,
    where: plain(terms),
    ...(either && { either: plain(either) }),
    columns: [...columns],
    ...(order && { order: plain(order) }),
    ...(most !== undefined && { most }),
    ...(exceptItself && { exceptItself }),
    ...(onlyItself && { onlyItself }),
    ...(isFresh && { isFresh }),
    ...(Object.keys(inner).length > 0 && {
      inside: Object.fromEntries(Object.entries(inner).map(([name, spec]) => [name, lookUpOf(spec)])),
    }),
  };
}

const CONDITION: ByCondition<Json> = {
  not: ({ of: [negated] }) => ({ not: conditionOf(negated as ConditionPlan) }),
  all: ({ of }) => ({ all: of.map(conditionOf) }),
  any: ({ of }) => ({ any: of.map(conditionOf) }),
  occasion: ({ names }) => ({ occasion: [...names] }),
  calendar: ({ from, until }) => ({ ...(from !== undefined && { from }), ...(until !== undefined && { until }) }),
  condition: ({ definition, takes, roles, lookUps }) => ({
    condition: definition.id,
    roles: Object.fromEntries(roles.map((role) => [role.name, roleOf(role)])),
    takes: isSecret(roles) ? WITHHELD : plain(takes, definition.id),
    holds: opaque(`${definition.id}.holds`),
    ...(lookUps.length > 0 && { looksUp: lookUpsOf(lookUps) }),
  }),
};

function conditionOf(condition: ConditionPlan): Json {
  return byCondition(condition, CONDITION);
}

function collectionOf({ name, columns, key, secret, only, scope }: CollectionSpec): Json {
  return {
    name,
    columns: Object.fromEntries(
      Object.entries(columns).map(([column, { spec, maybe }]) => [column, maybe ? { maybe: spec.name } : spec.name]),
    ),
    key: [...key],
    ...(secret.size > 0 && { secret: [...secret] }),
    ...(only.terms.length > 0 && { only: plain(only) }),
    ...(scope.length > 0 && { scope: [...scope] }),
  };
}

/** A function of the application's, by where it stands: what it does nobody can tell from outside. */
function opaque(place: string): Json {
  return { function: place };
}

/** What JSON has no form for, in words. */
function plain(value: unknown, place = ''): Json {
  if (typeof value === 'function') return opaque(place);
  if (typeof value === 'bigint') return `${value}n`;
  if (value instanceof RegExp) return { expression: String(value) };
  if (value instanceof Date) return value.toISOString();
  if (Array.isArray(value)) return value.map((each, index) => plain(each, `${place}[${index}]`));
  if (typeof value !== 'object' || value === null) return (value === undefined ? null : value) as Json;
  const entries = Object.entries(value).filter(([, each]) => each !== undefined);
  return Object.fromEntries(entries.map(([name, each]) => [name, plain(each, place === '' ? name : `${place}.${name}`)]));
}
