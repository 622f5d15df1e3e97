import { aroundNumber } from '../basics/exact.ts';
import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, type Read, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';

declare module '../declared/kind.ts' {
  interface KindSpecs {
    whole: typeof wholeSpec;
    decimal: typeof decimalSpec;
  }
}

// The numbers that HTML's number input sends ("valid floating-point number" of the WHATWG standard), without exponent:
// a person does not type one, and 1e3 is more often a product code than a thousand.
const WHOLE_TEXT = /^-?[0-9]{1,16}$/;
const DECIMAL_TEXT = /^-?[0-9]{1,300}(\.[0-9]{1,300})?$/;

const wholeSpec = {
  name: 'whole',
  storedAs: 'integer',
  comparable: true,
  ordered: 'number',
  summable: true,
  listable: true,
  examples: () => [3, 12, 1, 0, 100, -1],
  schema: { schema: { type: 'integer', minimum: Number.MIN_SAFE_INTEGER, maximum: Number.MAX_SAFE_INTEGER } },
  control: () => ({ inputmode: 'numeric' }),
  around: (bound) => [-1, 0, 1].map((by) => Number(bound) + by),
  is: ['whole', 'decimal'],
  says: { en: '{field} must be a whole number, such as 12.' },
  hints: { text: { en: '{field} must be a whole number, sent as a number and not as text.' } },
  json: wholeOf,
  form: (text) => formNumber(text, WHOLE_TEXT, wholeOf),
  stored: (raw) => storedNumber(raw, wholeOf),
} satisfies KindSpec<number>;

const decimalSpec = {
  name: 'decimal',
  storedAs: 'real',
  comparable: true,
  ordered: 'number',
  summable: true,
  listable: true,
  examples: () => [12.5, 3, 1, 0.5, 0, 100.25, -1],
  schema: { schema: { type: 'number' } },
  control: () => ({ inputmode: 'decimal' }),
  around: (bound) => aroundNumber(bound).map(Number),
  is: ['decimal'],
  says: { en: '{field} must be a number, such as 12.5.' },
  hints: { text: { en: '{field} must be a number, sent as a number and not as text.' } },
  json: decimalOf,
  form: (text) => formNumber(text, DECIMAL_TEXT, decimalOf),
  stored: (raw) => storedNumber(raw, decimalOf),
} satisfies KindSpec<number>;

// `+ 0` turns -0 into 0, so that a value and its JSON text mean the same.
function wholeOf(raw: unknown): Read<number> {
  return Number.isSafeInteger(raw) ? (raw as number) + 0 : UNREADABLE;
}

function decimalOf(raw: unknown): Read<number> {
  return typeof raw === 'number' && Number.isFinite(raw) ? raw + 0 : UNREADABLE;
}

function formNumber(text: string, form: RegExp, read: (raw: unknown) => Read<number>): Read<number> {
  const bare = text.trim();
  return form.test(bare) ? read(Number(bare)) : UNREADABLE;
}

// Drivers give NUMERIC and BIGINT columns as text or bigint, so that no digit is lost on the way.
function storedNumber(raw: unknown, read: (raw: unknown) => Read<number>): Read<number> {
  if (typeof raw === 'bigint') return read(Number(raw));
  if (typeof raw === 'string' && raw.trim() !== '') return read(Number(raw));
  return read(raw);
}

export interface WholeKind extends Kind<'whole', number> {
  (label: string, ...steps: Step<'whole'>[]): Field<'whole' | 'decimal', number>;
}
export interface DecimalKind extends Kind<'decimal', number> {
  (label: string, ...steps: Step<'decimal'>[]): Field<'decimal', number>;
}

/**
 * A whole number that JavaScript keeps exactly (from -(2^53 - 1) to 2^53 - 1). It fits decimal roles too.
 *
 * @law A whole number that JavaScript keeps exactly. It fits decimal roles too.
 * @example whole('Guests')
 * @holds 4
 * @fails 4.5
 */
export const whole = kindBy<WholeKind>(wholeSpec);

/**
 * A number with decimals, as JSON carries it (IEEE 754 double).
 *
 * @law A number with decimals, as JSON carries it.
 * @example decimal('Length')
 * @holds 11.25
 * @fails '11.25'
 */
export const decimal = kindBy<DecimalKind>(decimalSpec);

// What begins with a zero is a code, and no number.
const doubtful = /^[-+]?0\d/;
const fromZero = (least: number) => (least >= 0 ? [['atLeast', 0] as const] : []);

export const wholeTold: ToldKind = {
  spec: wholeSpec,
  make: whole,
  made: 'whole',
  called: 'whole number',
  typeScript: 'number',
  isReadFrom: true,
  shownAs: 'number',
  typed: 'whole',
  guess: { doubtful, rules: ({ least }) => fromZero(least) },
};
export const decimalTold: ToldKind = {
  spec: decimalSpec,
  make: decimal,
  made: 'decimal',
  called: 'number',
  typeScript: 'number',
  isReadFrom: true,
  shownAs: 'number',
  typed: 'decimal',
  guess: {
    doubtful,
    hasPlaces: true,
    rules: ({ least, places }) => [...fromZero(least), ...(places <= 4 ? [['places', Math.max(1, places)] as const] : [])],
  },
};
