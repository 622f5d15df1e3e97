import { addDays, type Day, isDay, yearsBefore } from '../days.ts';
import { fault } from '../fault.ts';
import type { Circumstances } from '../verdict.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

/** A day relative to the day of the judgement, in the intake's time zone. */
export interface RelativeDay {
  readonly relative: 'today' | 'daysFromToday' | 'yearsBeforeToday';
  readonly by: number;
}

/** The day of the judgement. */
export const today: RelativeDay = { relative: 'today', by: 0 };

/** The day so many days after the judgement (before it, when negative). */
export const daysFromToday = (days: number): RelativeDay => ({ relative: 'daysFromToday', by: wholeNumber('daysFromToday', days) });

/** The latest day on which someone so many years old can have been born; 29 February comes of age on 1 March. */
export const yearsBeforeToday = (years: number): RelativeDay => ({
  relative: 'yearsBeforeToday',
  by: wholeNumber('yearsBeforeToday', years),
});

function wholeNumber(name: string, value: number): number {
  return Number.isInteger(value) ? value : fault(`${name}(${value}) needs a whole number.`);
}

interface Takes {
  readonly bound: Day | RelativeDay;
}

function resolve(bound: Day | RelativeDay, at: Circumstances): Day {
  if (typeof bound === 'string') return bound;
  if (bound.relative === 'yearsBeforeToday') return yearsBefore(at.today, bound.by);
  return bound.by === 0 ? at.today : addDays(at.today, bound.by);
}

const shared = {
  facts: ({ bound }: Takes, at: Circumstances) => ({ bound: resolve(bound, at) }),
  factNames: ['bound'],
  needsZone: ({ bound }: Takes) => typeof bound !== 'string',
};

function refuse(rule: string, bound: unknown): void {
  if (typeof bound === 'string' && !isDay(bound)) fault(`${rule}('${bound}'): not a day that exists, written YYYY-MM-DD.`);
  if (typeof bound !== 'string' && !(bound as Partial<RelativeDay> | undefined)?.relative)
    fault(`${rule} needs a day, today, daysFromToday(…) or yearsBeforeToday(…).`);
}

// Days in this form sort as text.
const earliest = valueRule('not-before', ['day'], {
  ...shared,
  check: (value: Day, { bound }: Takes, at) => value >= resolve(bound, at),
  refuses: ({ bound }) => refuse('notBefore', bound),
  message: { en: '{field} must not be before {bound, date, long}.' },
});

const latest = valueRule('not-after', ['day'], {
  ...shared,
  check: (value: Day, { bound }: Takes, at) => value <= resolve(bound, at),
  refuses: ({ bound }) => refuse('notAfter', bound),
  message: { en: '{field} must not be after {bound, date, long}.' },
});

/** That day or a later one. */
export const notBefore = (bound: Day | RelativeDay, use?: ValueUse): ValueRule<'day'> => earliest({ bound }, use);

/** That day or an earlier one. */
export const notAfter = (bound: Day | RelativeDay, use?: ValueUse): ValueRule<'day'> => latest({ bound }, use);
