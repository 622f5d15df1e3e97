import { fault } from '../fault.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

const atMostPlaces = valueRule('places', ['decimal'], {
  check(value: number, { places }: { places: number }) {
    // The nearest number with so many places is the number itself exactly when it was written with no more of them.
    const factor = 10 ** places;
    const scaled = value * factor;
    if (Math.abs(scaled) < Number.MAX_SAFE_INTEGER) return Math.round(scaled) / factor === value;
    return Number(value.toFixed(places)) === value;
  },
  facts: (takes) => takes,
  factNames: ['places'],
  refuses({ places }) {
    if (!(Number.isInteger(places) && places >= 0 && places <= 15)) fault(`places(${places}): a whole number from 0 to 15.`);
  },
  message: {
    en: `{places, plural,
      =0 {{field} must have no decimal places.}
      one {{field} must have at most # decimal place.}
      other {{field} must have at most # decimal places.}
    }`,
  },
});

/** At most so many digits after the decimal point. */
export const places = (places: number, use?: ValueUse): ValueRule<'decimal'> => atMostPlaces({ places }, use);
