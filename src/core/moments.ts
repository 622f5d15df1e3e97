import { dayNumber, isDay } from './days.ts';

/** A moment as canonical UTC text to the millisecond, which sorts as it passes: `2031-05-01T07:30:00.000Z`. */
export type Moment = `${number}-${number}-${number}T${string}Z` & Record<never, never>;

/** A time of day, `HH:MM`, with seconds and their fraction where they are not zero: `09:30`, `09:30:15.5`. It sorts as it passes. */
export type TimeOfDay = `${number}:${number}` & Record<never, never>;

// RFC 3339 date-time; the letters may be small. A leap second has no place in POSIX time, and is refused.
const MOMENT = /^(\d{4}-\d{2}-\d{2})[Tt]([01]\d|2[0-3]):([0-5]\d):([0-5]\d)(?:\.(\d{1,30}))?(?:[Zz]|([+-])([01]\d|2[0-3]):([0-5]\d))$/;
const TIME = /^([01]\d|2[0-3]):([0-5]\d)(?::([0-5]\d)(?:\.(\d{1,9}))?)?$/;
const LAST = Date.UTC(9999, 11, 31, 23, 59, 59, 999);
const FIRST = -62_167_219_200_000; // 0000-01-01

/** The canonical text of an RFC 3339 date-time with any offset, or `undefined`. Digits beyond the millisecond are dropped. */
export function momentOf(text: string): Moment | undefined {
  const parts = MOMENT.exec(text);
  if (!parts) return undefined;
  const [, day = '', hour, minute, second, fraction = '', sign, offsetHour = 0, offsetMinute = 0] = parts;
  if (!isDay(day)) return undefined;
  const offset = (Number(offsetHour) * 60 + Number(offsetMinute)) * (sign === '-' ? -1 : 1);
  const minutes = dayNumber(day) * 1440 + Number(hour) * 60 + Number(minute) - offset;
  const milliseconds = minutes * 60_000 + Number(second) * 1000 + Number(fraction.slice(0, 3).padEnd(3, '0'));
  return milliseconds >= FIRST && milliseconds <= LAST ? canonicalMoment(new Date(milliseconds)) : undefined;
}

export function canonicalMoment(date: Date): Moment {
  return date.toISOString() as Moment;
}

/** The canonical text of a time of day (RFC 3339 `partial-time`, the seconds may be left out), or `undefined`. */
export function timeOf(text: string): TimeOfDay | undefined {
  const parts = TIME.exec(text);
  if (!parts) return undefined;
  const [, hour, minute, second = '00', fraction = ''] = parts;
  const rest = fraction.replace(/0+$/, '');
  return `${hour}:${minute}${second === '00' && rest === '' ? '' : `:${second}`}${rest && `.${rest}`}` as TimeOfDay;
}
