import type { Condition, ConditionSpec } from '../conditions/condition.ts';
import type { NEEDS } from '../kinds/kind.ts';
import type { Texts } from '../text.ts';
import type { Definition } from './definition.ts';

export type Severity = 'error' | 'warning';

/** How a value rule is used in one place: always the last argument. */
export interface ValueUse {
  /** A name of its own, by which findings and the intake's `messages` call this use. */
  readonly as?: string;
  /** The occasions on which the rule is evaluated. Defaults to all. */
  readonly on?: string | readonly string[];
  /** A failed warning is reported, and does not stop acceptance. Defaults to `error`. */
  readonly severity?: Severity;
  /** The use is judged and told apart (`verdict.trials`), and decides nothing: for trying a new rule on live traffic. */
  readonly trial?: boolean;
  /** Said in this place instead of the rule's own message. */
  readonly message?: Texts;
}

/** How a rule is used in one place: always the last argument. */
export interface Use<in F> extends ValueUse {
  /** The rule is evaluated only where this condition holds. */
  readonly when?: Condition<F>;
  /** The name of the database's constraint that enforces the same: `refusalOf` turns its violation into this finding. */
  readonly constraint?: string;
}

/** A rule bound to fields, for the `rules` of an intake or group. */
export interface BoundRule<in F> {
  readonly id: string;
  readonly [NEEDS]: (fields: F) => void;
}

/** A rule about one value, for a field's own list. */
// Contravariant in the kind's name and not in the value's type: a day's value is a string, and a length of a day is a mistake.
export interface ValueRule<in K extends string> {
  readonly id: string;
  readonly [NEEDS]: (kind: K) => void;
}

export interface UseOptions extends ValueUse {
  readonly when?: ConditionSpec;
  readonly constraint?: string;
}

/** Where a role could name a field: that field as it is stored, before the change. */
export class AsStored<out P extends string = string> {
  constructor(readonly path: P) {}
}

/**
 * Lets a role read a field as it is stored, when a stored record is amended: `notEarlier({ before: asStored('arrives'), now: 'arrives' })`.
 * When something new is judged it is absent: a rule then runs only if that role is `maybe(kind)`.
 */
export const asStored = <const P extends string>(path: P): AsStored<P> => new AsStored(path);

/** Role to path; the roles of an `entries` role to paths. */
export type RolePaths = { readonly [role: string]: string | AsStored | { readonly [role: string]: string } };

/** One rule bound in one place, as the run time sees it. */
export interface UseSpec {
  readonly type: 'use';
  readonly id: string;
  readonly rule: Definition;
  readonly roles: RolePaths;
  readonly takes: { readonly [parameter: string]: unknown };
  readonly options: UseOptions;
}

/** From `when`: rules under one condition. */
export interface GuardSpec {
  readonly type: 'when';
  readonly id: string;
  readonly condition: ConditionSpec;
  readonly rules: readonly BoundSpec[];
  readonly otherwise: readonly BoundSpec[];
}

export type BoundSpec = UseSpec | GuardSpec;

export function bind(rule: Definition, roles: RolePaths, takes: object = {}, options: object = {}): UseSpec {
  return {
    type: 'use',
    id: rule.id,
    rule,
    roles,
    takes: takes as UseSpec['takes'],
    options: options as UseOptions,
  };
}
