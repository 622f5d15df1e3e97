import type { LookUpSpec } from '../declared/look-up.ts';
import type { Reads } from '../declared/rule.ts';
import type { Plan, RolePlan, UsePlan } from '../plan/plan.ts';

// What one finding is enough for: the same check of the same values, under however many conditions.

const soles = new WeakMap<UsePlan, boolean>();

/** Whether no other use can fail for the same cause, nor this one twice: then nobody has to look for it among what was found. */
export function isSole(plan: Plan, use: UsePlan): boolean {
  let isAlone = soles.get(use);
  if (isAlone === undefined) {
    const { definition, scope } = use;
    const likes = plan.uses.filter((other) => other.definition.id === definition.id);
    isAlone = likes.length === 1 && scope.length === 0 && definition.how !== 'failing' && definition.mirrors !== 'known';
    soles.set(use, isAlone);
  }
  return isAlone;
}

const causes = new WeakMap<UsePlan, string>();

/** The same text for uses with the same cause. Worked out once something has failed. */
export function causeOf(use: UsePlan, read: Reads): string {
  const [lookUp] = use.lookUps;
  // That nothing is stored is one cause, whether a rule `known` finds it or a look-up `one` of another rule.
  if (use.definition.mirrors === 'known' && lookUp) return unknownCause(lookUp.spec, read);
  const known = causes.get(use) ?? textOf(use);
  causes.set(use, known);
  return known;
}

function textOf({ definition, roles, takes, lookUps, use, hasName }: UsePlan): string {
  // Uses with names of their own are told apart; that something is needed, or must not be there, is not.
  const name = hasName && !definition.isPresence ? use : '';
  const asked = lookUps.map(({ spec }) => [spec.collection.name, spec.terms, spec.either]);
  return JSON.stringify([definition.id, name, roles.map(pathsOf), takes, asked], (_key, value: unknown) => plainOf(value));
}

const numbers = new WeakMap<object, number>();
let counted = 0;

/** What JSON has no form for is told apart by being the same object. */
function plainOf(value: unknown): unknown {
  if (typeof value === 'bigint') return `${value}n`;
  if (typeof value !== 'function' && (typeof value !== 'object' || value === null || isPlain(value))) return value;
  const number = numbers.get(value) ?? counted++;
  numbers.set(value, number);
  return `#${number}`;
}

function isPlain(value: object): boolean {
  const prototype: unknown = Object.getPrototypeOf(value);
  return Array.isArray(value) || prototype === Object.prototype || prototype === null;
}

function pathsOf({ name, place, entry, isStored }: RolePlan): unknown {
  return [name, entry ? entry.roles.map(pathsOf) : place.path, isStored];
}

/** That a look-up found nothing, by what it asked. */
export function unknownCause({ collection, terms }: LookUpSpec, read: Reads): string {
  // Which rows count at all says nothing of what was sent: that a record is not there is one cause, however few would count.
  const asked = terms.flatMap(({ column, is, role }) => (role === undefined ? [] : [JSON.stringify([column, is, read[role]])]));
  return `known ${collection.name} ${asked.sort().join()}`;
}
