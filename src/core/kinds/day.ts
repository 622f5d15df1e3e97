import { type Day, isDay } from '../days.ts';
import { type Field, makeField, type Step } from './field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from './kind.ts';

const spec: KindSpec<Day> = {
  name: 'day',
  is: ['day'],
  says: { en: '{field} must be a day that exists, written year-month-day, such as 2031-05-28.' },
  hints: { date: { en: '{field} must be a day as text, such as 2031-05-28, and not a Date object.' } },
  json: (raw) => (typeof raw === 'string' && isDay(raw) ? raw : UNREADABLE),
  form: (text) => {
    const bare = text.trim();
    return isDay(bare) ? bare : UNREADABLE;
  },
  stored: (raw) => {
    // Drivers give a DATE column as text or as midnight in the local zone; text with a time keeps its date.
    const bare = raw instanceof Date ? localDay(raw) : typeof raw === 'string' ? raw.slice(0, 10) : '';
    return isDay(bare) ? bare : UNREADABLE;
  },
};

function localDay(date: Date): string {
  const two = (part: number) => String(part).padStart(2, '0');
  return `${String(date.getFullYear()).padStart(4, '0')}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
}

export interface DayKind extends Kind<'day', Day> {
  (label: string, ...steps: Step<'day'>[]): Field<'day', Day>;
}

/** A day of the calendar, `YYYY-MM-DD` (RFC 3339 `full-date`); days that do not exist are refused. */
export const day = asKind(spec, (label: string, ...steps: Step<'day'>[]) => makeField(spec, label, steps)) as unknown as DayKind;
