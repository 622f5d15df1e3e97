import { addDays, type Day, isDay, yearsBefore } from '../basics/days.ts';
import { fault } from '../basics/fault.ts';
import { canonicalMoment, type Moment, momentOf, type TimeOfDay, timeOf } from '../basics/moments.ts';
import type { Circumstances } from '../basics/verdict.ts';

/** A day relative to the day of the judgement, in the intake's time zone. */
export interface RelativeDay {
  readonly relative: 'today' | 'daysFromToday' | 'yearsBeforeToday';
  readonly by: number;
}
/** A moment relative to that of the judgement, in minutes. */
export interface RelativeMoment {
  readonly relative: 'now';
  readonly by: number;
}
/** A day, moment or time of day to compare with, fixed or relative to the clock. */
export type Bound = Day | Moment | TimeOfDay | RelativeDay | RelativeMoment;
/** The kind of field that a bound is for. */
export type KindOfBound<B> = B extends RelativeMoment | `${string}T${string}`
  ? 'moment'
  : B extends `${string}:${string}`
    ? 'time-of-day'
    : 'day';

/** The day of the judgement. */
export const today: RelativeDay = { relative: 'today', by: 0 };

/** The day so many days after the judgement (before it, when negative). */
export const daysFromToday = (days: number): RelativeDay => ({ relative: 'daysFromToday', by: wholeNumber('daysFromToday', days) });

/** The latest day on which someone so many years old can have been born; 29 February comes of age on 1 March. */
export const yearsBeforeToday = (years: number): RelativeDay => ({
  relative: 'yearsBeforeToday',
  by: wholeNumber('yearsBeforeToday', years),
});

/** The moment of the judgement. */
export const now: RelativeMoment = { relative: 'now', by: 0 };

/** The moment so many minutes after the judgement (before it, when negative). */
export const minutesFromNow = (minutes: number): RelativeMoment => ({ relative: 'now', by: wholeNumber('minutesFromNow', minutes) });

function wholeNumber(name: string, value: number): number {
  return Number.isInteger(value) ? value : fault(`${name}(${value}) needs a whole number.`);
}

/** The bound as the text that values are compared with; texts of one kind sort as time passes. */
export function resolveBound(bound: Bound, at: Circumstances): string {
  if (typeof bound === 'string')
    return bound.includes('T') ? (momentOf(bound) as string) : bound.includes(':') ? (timeOf(bound) as string) : bound;
  if (bound.relative === 'now') return canonicalMoment(new Date(at.now.getTime() + bound.by * 60_000));
  if (bound.relative === 'yearsBeforeToday') return yearsBefore(at.today, bound.by);
  return bound.by === 0 ? at.today : addDays(at.today, bound.by);
}

export function needsZone(bound: Bound): boolean {
  return typeof bound !== 'string' && bound.relative !== 'now';
}

/** The kind of field that a bound is for, or a fault for what is no bound. */
export function kindOfBound(rule: string, bound: unknown): 'day' | 'moment' | 'time-of-day' {
  if (typeof bound !== 'string') {
    const { relative } = (bound ?? {}) as Partial<RelativeDay | RelativeMoment>;
    return relative === undefined
      ? fault(`${rule} needs a day, a moment, a time, today, daysFromToday(…), yearsBeforeToday(…), now or minutesFromNow(…).`)
      : relative === 'now'
        ? 'moment'
        : 'day';
  }
  if (isDay(bound)) return 'day';
  if (momentOf(bound) !== undefined) return 'moment';
  return timeOf(bound) === undefined
    ? fault(`${rule}('${bound}'): no day, moment or time of day that exists, such as 2031-05-01, 2031-05-01T09:30:00Z or 09:30.`)
    : 'time-of-day';
}
