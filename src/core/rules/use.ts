import { fault } from '../basics/fault.ts';
import { kindOf } from '../basics/known.ts';
import type { Definition, RolePaths, UseOptions, UseSpec, ValueUse } from '../declared/rule.ts';
import { AsStored } from '../declared/rule.ts';
import type { Condition } from './condition.ts';

/** How a rule is used in one place: always the last argument. */
export interface Use<in F> extends ValueUse {
  /** The rule is evaluated only where this condition holds. */
  readonly when?: Condition<F>;
  /** The name of the database's constraint that enforces the same: `refusalOf` turns its violation into this finding. */
  readonly constraint?: string;
  /**
   * Of a rule that counts, adds up or looks for rows: what others store between its answer and the storing may break it, and that is taken
   * into account. Without it `judgeAndStore` and `amendAndStore` refuse to store outside `serially`.
   */
  readonly unguarded?: true;
}

/**
 * Lets a role read a field as it is stored, when a stored record is amended: `notEarlier({ before: asStored('arrives'), now: 'arrives' })`.
 * When something new is judged it is absent: a rule then runs only if that role is `maybe(kind)`.
 */
export const asStored = <const P extends string>(path: P): AsStored<P> => new AsStored(path);

export function bind(rule: Definition, roles: RolePaths, takes: object = {}, options: object = {}): UseSpec {
  if (typeof options !== 'object' || options === null || Array.isArray(options))
    fault(`${rule.id}: how it is used is an object such as { as: … }, and not ${kindOf(options)}.`);
  return {
    type: 'use',
    id: rule.id,
    rule,
    roles,
    takes: takes as UseSpec['takes'],
    options: options as UseOptions,
  };
}
