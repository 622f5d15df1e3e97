import { addDays, type Day, isDay } from '../basics/days.ts';
import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';

declare module '../declared/kind.ts' {
  interface KindSpecs {
    day: typeof spec;
  }
}

const spec = {
  name: 'day',
  storedAs: 'date',
  comparable: true,
  ordered: 'time',
  listable: true,
  examples: (today) => [7, 10, 14, 0, 1, 30, -1, -30, -365, -14_610].map((by) => addDays(today as Day, by)),
  schema: { schema: { type: 'string', format: 'date', pattern: '^[0-9]{4}-[0-9]{2}-[0-9]{2}$' }, leavesOut: 'that the day exists' },
  is: ['day'],
  says: { en: '{field} must be a day that exists, written year-month-day, such as 2031-05-28.' },
  hints: { date: { en: '{field} must be a day as text, such as 2031-05-28, and not a Date object.' } },
  json: (raw) => (typeof raw === 'string' && isDay(raw) ? raw : UNREADABLE),
  form: (text) => {
    const bare = text.trim();
    return isDay(bare) ? bare : UNREADABLE;
  },
  control: () => ({ type: 'date' }),
  // Before the first day there is none, nor after the last.
  around: (bound) => [-1, 0, 1].flatMap((by) => (isAtEnd(bound as Day, by) ? [] : [addDays(bound as Day, by)])),
  stored: (raw) => {
    // Drivers give a DATE column as text or as midnight in the local zone; text with a time keeps its date.
    const bare = raw instanceof Date ? localDay(raw) : typeof raw === 'string' ? raw.slice(0, 10) : '';
    return isDay(bare) ? bare : UNREADABLE;
  },
} satisfies KindSpec<Day>;

function isAtEnd(day: Day, by: number): boolean {
  return day === (by < 0 ? '0000-01-01' : by > 0 ? '9999-12-31' : '');
}

function localDay(date: Date): string {
  const two = (part: number) => String(part).padStart(2, '0');
  return `${String(date.getFullYear()).padStart(4, '0')}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
}

export interface DayKind extends Kind<'day', Day> {
  (label: string, ...steps: Step<'day'>[]): Field<'day', Day>;
}

/**
 * A day of the calendar, `YYYY-MM-DD` (RFC 3339 `full-date`); days that do not exist are refused.
 *
 * @law A day of the calendar that exists, `YYYY-MM-DD` (RFC 3339 full-date).
 * @example day('Arrival')
 * @holds '2032-02-29'
 * @fails '2031-02-29'
 */
export const day = kindBy<DayKind>(spec);

export const dayTold: ToldKind = {
  spec,
  make: day,
  made: 'day',
  called: 'day',
  // biome-ignore lint/suspicious/noTemplateCurlyInString: a template literal type
  typeScript: '`${number}-${number}-${number}`',
  isReadFrom: true,
  shownAs: 'day',
  typed: 'day',
  guess: { says: 'each is a day' },
};
