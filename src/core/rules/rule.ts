import { fault, nearest } from '../basics/fault.ts';
import { kindOf, optionsOf } from '../basics/known.ts';
import type { Texts } from '../basics/text.ts';
import type { Circumstances } from '../basics/verdict.ts';
import type { Fields, ValueOf } from '../declared/field.ts';
import type { Roles } from '../declared/kind.ts';
import { type Kind, type RoleSpec, UNREADABLE } from '../declared/kind.ts';
import type { LookUpSpec } from '../declared/look-up.ts';
import type { BoundRule, Definition, RolePaths, ValueRule, ValueUse } from '../declared/rule.ts';
import type { Columns, FoundOf, LookUp, LookUps } from '../stored/look-up.ts';
import { checkDefinition, checkRoles } from './definition.ts';
import type { Binding, ReadOf } from './roles.ts';
import { bind, type Use } from './use.ts';

/** The values of parameters, by their kinds. */
export type ParamsOf<P> = { readonly [N in keyof P]: P[N] extends Kind<string, infer T> ? T : never } & {};

/** One example: a value for each role, what each look-up found, and each parameter. */
export type Sample<R, L, T = {}> = {
  readonly [P in keyof R | keyof L | keyof T]: P extends keyof R
    ? ValueOf<R[P]>
    : P extends keyof L
      ? L[P] extends LookUp<never, infer G>
        ? G
        : never
      : P extends keyof T
        ? ValueOf<T[P]>
        : never;
};

interface Body<R extends Roles, L extends LookUps<R>, P extends Columns> {
  /** Parameters by kinds, given where the rule is bound. */
  readonly takes?: P;
  /** The records the rule needs. */
  readonly looksUp?: L;
  /** Further facts for the message and the finding, worked out only on failure. */
  readonly facts?: (
    read: ReadOf<R>,
    found: FoundOf<L>,
    takes: ParamsOf<P>,
    at: Circumstances,
  ) => { readonly [fact: string]: string | number | boolean };
  /** Facts that tell nothing of a secret that the rule reads or finds; the others are withheld beside one. `true` for all. */
  readonly open?: true | readonly string[];
  /**
   * An ICU message: `{role}` is the label of the field bound to it, `{role_value}` its value, `{parameter}`,
   * `{fact}`, `{lookup_column}`.
   */
  readonly message: Texts;
  /** The roles at fault; a finding points to all of them, the first first. */
  readonly blames: (keyof R & string) | readonly (keyof R & string)[];
  /** Examples that must hold and must fail. */
  // NoInfer keeps samples from taking part in inferring the look-ups.
  readonly samples?: {
    readonly holds: readonly Sample<NoInfer<R>, NoInfer<L>, NoInfer<P>>[];
    readonly fails: readonly Sample<NoInfer<R>, NoInfer<L>, NoInfer<P>>[];
  };
}
type Predicate<R, L, P, T> = (read: ReadOf<R>, found: FoundOf<L>, takes: ParamsOf<P>, at: Circumstances) => T;

/** A rule's body has exactly one of `holds`, `failing` and `asks`. */
export type RuleBody<R extends Roles, L extends LookUps<R>, P extends Columns> = Body<R, L, P> &
  (
    | { readonly holds: Predicate<R, L, P, boolean>; readonly failing?: never; readonly asks?: never }
    /** The indexes of the entries that fail; each gives a finding of its own. */
    | { readonly failing: Predicate<R, L, P, readonly number[]>; readonly holds?: never; readonly asks?: never }
    /** Asks something outside; `within` is its time limit in milliseconds. */
    | { readonly asks: Predicate<R, L, P, Promise<boolean>>; readonly within: number; readonly holds?: never; readonly failing?: never }
  );

type UseArguments<P, U> = keyof P extends never ? [use?: U] : [takes: ParamsOf<P>, use?: U];

/** A reusable check. Call it with the paths of the fields its roles read, then its parameters, then how it is used. */
export interface Rule<in out R extends Roles, in out P extends Columns = {}> {
  readonly id: string;
  readonly reads: R;
  <F extends Fields>(roles: Binding<R, F>, ...rest: UseArguments<P, Use<F>>): BoundRule<F>;
}
/** A rule whose only role is `field`: it stands in a field's own list. */
export interface RuleOfValue<in out R extends Roles, in out P extends Columns = {}> {
  readonly id: string;
  readonly reads: R;
  (...rest: UseArguments<P, ValueUse>): ValueRule<R[keyof R]['kind']>;
}
export type Made<R extends Roles, P extends Columns> = [keyof R] extends ['field'] ? RuleOfValue<R, P> : Rule<R, P>;

/**
 * Defines a reusable check.
 *
 * @param id namespaced, such as `marina/fits-berth`; findings and messages are known by it
 * @param reads its roles, by kinds
 * @param body what must hold, what it needs, what is said and who is blamed when it does not
 * @throws Fault when the definition contradicts itself
 */
