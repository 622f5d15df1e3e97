import { type Day, weekdayOf } from '../days.ts';
import { fault } from '../fault.ts';
import type { Texts } from '../text.ts';
import { type Bound, type KindOfBound, kindOfBound, needsZone, resolveBound } from './relative.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

interface Takes {
  readonly bound: Bound;
}

const KINDS = ['day', 'moment', 'time'] as const;

/** A comparison with a bound, for days, moments and times alike. */
function limit(id: string, name: string, holds: (value: string, bound: string) => boolean, message: Texts) {
  // One definition a kind, so that a day's rule does not stand on a time; they share the id and its sentence.
  const family = {};
  const made = new Map(
    KINDS.map((kind) => [
      kind,
      valueRule(id, [kind], {
        family,
        check: (value: string, { bound }: Takes, at) => holds(value, resolveBound(bound, at)),
        facts: ({ bound }, at) => ({ bound: resolveBound(bound, at) }),
        factNames: ['bound'],
        words: () => ({ kind }),
        wordNames: ['kind'],
        needsZone: ({ bound }) => needsZone(bound),
        message,
      }),
    ]),
  );
  return <const B extends Bound>(bound: B, use?: ValueUse): ValueRule<KindOfBound<B>> => {
    const rule = made.get(kindOfBound(name, bound)) as NonNullable<ReturnType<typeof made.get>>;
    return rule({ bound }, use) as unknown as ValueRule<KindOfBound<B>>;
  };
}

/** How a bound is told: the time only where there is one. */
const BOUND = '{kind, select, day {{bound, date, long}} time {{bound, time, short}} other {{bound, date, long} {bound, time, short} UTC}}';

/** That day, moment or time, or a later one. */
export const notBefore = limit('not-before', 'notBefore', (value, bound) => value >= bound, { en: `{field} must not be before ${BOUND}.` });

/** That day, moment or time, or an earlier one. */
export const notAfter = limit('not-after', 'notAfter', (value, bound) => value <= bound, { en: `{field} must not be after ${BOUND}.` });

/** Earlier than that day, moment or time. */
export const before = limit('before', 'before', (value, bound) => value < bound, { en: `{field} must be before ${BOUND}.` });

/** Later than that day, moment or time. */
export const after = limit('after', 'after', (value, bound) => value > bound, { en: `{field} must be after ${BOUND}.` });

const aged = valueRule('years-old', ['day'], {
  check: (value: Day, { years }: { years: number }, at) => value <= resolveBound({ relative: 'yearsBeforeToday', by: years }, at),
  facts: (takes) => takes,
  factNames: ['years'],
  needsZone: () => true,
  refuses({ years }) {
    if (!(Number.isInteger(years) && years >= 0)) fault(`yearsOld(${years}) needs a whole number of years.`);
  },
  message: { en: '{field} must be at least {years, plural, one {# year} other {# years}} ago.' },
});

/** A day of birth at least so many years ago; whoever was born on 29 February comes of age on 1 March. */
export const yearsOld = (years: number, use?: ValueUse): ValueRule<'day'> => aged({ years }, use);

const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
type Weekday = (typeof WEEKDAYS)[number];

const onDays = valueRule('weekdays', ['day'], {
  check: (value: Day, { weekdays }: { weekdays: readonly Weekday[] }) => weekdays.includes(WEEKDAYS[weekdayOf(value)] as Weekday),
  facts: (takes) => takes,
  factNames: ['weekdays'],
  words: ({ weekdays }) => ({ names: weekdays.map((name) => WEEKDAY_NAMES[name]) }),
  wordNames: ['names'],
  refuses({ weekdays }) {
    if (weekdays.length === 0) fault('onWeekdays needs at least one day of the week.');
    for (const name of weekdays)
      if (!WEEKDAYS.includes(name)) fault(`onWeekdays: "${name}" is no day of the week; there are: ${WEEKDAYS.join(', ')}.`);
  },
  message: { en: '{field} must be on a {names}.' },
});

const WEEKDAY_NAMES: { readonly [name in Weekday]: Texts } = {
  monday: { en: 'Monday', de: 'Montag', pl: 'poniedziałek' },
  tuesday: { en: 'Tuesday', de: 'Dienstag', pl: 'wtorek' },
  wednesday: { en: 'Wednesday', de: 'Mittwoch', pl: 'środę' },
  thursday: { en: 'Thursday', de: 'Donnerstag', pl: 'czwartek' },
  friday: { en: 'Friday', de: 'Freitag', pl: 'piątek' },
  saturday: { en: 'Saturday', de: 'Samstag', pl: 'sobotę' },
  sunday: { en: 'Sunday', de: 'Sonntag', pl: 'niedzielę' },
};

/** A day that falls on one of these days of the week. */
export const onWeekdays = (weekdays: readonly Weekday[], use?: ValueUse): ValueRule<'day'> => onDays({ weekdays }, use);
