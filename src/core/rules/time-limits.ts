import { addDays, type Day, weekdayOf } from '../basics/days.ts';
import { fault } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import type { Circumstances } from '../basics/verdict.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { wordIn } from '../messages/catalogue.ts';
import { type Bound, type KindOfBound, kindOfBound, needsZone, resolveBound } from './relative.ts';
import { valueRule } from './value-rule.ts';

interface TimeTakes {
  readonly bound: Bound;
}

const KINDS = ['day', 'moment', 'time-of-day'] as const;

/** A comparison with a bound, for days, moments and times alike. */
function limit(
  id: string,
  name: string,
  holds: (value: string, bound: string) => boolean,
  message: Texts,
  /** The attribute of a control that allows the bound, as this rule does. */
  native?: 'min' | 'max',
) {
  // One definition a kind, so that a day's rule does not stand on a time; they share the id and its sentence.
  const family = {};
  const made = new Map(
    KINDS.map((kind) => [
      kind,
      valueRule(id, [kind], {
        family,
        check: (value: string, { bound }: TimeTakes, at) => holds(value, resolveBound(bound, at)),
        ...(native && { control: ({ bound }: TimeTakes, at: Circumstances) => ({ [native]: resolveBound(bound, at) }) }),
        edges: ({ bound }, at) => ({ bounds: [resolveBound(bound, at)] }),
        facts: ({ bound }, at) => ({ bound: resolveBound(bound, at) }),
        factNames: ['bound'],
        // A word of a message has no dashes.
        words: () => ({ kind: kind === 'time-of-day' ? 'time' : kind }),
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

/**
 * That day, moment or time, or a later one.
 *
 * @law That day, moment or time, or a later one. The bound may be relative: `today`, `daysFromToday(30)`, `now`, `minutesFromNow(-5)`.
 * @example day('Arrival', notBefore(today))
 * @holds '2031-04-30'
 * @fails '2031-04-29'
 */
export const notBefore = limit(
  'not-before',
  'notBefore',
  (value, bound) => value >= bound,
  { en: `{field} must not be before ${BOUND}.` },
  'min',
);

/**
 * That day, moment or time, or an earlier one.
 *
 * @example day('Arrival', notAfter(daysFromToday(365)))
 * @holds '2032-04-29'
 * @fails '2032-04-30'
 */
export const notAfter = limit(
  'not-after',
  'notAfter',
  (value, bound) => value <= bound,
  { en: `{field} must not be after ${BOUND}.` },
  'max',
);

/**
 * Earlier than that day, moment or time.
 *
 * @example timeOfDay('Arrival', before('22:00'))
 * @holds '21:59'
 * @fails '22:00'
 */
export const before = limit('before', 'before', (value, bound) => value < bound, { en: `{field} must be before ${BOUND}.` });

/**
 * Later than that day, moment or time.
 *
 * @example moment('Logged', after('2031-01-01T00:00:00Z'))
 * @holds '2031-01-01T00:00:01Z'
 * @fails '2031-01-01T01:00:00+01:00'
 */
export const after = limit('after', 'after', (value, bound) => value > bound, { en: `{field} must be after ${BOUND}.` });

const aged = valueRule('years-old', ['day'], {
  check: (value: Day, { years }: { years: number }, at) => value <= resolveBound({ relative: 'yearsBeforeToday', by: years }, at),
  control: ({ years }, at) => ({ max: resolveBound({ relative: 'yearsBeforeToday', by: years }, at) }),
  edges: ({ years }, at) => ({ bounds: [resolveBound({ relative: 'yearsBeforeToday', by: years }, at)] }),
  facts: (takes) => takes,
  factNames: ['years'],
  needsZone: () => true,
  refuses({ years }) {
    if (!(Number.isInteger(years) && years >= 0)) fault(`yearsOld(${years}) needs a whole number of years.`);
  },
  message: { en: '{field} must be at least {years, plural, one {# year} other {# years}} ago.' },
});

/**
 * A day of birth at least so many years ago; whoever was born on 29 February comes of age on 1 March.
 *
 * @law A day of birth at least so many years ago; 29 February comes of age on 1 March.
 * @example day('Born', yearsOld(18))
 * @holds '2013-04-30'
 * @fails '2013-05-01'
 */
export const yearsOld = (years: number, use?: ValueUse): ValueRule<'day'> => aged({ years }, use);

const capitalized = (name: string) => name.charAt(0).toUpperCase() + name.slice(1);
const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
type Weekday = (typeof WEEKDAYS)[number];

const onDays = valueRule('on-weekdays', ['day'], {
  check: (value: Day, { weekdays }: { weekdays: readonly Weekday[] }) => weekdays.includes(WEEKDAYS[weekdayOf(value)] as Weekday),
  examples: (_takes, at) => Array.from({ length: 7 }, (_, by) => addDays(at.today, by + 1)),
  facts: (takes) => takes,
  factNames: ['weekdays'],
  words: ({ weekdays }, _read, catalogues) => ({
    names: weekdays.map((name) => wordIn(catalogues, `on-weekdays/${name}`, capitalized(name))),
  }),
  wordNames: ['names'],
  isFixed: true,
  refuses({ weekdays }) {
    if (weekdays.length === 0) fault('onWeekdays needs at least one day of the week.');
    for (const name of weekdays)
      if (!WEEKDAYS.includes(name)) fault(`onWeekdays: "${name}" is no day of the week; there are: ${WEEKDAYS.join(', ')}.`);
  },
  message: { en: '{field} must be on a {names}.' },
});

/**
 * A day that falls on one of these days of the week.
 *
 * @example day('Inspection', onWeekdays(['tuesday', 'thursday']))
 * @holds '2031-05-01'
 * @fails '2031-05-02'
 */
export const onWeekdays = (weekdays: readonly Weekday[], use?: ValueUse): ValueRule<'day'> => onDays({ weekdays }, use);
