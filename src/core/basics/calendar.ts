import { addDays, type Day, weekdayOf } from './days.ts';

/** A stretch of the calendar; weeks begin on Monday (ISO 8601). */
export type CalendarUnit = 'day' | 'week' | 'month' | 'year';
export const CALENDAR_UNITS: readonly CalendarUnit[] = ['day', 'week', 'month', 'year'];

/**
 * The first day of the stretch that a day is in, and the first one after it.
 *
 * @throws RangeError where that is a day of year 10000
 */
export function stretchOf(unit: CalendarUnit, day: Day): { readonly from: Day; readonly until: Day } {
  const [year = '', month = ''] = day.split('-');
  switch (unit) {
    case 'day':
      return { from: day, until: addDays(day, 1) };
    case 'week': {
      const from = addDays(day, -weekdayOf(day));
      return { from, until: addDays(from, 7) };
    }
    case 'month': {
      const from = `${year}-${month}-01` as Day;
      return { from, until: `${addDays(from, 31).slice(0, 7)}-01` as Day };
    }
    case 'year':
      return { from: `${year}-01-01` as Day, until: `${addDays(`${year}-12-31` as Day, 1).slice(0, 4)}-01-01` as Day };
  }
}