export const rule = <R extends Roles, L extends LookUps<R> = {}, P extends Columns = {}>(
  id: string,
  reads: R,
  body: RuleBody<R, L, P>,
): Made<R, P> => {
  checkBody(id, reads, body);
  const definition = define(id, reads as unknown as Definition['reads'], body as unknown as LooseBody, false);
  const hasParameters = Object.keys(definition.takes).length > 0;
  const bindTo = (roles: RolePaths, rest: readonly unknown[]) =>
    hasParameters
      ? bind(definition, roles, checkTakes(definition, rest[0]), rest[1] as object)
      : bind(definition, roles, {}, rest[0] as object);
  const made = definition.check ? (...rest: unknown[]) => bindTo({}, rest) : (roles: RolePaths, ...rest: unknown[]) => bindTo(roles, rest);
  return Object.assign(made, { id, reads, definition }) as unknown as Made<R, P>;
};

export interface LooseBody extends Partial<Omit<Definition, 'blames' | 'takes' | 'looksUp'>> {
  readonly samples?: { readonly holds: readonly object[]; readonly fails: readonly object[] } | undefined;
  readonly takes?: { readonly [parameter: string]: RoleSpec };
  readonly looksUp?: { readonly [name: string]: LookUpSpec };
  readonly message: Texts;
  readonly blames: string | readonly string[];
  // Methods, as those of a definition.
  holds?(...all: Parameters<Definition['run']>): unknown;
  failing?(...all: Parameters<Definition['run']>): unknown;
  asks?(...all: Parameters<Definition['run']>): unknown;
}

/** Refuses parameters that are missing or of another kind. */
function checkTakes({ id, takes }: Definition, given: unknown): object {
  if (typeof given !== 'object' || given === null) fault(`Rule "${id}" needs its parameters: ${Object.keys(takes).join(', ')}.`);
  for (const [name, { spec, maybe }] of Object.entries(takes)) {
    const value = (given as { readonly [name: string]: unknown })[name];
    if (maybe && value === undefined) continue;
    if (spec.json(value) === UNREADABLE) fault(`Rule "${id}": its parameter "${name}" has to be of kind ${spec.name}.`);
  }
  for (const name of Object.keys(given))
    if (!(name in takes)) fault(`Rule "${id}" has no parameter "${name}"; ${nearest(name, Object.keys(takes))}`);
  return given;
}

const BODY = ['takes', 'looksUp', 'holds', 'failing', 'asks', 'within', 'facts', 'open', 'message', 'blames', 'samples'];

/** Refuses a body that lacks what every rule has, or says something that no rule knows. */
function checkBody(id: string, reads: object, body: object): void {
  if (typeof id !== 'string') fault(`A rule needs its id as its first argument, and not ${kindOf(id)}.`);
  checkRoles(`Rule "${id}"`, reads);
  const { message, blames, samples } = optionsOf(`Rule "${id}"`, body as Partial<LooseBody>, BODY);
  if (message === undefined) fault(`Rule "${id}" needs a message.`);
  if (blames === undefined) fault(`Rule "${id}" needs blames: the roles at fault.`);
  if (samples !== undefined) optionsOf(`Rule "${id}", samples`, samples, ['holds', 'fails']);
  checkRoles(`Rule "${id}", takes`, (body as Partial<LooseBody>).takes ?? {});
}

const NOTHING = Object.freeze({});

/**
 * Turns a body as it is written into a definition, or throws a `Fault`.
 *
 * @param isOurs a ready-made rule, which a test has checked
 */
export function define(id: string, reads: Definition['reads'], body: LooseBody, isOurs = true): Definition {
  const kinds = (['holds', 'failing', 'asks'] as const).filter((how) => body[how] !== undefined);
  const how =
    kinds.length === 1 && kinds[0]
      ? kinds[0]
      : fault(`Rule "${id}" needs exactly one of holds, failing and asks; it has ${kinds.join(' and ') || 'none'}.`);
  if (how === 'asks' && !((body.within ?? 0) > 0))
    fault(`Rule "${id}" asks something outside and needs a time limit in milliseconds: within.`);
  const run = body[how] as (read: object, found: object, takes: object, at: Circumstances) => unknown;
  const { holds: _holds, failing: _failing, asks: _asks, ...rest } = body;
  const definition: Definition = {
    ...rest,
    id,
    isOurs,
    family: body.family ?? {},
    reads,
    takes: body.takes ?? {},
    looksUp: body.looksUp ?? {},
    how,
    run: run as Definition['run'],
    ...(isValueRule(reads) && {
      check: body.check ?? ((value: unknown, takes: object, at: Circumstances) => run({ field: value }, NOTHING, takes, at)),
    }),
    isFixed: body.isFixed ?? (body.facts === undefined && body.words === undefined),
    blames: typeof body.blames === 'string' ? [body.blames] : body.blames,
  };
  if (!isOurs) checkDefinition(definition);
  return definition;
}

function isValueRule(reads: object): boolean {
  const roles = Object.keys(reads);
  return roles.length === 1 && roles[0] === 'field';
}
