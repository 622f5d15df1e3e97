import { clockFormat, dayNumber, isDay } from './days.ts';

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

const LOCAL = /^(\d{4}-\d{2}-\d{2})[Tt ]([01]\d|2[0-3]):([0-5]\d)(?::([0-5]\d)(?:\.(\d{1,3}))?)?$/;
const HALF_A_DAY = 43_200_000;

/** A date and time without an offset (WHATWG HTML, `datetime-local`) with that of a time zone; any other text as it is. */
export function withOffset(text: string, zone: string): string {
  const parts = LOCAL.exec(text);
  if (!parts) return text;
  const [, day = '', hour, minute, second = '00', fraction = '0'] = parts;
  if (!isDay(day)) return text;
  const minutes = dayNumber(day) * 1440 + Number(hour) * 60 + Number(minute);
  const local = minutes * 60_000 + Number(second) * 1000 + Number(fraction.padEnd(3, '0'));
  // Where clocks are put, the offsets before and after differ. The earlier of two moments that are called alike is meant, and of
  // none the one by the clock that was not put yet.
  const [before, after] = [local - HALF_A_DAY, local + HALF_A_DAY].map((moment) => offsetIn(zone, moment)) as [number, number];
  const candidates = [local - before, local - after].filter((moment, at) => offsetIn(zone, moment) === [before, after][at]);
  const moment = candidates.length > 0 ? Math.min(...candidates) : local - before;
  return moment >= FIRST && moment <= LAST ? canonicalMoment(new Date(moment)) : text;
}

/** Milliseconds by which the clocks of a zone are ahead of UTC. */
function offsetIn(zone: string, moment: number): number {
  const parts: { [type: string]: number } = {};
  for (const { type, value } of clockFormat(zone).formatToParts(new Date(moment))) parts[type] = Number(value);
  const { year = 0, month = 1, day = 1, hour = 0, minute = 0, second = 0 } = parts;
  const shown = new Date(0);
  shown.setUTCFullYear(year, month - 1, day);
  shown.setUTCHours(hour, minute, second, 0);
  return shown.getTime() - Math.floor(moment / 1000) * 1000;
}

/** What the clocks of a zone show at a moment, as `datetime-local` writes it: `2031-05-01T09:30`, with seconds where they are not zero. */
export function localText(moment: string, zone: string): string {
  const time = Date.parse(moment);
  if (Number.isNaN(time)) return moment;
  const [text = ''] = new Date(time + offsetIn(zone, time)).toISOString().split('Z');
  return text.replace(/(?::00)?\.000$/, '');
}
