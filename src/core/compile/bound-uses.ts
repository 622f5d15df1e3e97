import type { UseSpec } from '../declared/rule.ts';
import type { ConditionPlan } from '../plan/plan.ts';
import type { RoleName } from '../run/facts.ts';

/** The uses of an intake, told apart by all that they are: rule, fields, parameters, options and conditions. */
export class BoundUses {
  /** Notes the first use of a rule on the same places, once a second one comes. */
  readonly #first = new Map<string, () => boolean>();
  readonly #bound = new Set<string>();
  readonly #identities = new Map<unknown, number>();

  /** The same rule bound twice alike counts once. */
  isRepeated(use: UseSpec, roles: readonly RoleName[], when: readonly ConditionPlan[]): boolean {
    const { when: _when, ...options } = use.options;
    const places = roles.map(({ place }) => `${use.rule.id}@${place.path}`).join();
    // Most rules stand alone on their fields, and need no closer look.
    const earlier = this.#first.get(places);
    this.#first.set(places, earlier ?? (() => this.#isBound(use, roles, options, when)));
    if (!earlier) return false;
    earlier();
    return this.#isBound(use, roles, options, when);
  }

  /** Notes a use by all that tells it from others; says whether it was noted before. */
  #isBound(use: UseSpec, roles: readonly RoleName[], options: object, when: readonly ConditionPlan[]): boolean {
    const key = this.#keyOf([use.rule, roles, use.takes, options, when]);
    if (this.#bound.has(key)) return true;
    this.#bound.add(key);
    return false;
  }

  #keyOf(parts: readonly unknown[]): string {
    return JSON.stringify(parts, (_key, value: unknown) => this.#told(value));
  }

  /** Roles are told apart by their fields; definitions, functions, expressions and other instances by being the same object. */
  #told(value: unknown): unknown {
    if (typeof value === 'function' || (isObject(value) && ('family' in value || !isPlain(value)))) {
      if (!this.#identities.has(value)) this.#identities.set(value, this.#identities.size);
      return `#${this.#identities.get(value)}`;
    }
    if (isObject(value) && 'depth' in value) {
      const role = value as unknown as RoleName;
      return [role.name, role.entry ? role.entry.roles : role.place.path, role.isStored ?? false];
    }
    return value;
  }
}

function isPlain(value: object): boolean {
  const prototype: unknown = Object.getPrototypeOf(value);
  return Array.isArray(value) || prototype === Object.prototype || prototype === null;
}

function isObject(value: unknown): value is object {
  return typeof value === 'object' && value !== null;
}
