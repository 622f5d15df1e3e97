import { fault, nearest } from './basics/fault.ts';
import type { Verdict } from './basics/verdict.ts';
import { type Amended, amendLocally as amendPlan } from './changes/amend.ts';
import type { AcceptedOf, Fields } from './declared/field.ts';
import { type Intake, planOf, type StoredOf, type WithGiven } from './intake.ts';
import type { Options } from './judging/options.ts';
import { type Graph, type GraphRule, graphOf as graphOfPlan } from './plan/graph.ts';
import { fingerprintOfPlan, inspectPlan, type Json } from './plan/inspect.ts';
import { refusalOf as refusalOfPlan } from './races/refusal.ts';
import type { AnyPath } from './rules/roles.ts';

// What is done with an intake besides judging: functions, so that nobody loads what is not used.

/**
 * Judges a change without waiting, as `judgeLocally` does: for the page on which a stored record is changed. Rules that need records
 * are left open.
 */
export const amendLocally = <F extends Fields, Key>(
  intake: Intake<F, Key>,
  stored: StoredOf<F>,
  change: unknown,
  options: Options & Partial<WithGiven<F>> & { readonly whole?: boolean; readonly complete?: boolean } = {},
): Amended<AcceptedOf<F>, AnyPath<F>> => amendPlan(planOf(intake), stored, change, options) as Amended<AcceptedOf<F>, AnyPath<F>>;

/** What is known of a submission that the store has refused. */
export type RefusalOptions<F extends Fields> = Pick<Options, 'records' | 'now' | 'zone' | 'locale'> & {
  /** The accepted value, for messages that tell some of it. */
  readonly value?: AcceptedOf<F>;
};

/**
 * The rejected verdict for what the store's own constraint has refused (the driver's error of an insert or update), as the rule behind it
 * would have given; `undefined` for any other error.
 */
export const refusalOf = <F extends Fields, Key>(
  intake: Intake<F, Key>,
  error: unknown,
  options: RefusalOptions<F>,
): Verdict<AcceptedOf<F>> | undefined => {
  const conflict = options.records?.conflictOf?.(error);
  return conflict && (refusalOfPlan(planOf(intake), conflict, options) as Verdict<AcceptedOf<F>> | undefined);
};

/** The rules, fields and collections of an intake as data; `asMermaid` draws it. */
export const graphOf = (intake: { readonly name: string }): Graph => graphOfPlan(planOf(intake));

/**
 * The whole plan of an intake as JSON: kinds, rules, cleaning steps by id with their parameters, roles by path, conditions, look-ups. It is
 * the same from run to run; a function of the application's stands by its name and place.
 */
export const inspect = (intake: { readonly name: string }): { readonly [name: string]: Json } => inspectPlan(planOf(intake));

/** A short text that changes when the plan of an intake does. What functions of the application's do is no part of it. */
export const fingerprintOf = (intake: { readonly name: string }): string => fingerprintOfPlan(planOf(intake));

/** The rules that read a field, or something inside it: what has to be judged again when it changes. */
export const readersOf = <F extends Fields, Key>(intake: Intake<F, Key>, field: AnyPath<F>): readonly GraphRule[] => {
  const { fields, rules } = graphOf(intake);
  const paths = fields.map(({ path }) => path);
  const wanted: string = field;
  if (!paths.includes(wanted)) fault(`Intake "${intake.name}": "${wanted}" is no field; ${nearest(wanted, paths)}`);
  return rules.filter(({ reads }) => reads.some((path) => path === wanted || path.startsWith(`${wanted}.`)));
};
