/** A day of the Gregorian calendar as `YYYY-MM-DD` (RFC 3339 `full-date`). */
// The intersection only keeps the name `Day` in hovers.
export type Day = `${number}-${number}-${number}` & Record<never, never>;

const MONTHS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

function isLeap(year: number): boolean {
  return year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0);
}

function digitsAt(text: string, from: number, to: number): number {
  let value = 0;
  for (let i = from; i < to; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return Number.NaN;
    value = value * 10 + digit;
  }
  return value;
}

/** True for `YYYY-MM-DD` naming a day that exists. A scanner, since `Date.parse` costs many times as much. */
export function isDay(text: string): text is Day {
  if (text.length !== 10 || text.charCodeAt(4) !== 45 || text.charCodeAt(7) !== 45) return false;
  const year = digitsAt(text, 0, 4);
  const month = digitsAt(text, 5, 7);
  const date = digitsAt(text, 8, 10);
  if (!(year >= 0 && month >= 1 && month <= 12 && date >= 1)) return false;
  return date <= (month === 2 && isLeap(year) ? 29 : (MONTHS[month - 1] as number));
}

/** Milliseconds since 1970-01-01 UTC at the start of the day. */
export function dayStart(day: Day): number {
  const date = new Date(0);
  // Date.UTC reads the years 0 to 99 as 1900 to 1999; setUTCFullYear does not.
  return date.setUTCFullYear(digitsAt(day, 0, 4), digitsAt(day, 5, 7) - 1, digitsAt(day, 8, 10));
}

function dayOf(milliseconds: number): Day {
  return new Date(milliseconds).toISOString().slice(0, 10) as Day;
}

/** The day so many days later (earlier, when negative). */
export function addDays(day: Day, days: number): Day {
  return dayOf(dayStart(day) + days * 86_400_000);
}

/**
 * The latest day on which someone now so many years old can have been born: whoever was born on
 * 29 February comes of age on 1 March in a year without one.
 */
export function yearsBefore(day: Day, years: number): Day {
  const date = new Date(dayStart(day));
  const month = date.getUTCMonth();
  date.setUTCFullYear(date.getUTCFullYear() - years);
  // 29 February of a year that has none has become 1 March: one day too late.
  return dayOf(date.getUTCMonth() === month ? date.getTime() : date.getTime() - 86_400_000);
}

/** Nights from one day to another: 1 from a day to the next, negative when `to` is earlier. */
export function nightsBetween(from: Day, to: Day): number {
  return Math.round((dayStart(to) - dayStart(from)) / 86_400_000);
}

const formats = new Map<string, Intl.DateTimeFormat>();
const latest = new Map<string, { readonly quarter: number; readonly day: Day }>();
const QUARTER_HOUR = 900_000;

/** The formatter of a time zone; a `RangeError` for a name that IANA does not list. */
export function zoneFormat(zone: string): Intl.DateTimeFormat {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en', { timeZone: zone, calendar: 'iso8601', year: 'numeric', month: '2-digit', day: '2-digit' });
    formats.set(zone, format);
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
  latest.set(zone, { quarter, day });
  return day;
}
