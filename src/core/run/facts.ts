import { fault } from '../basics/fault.ts';
import { isStorable, shorten, type Texts, WITHHELD } from '../basics/text.ts';
import type { Circumstances, Finding, Scalar } from '../basics/verdict.ts';
import { notAsked } from '../declared/given-back.ts';
import type { LookUpSpec } from '../declared/look-up.ts';
import type { Definition, Facts, Found, Reads, Takes } from '../declared/rule.ts';
import { slotsOf } from '../messages/slots.ts';
import type { FactPlan, RolePlan } from '../plan/plan.ts';
import { foundFacts } from '../stored/found-facts.ts';

/** What facts need to know of a bound role. */
export type RoleName = Pick<RolePlan, 'name' | 'place' | 'depth' | 'entry'> & { readonly isStored?: boolean };

/** Which values a use may tell: those that some text of it names. A secret among them is a fault. */
export function factPlan(intake: string, rule: Definition, roles: readonly RoleName[], messages: readonly Texts[]): FactPlan {
  // What a ready-made message names is mostly parameters, which is seen without parsing it.
  const telling = messages.filter((texts) => mayTell(rule, texts));
  const slots = { has: (name: string) => telling.some((texts) => slotsIn(texts).has(name)) };
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
  const labels: { [role: string]: Texts } = {};
  for (const { name, place } of roles) labels[name] = place.label;
  const lookUps = [...Object.values(rule.looksUp), ...Object.values(rule.tells ?? {})];
  const isFixed = rule.isFixed === true && values.length + found.length === 0;
  return { values, found, isSecret: secrets.length > 0 || lookUps.some(findsSecret), isFixed, labels };
}

function mayTell({ isOurs, message, looksUp }: Definition, texts: Texts): boolean {
  if (!isOurs || texts !== message || Object.keys(looksUp).length > 0) return true;
  return (typeof texts === 'string' ? texts : Object.values(texts).join()).includes('_value');
}

const known = new WeakMap<object, ReadonlySet<string>>();

/** The slots of a text in all its languages. */
function slotsIn(texts: Texts): ReadonlySet<string> {
  if (typeof texts === 'string') return slotsOf(texts);
  let slots = known.get(texts);
  if (!slots) {
    slots = new Set(Object.values(texts).flatMap((text) => [...slotsOf(text)]));
    known.set(texts, slots);
  }
  return slots;
}

function findsSecret({ columns, collection, inner }: LookUpSpec): boolean {
  return columns.some((column) => collection.secret.has(column)) || Object.values(inner).some(findsSecret);
}

/** The facts of one finding: parameters, the rule's own, then the values that its messages name. */
export function factsOf(plan: FactPlan, rule: Definition, read: Reads, found: Found, takes: Takes, at: Circumstances): Finding['facts'] {
  const facts: { [fact: string]: Scalar | readonly Scalar[] } = {};
  for (const name of Object.keys(rule.takes)) put(facts, name, takes[name]);
  const own: unknown = rule.facts?.(read, found, takes, at) ?? {};
  const who = `Rule "${rule.id}"`;
  if (!rule.isOurs && !isPlainObject(own)) throw notAsked(who, own, 'facts by their names');
  for (const [name, value] of Object.entries(own as Facts)) {
    if (!rule.isOurs && !isFact(value)) throw notAsked(who, value, `a text, a number or a flag as the fact "${name}"`);
    put(facts, name, plan.isSecret && !isOpen(rule, name) ? WITHHELD : value);
  }
  for (const { fact, role } of plan.values) put(facts, fact, read[role]);
  for (const { fact, path } of plan.found) put(facts, fact, valueAt(found, path));
  return facts;
}

export function isPlainObject(own: unknown): boolean {
  return typeof own === 'object' && own !== null && [Object.prototype, null].includes(Object.getPrototypeOf(own));
}

/** What a finding can tell; text with a NUL or half a surrogate pair is told by no protocol. */
function isFact(value: unknown): boolean {
  if (typeof value === 'string') return isStorable(value);
  if (Array.isArray(value)) return value.every(isFact);
  return value === undefined || value === null || typeof value === 'boolean' || (typeof value === 'number' && !Number.isNaN(value));
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
