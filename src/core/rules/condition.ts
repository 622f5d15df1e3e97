import { type Day, isDay } from '../basics/days.ts';
import { fault, nearest } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { Circumstances } from '../basics/verdict.ts';
import { between } from '../conditions/calendar.ts';
import { conjunction, disjunction, negation } from '../conditions/joined.ts';
import { onOccasions } from '../conditions/occasion.ts';
import { reading } from '../conditions/reads.ts';
import type { Fields } from '../declared/field.ts';
import type { Roles } from '../declared/kind.ts';
import { areSame, type NEEDS, readConstant, roleOf, type Sameness, samenessOf } from '../declared/kind.ts';
import type {
  BoundRule,
  BoundSpec,
  ConditionSpec,
  Definition,
  GuardSpec,
  LookUpSpecs,
  RoleField,
  RolePaths,
  Say,
  Takes,
} from '../declared/rule.ts';
import type { FoundOf, LookUps } from '../stored/look-up.ts';
import { checkDefinition, checkRoles } from './definition.ts';
import type { AnyPath, Binding, ConstantAt, ReadOf } from './roles.ts';

/** What guards rules. It holds, or not, or is skipped (a role absent or unsound), or unsettled. */
export interface Condition<in F> {
  /** @internal */
  readonly [NEEDS]: (fields: F) => void;
  readonly condition: true;
}

/** What a condition holds by, and the records that it needs. */
export interface ConditionBody<R extends Roles, L extends LookUps<R>> {
  /** The records the condition needs. */
  readonly looksUp?: L;
  /** Whether it holds. */
  readonly holds: (read: ReadOf<R>, found: FoundOf<L>, at: Circumstances) => boolean;
}
/** A condition to be bound to fields. */
export interface Conditional<in out R extends Roles> {
  readonly id: string;
  <F extends Fields>(roles: Binding<R, F>): Condition<F>;
}

/**
 * Defines a rule without a message, which guards other rules.
 *
 * @throws Fault when the definition contradicts itself
 */
export const condition = <R extends Roles, L extends LookUps<R> = {}>(id: string, reads: R, body: ConditionBody<R, L>): Conditional<R> => {
  checkRoles(`Condition "${id}"`, reads);
  optionsOf(`Condition "${id}"`, body, ['looksUp', 'holds']);
  const { holds } = body as unknown as { holds: (read: object, found: object, at: Circumstances) => unknown };
  if (typeof holds !== 'function') fault(`Condition "${id}" needs holds.`);
  const definition = defineCondition(
    id,
    reads as unknown as Definition['reads'],
    (body.looksUp ?? {}) as unknown as LookUpSpecs,
    (read, found, _takes, at) => holds(read, found, at),
    holds,
  );
  const made = (roles: RolePaths): ConditionSpec => reading(definition, roles);
  return Object.assign(made, { id }) as unknown as Conditional<R>;
};

function defineCondition(
  id: string,
  reads: Definition['reads'],
  looksUp: LookUpSpecs,
  run: (read: object, found: object, takes: Takes, at: Circumstances) => unknown,
  written?: unknown,
): Definition {
  const definition: Definition = {
    id,
    family: {},
    reads,
    takes: {},
    looksUp,
    how: 'holds',
    run: run as Definition['run'],
    ...(written !== undefined && { written }),
    message: '',
    blames: Object.keys(reads),
  };
  checkDefinition(definition);
  return definition;
}

/** Holds when the field is there. */
export const present = <F extends Fields>(field: AnyPath<F>): Condition<F> => made(reading(PRESENCE, { field: field as string }));

/** Holds where the condition does not; skipped and unsettled stay what they are. */
export const not = <F extends Fields>(of: Condition<F>): Condition<F> => made(negation(specOf(of)));

/** Holds when all hold; one that does not is enough to settle it. */
export const allOf = <F extends Fields>(...of: readonly Condition<F>[]): Condition<F> => made(conjunction(some('allOf', of).map(specOf)));

/** Holds when any holds; one that does is enough to settle it. */
export const anyOf = <F extends Fields>(...of: readonly Condition<F>[]): Condition<F> => made(disjunction(some('anyOf', of).map(specOf)));

/** Holds when the judgement is made on one of these occasions. */
export const occasionIs = <F extends Fields>(...names: readonly string[]): Condition<F> => made(onOccasions(some('occasionIs', names)));

/** Of nothing nobody can say whether it holds. */
function some<T>(name: string, parts: readonly T[]): readonly T[] {
  return parts.length > 0 ? parts : fault(`${name}() names nothing.`);
}

