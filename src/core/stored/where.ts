import { CALENDAR_UNITS, type CalendarUnit } from '../basics/calendar.ts';
import { fault } from '../basics/fault.ts';
import type { Scalar } from '../basics/verdict.ts';
import type { ValueOf } from '../declared/field.ts';
import type { Kind } from '../declared/kind.ts';
import type { Comparison, TermSpec, Terms } from '../declared/look-up.ts';
import type { Columns } from './look-up.ts';

// What a developer writes as `where`, and the terms that it comes to.

/** A column compared otherwise than by equality; made by `above`, `below`, `notAbove`, `notBelow`, `ignoringCase`. */
export interface Compare<out P> {
  readonly op: 'above' | 'below' | 'notAbove' | 'notBelow' | 'ignoringCase';
  readonly than: P;
}
/** Used by `above` and `below`, which are value rules too. */
export const compareWith = <P>(op: Compare<P>['op'], than: P): Compare<P> => ({ op, than });
/** The column is at most the role's value. */
export const notAbove = <const P>(than: P): Compare<P> => ({ op: 'notAbove', than });
/** The column is at least the role's value. */
export const notBelow = <const P>(than: P): Compare<P> => ({ op: 'notBelow', than });
/** The column equals the role's value but for the case of letters, as the store folds them. */
export const ignoringCase = <const P>(than: P): Compare<P> => ({ op: 'ignoringCase', than });

/** A fixed value where a role's name could stand. */
export interface Fixed<out T> {
  readonly exactly: T;
}
/** Another column of the same row where a role's name could stand. */
export interface OtherColumn<out N> {
  readonly column: N;
}
/** Another column of the same row instead of a role: `{ due: above(column('paid')) }`. A row in which it holds nothing does not match. */
export const column = <const N extends string>(name: N): OtherColumn<N> => ({ column: name });

/** A stretch of the calendar where a role's name could stand. */
export interface InCalendar<out P> {
  readonly calendar: CalendarUnit;
  readonly of: P;
}
/**
 * The column lies in this day, week (from Monday), month or year, of the moment of the judgement, in the intake's time zone:
 * `bookings.count({ owner: 'owner', arrives: inThis('month') })`. For columns that are a day or a moment.
 */
export const inThis = (unit: CalendarUnit): InCalendar<undefined> => ({ calendar: unit, of: undefined });
/** The same of the stretch in which the value of a role lies, which is a day: `inSame('month', 'arrives')`. */
export const inSame = <const P extends string>(unit: CalendarUnit, role: P): InCalendar<P> => ({ calendar: unit, of: role });

class Combined<out T> {
  /** @param how whether all parts hold, or any */
  constructor(
    readonly how: 'both' | 'either',
    readonly parts: readonly T[],
  ) {}
}
/** Several comparisons that hold together. */
export interface Both<out T> extends Combined<T> {
  readonly how: 'both';
}
/** Several comparisons of which one holds. */
export interface Either<out T> extends Combined<T> {
  readonly how: 'either';
}
type Several = readonly [unknown, unknown, ...unknown[]];
/** All of these: several comparisons of one column (`both(notBelow('from'), below('to'))`), or several conditions. */
export const both = <const T extends Several>(...parts: T): Both<T[number]> => new Combined('both', parts) as Both<T[number]>;
/** One of these: comparisons of one column (`either('berth', 'otherBerth')`), or conditions: `either({ berth: 'berth' }, { vessel: 'vessel' })`. */
export const either = <const T extends Several>(...parts: T): Either<T[number]> => new Combined('either', parts) as Either<T[number]>;

interface Exactly {
  <const T>(value: T): Fixed<T>;
  <const T>(value: T, ...others: T[]): Either<Fixed<T>>;
}
/**
 * A fixed value instead of a role's; of several, one of them: `exactly('open', 'held')`. `exactly(null)`: the column holds nothing.
 */
export const exactly: Exactly = (value: unknown, ...others: unknown[]) =>
  (others.length === 0
    ? { exactly: value }
    : new Combined(
        'either',
        [value, ...others].map((each) => ({ exactly: each })),
      )) as never;

/** `undefined`: roles that may be absent (`maybe`) can be asked with; `never`: they cannot. */
type RolesFor<R, T, U> = { [P in keyof R]: [ValueOf<R[P]>] extends [T | U] ? P : never }[keyof R];
type ColumnsLike<C extends Columns, T> = { [N in keyof C]: [ValueOf<C[N]>] extends [T | undefined] ? N : never }[keyof C];
type AskedWith<C extends Columns, R, T, U> = (RolesFor<R, T, U> & string) | Fixed<T> | OtherColumn<ColumnsLike<C, T>>;
type DaysOf<R, U> = {
  [P in keyof R]: R[P] extends Kind<'day', unknown> ? ([ValueOf<R[P]>] extends [string | U] ? P : never) : never;
}[keyof R];
type Compared<C extends Columns, R, T, U> =
  | AskedWith<C, R, T, U>
  | InCalendar<undefined | (DaysOf<R, U> & string)>
  | Fixed<null>
  | Compare<AskedWith<C, R, T, U>>
  | Both<Compared<C, R, T, U>>
  | Either<Compared<C, R, T, undefined>>;
