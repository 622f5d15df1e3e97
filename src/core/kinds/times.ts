import { canonicalMoment, type Moment, momentOf, type TimeOfDay, timeOf, withOffset } from '../basics/moments.ts';
import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, type Read, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';

declare module '../declared/kind.ts' {
  interface KindSpecs {
    moment: typeof momentSpec;
    'time-of-day': typeof timeSpec;
  }
}

const momentSpec = {
  name: 'moment',
  storedAs: 'timestamp',
  comparable: true,
  ordered: 'time',
  listable: true,
  isRewritten: true,
  examples: (today) => [`${today}T09:30:00Z`, `${today}T23:59:59Z`, '2000-01-01T00:00:00Z', '2100-01-01T00:00:00Z'],
  schema: { schema: { type: 'string', format: 'date-time' }, leavesOut: 'all of its form: a reader may take it for a remark' },
  is: ['moment'],
  says: { en: '{field} must be a date and time with its offset, such as 2031-05-28T09:30:00+02:00.' },
  hints: { date: { en: '{field} must be a date and time as text, such as 2031-05-28T09:30:00+02:00, and not a Date object.' } },
  json: readMoment,
  form: (text) => readMoment(text.trim()),
  formIn: (text, zone) => readMoment(withOffset(text.trim(), zone)),
  // Without a zone nobody can tell which moment is meant.
  control: (zone) => (zone === undefined ? {} : { type: 'datetime-local' }),
  around: (bound) => [-1, 0, 1].map((by) => canonicalMoment(new Date(Date.parse(String(bound)) + by))),
  stored(raw) {
    if (raw instanceof Date) return Number.isNaN(raw.getTime()) ? UNREADABLE : canonicalMoment(raw);
    if (typeof raw !== 'string') return UNREADABLE;
    // SQL writes a blank between date and time, some drivers an offset of hours only; a column without a zone holds UTC.
    const text = raw.replace(' ', 'T').replace(/([+-]\d{2})$/, '$1:00');
    return readMoment(/(?:Z|[+-]\d{2}:\d{2})$/i.test(text) ? text : `${text}Z`);
  },
} satisfies KindSpec<Moment>;

function readMoment(raw: unknown): Read<Moment> {
  return typeof raw === 'string' ? (momentOf(raw) ?? UNREADABLE) : UNREADABLE;
}

const timeSpec = {
  name: 'time-of-day',
  storedAs: 'time',
  comparable: true,
  ordered: 'time',
  listable: true,
  isRewritten: true,
  examples: () => ['09:30', '17:00', '00:00', '23:59'],
  schema: { schema: { type: 'string', pattern: '^([01][0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9](\\.[0-9]{1,9})?)?$' } },
  is: ['time-of-day'],
  says: { en: '{field} must be a time of day, such as 09:30.' },
  json: readTime,
  form: (text) => readTime(text.trim()),
  stored: readTime,
  control: () => ({ type: 'time' }),
  around: (bound) => [-1, 0, 1].flatMap((by) => minuteFrom(String(bound), by) ?? []),
} satisfies KindSpec<TimeOfDay>;

function readTime(raw: unknown): Read<TimeOfDay> {
  return typeof raw === 'string' ? (timeOf(raw) ?? UNREADABLE) : UNREADABLE;
}

/** The time of day a minute before or after, unless that is another day. */
function minuteFrom(time: string, minutes: number): string | undefined {
  const [hour = '0', minute = '0'] = time.split(':');
  const all = Number(hour) * 60 + Number(minute) + minutes;
  const two = (part: number) => String(part).padStart(2, '0');
  return all < 0 || all >= 1440 ? undefined : minutes === 0 ? time : `${two(Math.floor(all / 60))}:${two(all % 60)}${time.slice(5)}`;
}

export interface MomentKind extends Kind<'moment', Moment> {
  (label: string, ...steps: Step<'moment'>[]): Field<'moment', Moment>;
}
export interface TimeKind extends Kind<'time-of-day', TimeOfDay> {
  (label: string, ...steps: Step<'time-of-day'>[]): Field<'time-of-day', TimeOfDay>;
}

/**
 * A moment, written with any offset (RFC 3339 `date-time`), kept as UTC text to the millisecond. A form may leave the offset out, as
 * `datetime-local` does: then it is a moment in the intake's zone. Of an hour that comes twice (clocks are put back) it is the first,
 * and one that is left out (clocks are put forward) is as much later as clocks are put.
 *
 * @law A date and time with an offset (RFC 3339 date-time), kept as UTC text to the millisecond.
 * @example moment('Logged')
 * @holds '2031-05-01T09:30:00+02:00'
 * @fails '2031-05-01T09:30:00'
 */
export const moment = kindBy<MomentKind>(momentSpec);

/**
 * A time of day without a day or zone: `HH:MM`, or with seconds (RFC 3339 `partial-time`).
 *
 * @law A time of day, `HH:MM`, perhaps with seconds (RFC 3339 partial-time).
 * @example timeOfDay('Opens')
 * @holds '09:30'
 * @fails '24:00'
 */
export const timeOfDay = kindBy<TimeKind>(timeSpec);

export const momentTold: ToldKind = {
  spec: momentSpec,
  make: moment,
  made: 'moment',
  called: 'date and time',
  typeScript: 'string',
  isReadFrom: true,
  typed: 'moment',
  guess: { says: 'each is a date and time with its offset' },
};
export const timeOfDayTold: ToldKind = {
  spec: timeSpec,
  make: timeOfDay,
  made: 'timeOfDay',
  called: 'time of day',
  // biome-ignore lint/suspicious/noTemplateCurlyInString: a template literal type
  typeScript: '`${number}:${number}`',
  isReadFrom: true,
  typed: 'time',
  guess: { says: 'each is a time of day' },
};