/** Holds from that day on, in the intake's time zone: for a rule that begins on a day said beforehand. */
export const fromDay = <F extends Fields>(day: Day): Condition<F> => made(between(dayOrFault('fromDay', day), undefined));

/** Holds until the end of that day, in the intake's time zone. */
export const untilDay = <F extends Fields>(day: Day): Condition<F> => made(between(undefined, dayOrFault('untilDay', day)));

function dayOrFault(name: string, day: string): Day {
  return typeof day === 'string' && isDay(day) ? day : fault(`${name}('${day}') needs a day that exists, such as '2032-01-01'.`);
}

/**
 * Holds when each of these fields has the value, or one of the values, given; of an object with shapes, when it has that
 * shape. The values are read by the fields' own kinds when the intake is defined.
 */
export const equals = <F extends Fields>(
  values: { readonly [P in AnyPath<F>]?: ConstantAt<F, P> | readonly ConstantAt<F, P>[] },
): Condition<F> => {
  const paths = Object.keys(values);
  const wanted = paths.map((path) => (values as { [path: string]: unknown })[path]);
  if (paths.length === 0) fault('equals({}) names no field.');
  // Fields become roles by position, since a path is not a role's name.
  const roles = Object.fromEntries(paths.map((path, index) => [`value${index + 1}`, path]));
  return made(reading(equalsOf(paths.length), roles, { wanted }));
};

const PRESENCE: Definition = {
  ...defineCondition(
    'present',
    { field: roleOf('any', { maybe: true, reads: 'presence' }) },
    {},
    (read) => (read as { field: unknown }).field !== undefined,
  ),
  isOurs: true,
  isPresence: true,
};

const equalsMade = new Map<number, Definition>();
const EQUALS = {};

function equalsOf(fields: number): Definition {
  let definition = equalsMade.get(fields);
  if (!definition) {
    const reads = Object.fromEntries(
      Array.from({ length: fields }, (_, index) => [`value${index + 1}`, roleOf(['one-of-shapes'], { can: 'comparable', reads: 'tag' })]),
    );
    const holds = (read: object, _found: object, { wanted, sameness }: Takes) =>
      Object.values(read).every((value, index) => {
        const isSame = (sameness as readonly Sameness[] | undefined)?.[index];
        return (wanted as Wanted)[index]?.some((each) => (isSame ? areSame(each, value, isSame) : each === value));
      });
    definition = { ...defineCondition('equals', reads, {}, holds), isOurs: true, family: EQUALS, forRoles: readWanted };
    equalsMade.set(fields, definition);
  }
  return definition;
}

type Wanted = readonly (readonly unknown[])[];

/** The values wanted, as the fields read them; a value that a field can never have is a mistake. */
function readWanted({ wanted }: { readonly wanted: readonly unknown[] }, fields: readonly RoleField[], say: Say): Takes {
  return {
    ...(fields.some(({ kind }) => kind.isSame) && { sameness: fields.map(({ kind }) => samenessOf(kind)) }),
    wanted: fields.map(({ path, kind, shapes }, index) => {
      const asked: readonly unknown[] = Array.isArray(wanted[index]) ? wanted[index] : [wanted[index]];
      if (asked.length === 0) say(`names no value for "${path}", and could never hold.`);
      return asked.map((value) => {
        if (!shapes) return readConstant(kind, value, `compares "${path}" with`, say);
        return shapes.includes(value as string)
          ? value
          : say(`compares "${path}" with ${JSON.stringify(value)}; ${nearest(String(value), shapes)}`);
      });
    }),
  };
}

/** Guards rules with a condition; `otherwise` are the rules where it does not hold. */
export const when = <F extends Fields>(
  condition: Condition<F>,
  rules: readonly BoundRule<F>[],
  otherwise: readonly BoundRule<F>[] = [],
): BoundRule<F> => {
  if (!Array.isArray(rules) || !Array.isArray(otherwise)) fault('when takes a condition, and then lists of rules.');
  const guard: GuardSpec = {
    type: 'when',
    id: 'when',
    condition: specOf(condition),
    rules: rules as unknown as readonly BoundSpec[],
    otherwise: otherwise as unknown as readonly BoundSpec[],
  };
  return guard as never;
};

function specOf(condition: Condition<never>): ConditionSpec {
  const spec = condition as unknown as Partial<ConditionSpec> | undefined;
  return typeof spec?.bind === 'function'
    ? (spec as ConditionSpec)
    : fault('A condition is made by condition(…), equals(…), present(…), occasionIs(…), not(…), allOf(…) or anyOf(…).');
}

function made<F>(spec: ConditionSpec): Condition<F> {
  return spec as never;
}