/**
 * Column to role, or to a comparison with a role; or to a fixed value, to none (`exactly(null)`), or to another column. `both` and
 * `either` join several comparisons of a column, and several conditions.
 */
export type Where<C extends Columns, R, U = undefined> =
  | { readonly [N in keyof C]?: Compared<C, R, NonNullable<ValueOf<C[N]>>, U> }
  | Both<Where<C, R, U>>
  | Either<Where<C, R>>;
/** A fixed value, or one of several. */
export type FixedOf<T> = Fixed<T | null> | Either<Fixed<T | null>>;
/** Columns and the fixed values that they have; `exactly(null)`: that they hold nothing. */
export type FixedColumns<C extends Columns> = { readonly [N in keyof C]?: FixedOf<ValueOf<C[N]>> };

/** Alternatives of one group at most: more is a table of its own. */
const MOST_ALTERNATIVES = 200;

type Formula = TermSpec | { readonly how: Combined<unknown>['how']; readonly of: readonly Formula[] };

/** Turns what a developer writes as `where` into terms. */
export function termsOf(where: object): Terms {
  const terms: TermSpec[] = [];
  const groups: number[][][] = [];
  const add = (term: TermSpec) => terms.push(term) - 1;
  for (const part of conjunctsOf(formulaOf(where))) {
    if (!('of' in part)) add(part);
    else groups.push(alternativesOf(part).map((list) => list.map(add)));
  }
  return { terms, ...(groups.length > 0 && { either: groups }) };
}

function formulaOf(where: object): Formula {
  if (where instanceof Combined) return combined(where, (part) => formulaOf(part as object));
  return { how: 'both', of: Object.entries(where).map(([name, asked]) => columnFormula(name, asked)) };
}

function columnFormula(name: string, asked: unknown): Formula {
  if (asked instanceof Combined) return combined(asked, (part) => columnFormula(name, part));
  const isCompare = typeof asked === 'object' && asked !== null && 'op' in asked;
  const against: unknown = isCompare ? (asked as Compare<unknown>).than : asked;
  const is: Comparison = isCompare ? (asked as Compare<unknown>).op : 'equal';
  if (typeof asked === 'object' && asked !== null && 'calendar' in asked) return inStretch(name, asked as InCalendar<string | undefined>);
  if (typeof against === 'string') return { column: name, is, role: against };
  if (typeof against !== 'object' || against === null || !('exactly' in against || 'column' in against))
    fault(`A look-up compares "${name}" with ${JSON.stringify(against)}; name a role, or use exactly(…) or column(…).`);
  if ('column' in against) return { column: name, is, than: (against as OtherColumn<string>).column };
  const value = (against as Fixed<Scalar>).exactly;
  return value === null ? { column: name, is: 'missing', exactly: true } : { column: name, is, exactly: value };
}

/** Not before it begins, and before the next one does. */
function inStretch(column: string, { calendar: unit, of }: InCalendar<string | undefined>): Formula {
  if (!CALENDAR_UNITS.includes(unit)) fault(`A look-up compares "${column}" with the calendar; there are: ${CALENDAR_UNITS.join(', ')}.`);
  const bound = (is: Comparison, edge: 'from' | 'until'): TermSpec => ({
    column,
    is,
    calendar: { unit, edge },
    ...(of !== undefined && { role: of }),
  });
  return { how: 'both', of: [bound('notBelow', 'from'), bound('below', 'until')] };
}

function combined({ how, parts }: Combined<unknown>, read: (part: unknown) => Formula): Formula {
  if (parts.length === 0) fault(`A look-up has ${how}() without anything in it.`);
  return { how, of: parts.map(read) };
}

/** What holds in any case: terms and alternatives. */
function conjunctsOf(formula: Formula): Formula[] {
  if (!('of' in formula)) return [formula];
  const [only, ...others] = formula.of;
  if (formula.how === 'either') return only && others.length === 0 ? conjunctsOf(only) : [formula];
  return formula.of.flatMap(conjunctsOf);
}

/** The same, written as one of several lists of terms that hold together. */
function alternativesOf(formula: Formula): (readonly TermSpec[])[] {
  if (!('of' in formula)) return [[formula]];
  const each = formula.of.map(alternativesOf);
  const lists =
    formula.how === 'either'
      ? each.flat()
      : each.reduce<(readonly TermSpec[])[]>(
          (sum, next) => checkNumber(sum.length * next.length) && sum.flatMap((left) => next.map((right) => [...left, ...right])),
          [[]],
        );
  checkNumber(lists.length);
  if (lists.some((list) => list.length === 0)) fault('A look-up has an alternative without a condition, which every row would meet.');
  return lists;
}

function checkNumber(alternatives: number): true {
  if (alternatives > MOST_ALTERNATIVES)
    fault(`A look-up comes to ${alternatives} alternatives, and may have ${MOST_ALTERNATIVES}; say it with a table instead.`);
  return true;
}
