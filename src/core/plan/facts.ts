import { fault } from '../fault.ts';
import { slotsOf } from '../messages/slots.ts';
import type { Definition, Found, Reads, Takes } from '../rules/definition.ts';
import { foundFacts } from '../stored/found-facts.ts';
import type { LookUpSpec } from '../stored/look-up.ts';
import { shorten, type Texts, WITHHELD } from '../text.ts';
import type { Circumstances, Finding, Scalar } from '../verdict.ts';
import type { FactPlan, RolePlan } from './plan.ts';

/** What facts need to know of a bound role. */
export type RoleName = Pick<RolePlan, 'name' | 'place' | 'depth' | 'entry'> & { readonly isStored?: boolean };

/** Which values a use may tell: those that some text of it names. A secret among them is a fault. */
export function factPlan(intake: string, rule: Definition, roles: readonly RoleName[], messages: readonly Texts[]): FactPlan {
  const slots = new Set(
    messages.flatMap((texts) => (typeof texts === 'string' ? [texts] : Object.values(texts))).flatMap((text) => [...slotsOf(text)]),
  );
  const secrets = roles.filter((role) => (role.entry?.roles ?? [role]).some(({ place }) => place.holdsSecret));
  const values = roles.map(({ name }) => ({ fact: `${name}_value`, role: name })).filter(({ fact }) => slots.has(fact));
  for (const { fact, role } of values) {
    const secret = secrets.find(({ name }) => name === role);
    if (secret)
      fault(
        `Intake "${intake}": the message of ${rule.id} tells {${fact}}, and "${secret.place.path}" ${secret.place.isSecret ? 'is' : 'holds something'} secret.`,
      );
  }
  const found = foundFacts(rule.looksUp).filter(({ fact }) => slots.has(fact));
  for (const { fact, column } of found) {
    if (column?.collection.secret.has(column.name))
      fault(`Intake "${intake}": the message of ${rule.id} tells {${fact}}, and that column of ${column.collection.name} is secret.`);
  }
  const labels = Object.fromEntries(roles.map(({ name, place }) => [name, place.label]));
  const lookUps = [...Object.values(rule.looksUp), ...Object.values(rule.tells ?? {})];
  return { values, found, isSecret: secrets.length > 0 || lookUps.some(findsSecret), labels };
}

function findsSecret({ columns, collection, inner }: LookUpSpec): boolean {
  return columns.some((column) => collection.secret.has(column)) || Object.values(inner).some(findsSecret);
}

/** The facts of one finding: parameters, the rule's own, then the values that its messages name. */
export function factsOf(plan: FactPlan, rule: Definition, read: Reads, found: Found, takes: Takes, at: Circumstances): Finding['facts'] {
  const facts: { [fact: string]: Scalar | readonly Scalar[] } = {};
  for (const name of Object.keys(rule.takes)) put(facts, name, takes[name]);
  const own = rule.facts?.(read as never, found as never, takes as never, at) ?? {};
  for (const [name, value] of Object.entries(own)) put(facts, name, plan.isSecret && !isOpen(rule, name) ? WITHHELD : value);
  for (const { fact, role } of plan.values) put(facts, fact, read[role]);
  for (const { fact, path } of plan.found) put(facts, fact, valueAt(found, path));
  return facts;
}

/** A look-up that found nothing ends the path. */
function valueAt(found: unknown, path: readonly string[]): unknown {
  return path.reduce((value, name) => (value as { readonly [name: string]: unknown } | undefined)?.[name], found);
}

/** Values listed in one fact. */
const MOST_LISTED = 50;

function put(facts: { [fact: string]: Scalar | readonly Scalar[] }, name: string, value: unknown): void {
  if (typeof value === 'string') facts[name] = shorten(value);
  else if (typeof value === 'number' || typeof value === 'boolean' || value === null) facts[name] = value;
  else if (Array.isArray(value))
    facts[name] = value.slice(0, MOST_LISTED).map((entry) => (typeof entry === 'string' ? shorten(entry) : entry));
}

function isOpen({ open }: Definition, fact: string): boolean {
  return open === true || (open?.includes(fact) ?? false);
}
