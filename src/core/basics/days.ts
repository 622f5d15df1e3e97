import { zoneNamed } from '#zone-names';

/** A day of the Gregorian calendar as `YYYY-MM-DD` (RFC 3339 `full-date`). */
// The intersection only keeps the name `Day` in hovers.
export type Day = `${number}-${number}-${number}` & Record<never, never>;

const MONTHS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

function isLeap(year: number): boolean {
  return year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0);
}

/** Two digits as a number; -1 where one of them is none. Whole numbers throughout: NaN would make them all doubles. */
function twoDigits(text: string, at: number): number {
  const tens = text.charCodeAt(at) - 48;
  const ones = text.charCodeAt(at + 1) - 48;
  return tens >= 0 && tens <= 9 && ones >= 0 && ones <= 9 ? tens * 10 + ones : -1;
}

/** True for `YYYY-MM-DD` naming a day that exists. A scanner, since `Date.parse` costs many times as much. */
export function isDay(text: string): text is Day {
  if (text.length !== 10 || text.charCodeAt(4) !== 45 || text.charCodeAt(7) !== 45) return false;
  const month = twoDigits(text, 5);
  const date = twoDigits(text, 8);
  const century = twoDigits(text, 0);
  const year = twoDigits(text, 2);
  if (month < 1 || month > 12 || date < 1 || century < 0 || year < 0) return false;
  return date <= 28 || date <= (month === 2 && isLeap(century * 100 + year) ? 29 : (MONTHS[month - 1] as number));
}

/** Days since 1970-01-01 (negative before), by counting: a `Date` costs ten times as much. */
export function dayNumber(day: Day): number {
  // Years are counted from March, so that the leap day comes last.
  const month = twoDigits(day, 5);
  const year = twoDigits(day, 0) * 100 + twoDigits(day, 2) - (month <= 2 ? 1 : 0);
  const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + twoDigits(day, 8) - 1;
  return year * 365 + Math.floor(year / 4) - Math.floor(year / 100) + Math.floor(year / 400) + dayOfYear - 719_468;
}

const DAY = 86_400_000;

/** Years are written with four digits (RFC 3339): there is no day before 0000-01-01, and none after 9999-12-31. */
function dayOf(milliseconds: number): Day {
  const text = Math.abs(milliseconds) <= 8.64e15 ? new Date(milliseconds).toISOString() : '';
  if (text.length !== 24) throw new RangeError('There is no such day: years are written with four digits.');
  return text.slice(0, 10) as Day;
}

/**
 * The day so many days later (earlier, when negative).
 *
 * @throws RangeError for a day before year 0000 or after year 9999
 */
export function addDays(day: Day, days: number): Day {
  return dayOf((dayNumber(day) + days) * DAY);
}

/**
 * The latest day on which someone now so many years old can have been born: whoever was born on
 * 29 February comes of age on 1 March in a year without one.
 */
export function yearsBefore(day: Day, years: number): Day {
  const date = new Date(dayNumber(day) * DAY);
  const month = date.getUTCMonth();
  date.setUTCFullYear(date.getUTCFullYear() - years);
  // 29 February of a year that has none has become 1 March: one day too late.
  return dayOf(date.getUTCMonth() === month ? date.getTime() : date.getTime() - DAY);
}

/** Nights from one day to another: 1 from a day to the next, negative when `to` is earlier. */
export function nightsBetween(from: Day, to: Day): number {
  return dayNumber(to) - dayNumber(from);
}

/** 0 for Monday to 6 for Sunday (ISO 8601 counts them 1 to 7). */
export function weekdayOf(day: Day): number {
  // 1970-01-01 was a Thursday.
  return (((dayNumber(day) + 3) % 7) + 7) % 7;
}

/** Zones remembered: more than an application has, and a limit for what requests bring (a formatter is some 25 KB). */
const MOST_ZONES = 100;
const formats = new Map<string, Intl.DateTimeFormat>();
const latest = new Map<string, { readonly quarter: number; readonly day: Day }>();
const QUARTER_HOUR = 900_000;

/** The one spelling of a zone's name that the run time is given. */
function oneSpelling(zone: string): string {
  return zoneNamed(zone) ?? refuse(new RangeError('This is no name of a time zone.'));
}

function refuse(error: Error): never {
  throw error;
}

/** The formatter of a time zone; a `RangeError` for a name that IANA does not list. */
export function zoneFormat(name: string): Intl.DateTimeFormat {
  const zone = oneSpelling(name);
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en', { timeZone: zone, calendar: 'iso8601', year: 'numeric', month: '2-digit', day: '2-digit' });
    if (formats.size >= MOST_ZONES) formats.clear();
    formats.set(zone, format);
  }
  return format;
}

const clocks = new Map<string, Intl.DateTimeFormat>();

/** The formatter of what the clocks of a zone show. */
export function clockFormat(name: string): Intl.DateTimeFormat {
  const zone = oneSpelling(name);
  let format = clocks.get(zone);
  if (!format) {
    const [two, numeric] = ['2-digit', 'numeric'] as const;
    const clock = { hour: two, minute: two, second: two, hourCycle: 'h23' } as const;
    format = new Intl.DateTimeFormat('en', { timeZone: zone, calendar: 'iso8601', year: numeric, month: two, day: two, ...clock });
    if (clocks.size >= MOST_ZONES) clocks.clear();
    clocks.set(zone, format);
  }
  return format;
}

/** The day that a moment falls on in a time zone (an IANA name such as `Europe/Oslo`). */
export function dayIn(zone: string, moment: Date): Day {
  // Midnight falls on a quarter of an hour in every zone, so the answer holds for that quarter.
  const quarter = Math.floor(moment.getTime() / QUARTER_HOUR);
  const known = latest.get(zone);
  if (known?.quarter === quarter) return known.day;
  const parts: Record<string, string> = {};
  for (const part of zoneFormat(zone).formatToParts(moment)) parts[part.type] = part.value;
  const day = `${(parts.year as string).padStart(4, '0')}-${parts.month}-${parts.day}` as Day;
  if (latest.size >= MOST_ZONES) latest.clear();
  latest.set(zone, { quarter, day });
  return day;
}
