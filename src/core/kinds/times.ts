import { canonicalMoment, type Moment, momentOf, type TimeOfDay, timeOf, withOffset } from '../moments.ts';
import { type Field, makeField, type Step } from './field.ts';
import { asKind, type Kind, type KindSpec, type Read, UNREADABLE } from './kind.ts';

const momentSpec: KindSpec<Moment> = {
  name: 'moment',
  is: ['moment'],
  says: { en: '{field} must be a date and time with its offset, such as 2031-05-28T09:30:00+02:00.' },
  hints: { date: { en: '{field} must be a date and time as text, such as 2031-05-28T09:30:00+02:00, and not a Date object.' } },
  json: readMoment,
  form: (text) => readMoment(text.trim()),
  formIn: (text, zone) => readMoment(withOffset(text.trim(), zone)),
  stored(raw) {
    if (raw instanceof Date) return Number.isNaN(raw.getTime()) ? UNREADABLE : canonicalMoment(raw);
    if (typeof raw !== 'string') return UNREADABLE;
    // SQL writes a blank between date and time, some drivers an offset of hours only; a column without a zone holds UTC.
    const text = raw.replace(' ', 'T').replace(/([+-]\d{2})$/, '$1:00');
    return readMoment(/(?:Z|[+-]\d{2}:\d{2})$/i.test(text) ? text : `${text}Z`);
  },
};

function readMoment(raw: unknown): Read<Moment> {
  return typeof raw === 'string' ? (momentOf(raw) ?? UNREADABLE) : UNREADABLE;
}

const timeSpec: KindSpec<TimeOfDay> = {
  name: 'time',
  is: ['time'],
  says: { en: '{field} must be a time of day, such as 09:30.' },
  json: readTime,
  form: (text) => readTime(text.trim()),
  stored: readTime,
};

function readTime(raw: unknown): Read<TimeOfDay> {
  return typeof raw === 'string' ? (timeOf(raw) ?? UNREADABLE) : UNREADABLE;
}

export interface MomentKind extends Kind<'moment', Moment> {
  (label: string, ...steps: Step<'moment'>[]): Field<'moment', Moment>;
}
export interface TimeKind extends Kind<'time', TimeOfDay> {
  (label: string, ...steps: Step<'time'>[]): Field<'time', TimeOfDay>;
}

/**
 * A moment, written with any offset (RFC 3339 `date-time`), kept as UTC text to the millisecond. A form may leave the offset out, as
 * `datetime-local` does: then it is a moment in the intake's zone. Of an hour that comes twice (clocks are put back) it is the first,
 * and one that is left out (clocks are put forward) is as much later as clocks are put.
 */
export const moment = asKind(momentSpec, (label: string, ...steps: Step<'moment'>[]) =>
  makeField(momentSpec, label, steps),
) as unknown as MomentKind;

/** A time of day without a day or zone: `HH:MM`, or with seconds (RFC 3339 `partial-time`). */
export const timeOfDay = asKind(timeSpec, (label: string, ...steps: Step<'time'>[]) =>
  makeField(timeSpec, label, steps),
) as unknown as TimeKind;
