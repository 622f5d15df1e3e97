import { aroundNumber, compareNumbers, type Exact, exactOf, padded } from '../basics/exact.ts';
import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { Field } from '../declared/field.ts';
import { asKind, type Kind, type KindSpec, type Read, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { makeField } from './field.ts';

declare module '../declared/kind.ts' {
  interface KindSpecs {
    exact: typeof spec;
  }
}

/** How it may be written where JSON Schema describes it: as such a text, or as a number. */
export const EXACT_PATTERN = '^-?[0-9]+(\\.[0-9]+)?$';

const spec = {
  name: 'exact',
  storedAs: 'numeric',
  comparable: true,
  isSame: (a, b) => compareNumbers(a, b) === 0,
  ordered: 'number',
  compare: compareNumbers,
  summable: true,
  listable: true,
  isRewritten: true,
  examples: () => ['12.5', '3', '1', '0', '100', '-1'],
  schema: { schema: { type: ['string', 'number'], pattern: EXACT_PATTERN }, leavesOut: 'how many digits there may be' },
  is: ['exact'],
  says: { en: '{field} must be a number, such as 12.50.' },
  hints: { long: { en: '{field} must have at most 400 digits before the decimal point, and 400 after it.' } },
  found: (raw) => (typeof raw === 'string' ? asWritten(raw) : readExact(typeof raw === 'bigint' ? raw.toString() : raw)),
  json: readExact,
  form: (text) => readExact(text.trim()),
  stored: (raw) => readExact(typeof raw === 'bigint' ? raw.toString() : raw),
  control: () => ({ inputmode: 'decimal' }),
  around: aroundNumber,
} satisfies KindSpec<Exact>;

function readExact(raw: unknown): Read<Exact> {
  return exactOf(raw) ?? UNREADABLE;
}

/** A column keeps its places: `60.00` is a sum of money. */
function asWritten(raw: string): Read<Exact> {
  const value = readExact(raw);
  return value === UNREADABLE ? value : padded(value, raw.split('.')[1]?.length ?? 0);
}

/** The same, written with so many decimal places at least: `12.5` becomes `12.50`. */
function withPlaces(places: number): KindSpec<Exact> {
  if (!(Number.isInteger(places) && places >= 0 && places <= 100)) fault(`exact: places ${places} is not a whole number from 0 to 100.`);
  const pad = (value: Read<Exact>): Read<Exact> => (value === UNREADABLE ? value : padded(value, places));
  return {
    ...spec,
    settings: { places },
    json: (raw) => pad(readExact(raw)),
    form: (text) => pad(readExact(text.trim())),
    stored: (raw) => pad(spec.stored(raw)),
    found: (raw) => pad((spec.found as KindSpec<Exact>['stored'])(raw)),
  };
}

interface Written {
  /** Decimal places that a value is written with at least, as sums of money are. Defaults to as many as it needs. */
  readonly places?: number;
}

export interface ExactKind extends Kind<'exact', Exact> {
  (label: string, ...steps: Step<'exact'>[]): Field<'exact', Exact>;
  (label: string, written: Written, ...steps: Step<'exact'>[]): Field<'exact', Exact>;
}

/**
 * A decimal number kept exactly, such as a sum of money: text like `"12.50"` (or a JSON number, taken by its shortest
 * text), which becomes the canonical text `12.5`; with `{ places: 2 }` it is kept as `12.50`. How many places are allowed is
 * for the rule `places` to say; more than 400 digits before or after the decimal point are no number.
 *
 * @law A decimal number kept exactly, as canonical text, of up to 400 digits before and after the decimal point; a JSON number is taken by its shortest text. With `{ places: 2 }` it is written with two places at least: `12.5` becomes `12.50`.
 * @example exact('Price')
 * @holds '38.50'
 * @fails '38,50'
 */
export const exact = asKind<ExactKind>(spec, (label: string, ...rest: unknown[]) => {
  const [first, ...others] = rest;
  if (typeof first !== 'object' || first === null || 'type' in first || Array.isArray(first)) return makeField(spec, label, rest);
  return makeField(withPlaces(optionsOf<Written>(`exact('${label}')`, first, ['places']).places ?? 0), label, others);
});

export const exactTold: ToldKind = {
  spec,
  make: exact,
  made: 'exact',
  called: 'exact number',
  // biome-ignore lint/suspicious/noTemplateCurlyInString: a template literal type
  typeScript: '`${number}`',
  isReadFrom: true,
  typed: 'exact',
};
