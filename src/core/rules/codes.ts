import { zoneFormat } from '../days.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

// Codes of standards, asked of Intl, which knows them.
type TextRule = ValueRule<'text'>;

function knows(ask: () => unknown): boolean {
  try {
    return Boolean(ask());
  } catch {
    return false;
  }
}

const languages = valueRule('language-tag', ['text'], {
  check: (value: string) => value.length <= 100 && knows(() => new Intl.Locale(value)),
  message: { en: '{field} must be a language tag, such as nb-NO.' },
});

/** A well-formed language tag (BCP 47, as Unicode reads it): `nb`, `pl-PL`, `zh-Hant`. */
export const languageTag = (use?: ValueUse): TextRule => languages({}, use);

const zones = valueRule('time-zone', ['text'], {
  // Offsets such as +02:00 are no names, though Intl takes them.
  check: (value: string) => /^[A-Za-z][A-Za-z0-9_+/-]{0,63}$/.test(value) && knows(() => zoneFormat(value)),
  message: { en: '{field} must be a time zone, such as Europe/Oslo.' },
});

/** The name of a time zone (IANA), as far as the run time knows it; in any case of letters. */
export const timeZone = (use?: ValueUse): TextRule => zones({}, use);

let currencies: ReadonlySet<string> | undefined;

const currency = valueRule('currency-code', ['text'], {
  check(value: string) {
    currencies ??= new Set(Intl.supportedValuesOf('currency'));
    return currencies.has(value);
  },
  message: { en: '{field} must be a currency code, such as NOK.' },
});

/** A currency (ISO 4217), three capital letters, as far as the run time knows it. */
export const currencyCode = (use?: ValueUse): TextRule => currency({}, use);

let regions: Intl.DisplayNames | undefined;
// Intl also names these, which are no countries of ISO 3166-1: exceptional and private codes, and unions.
const NO_COUNTRIES = new Set(['AC', 'CP', 'CQ', 'DG', 'EA', 'EU', 'EZ', 'IC', 'QO', 'TA', 'UN', 'XA', 'XB', 'XK', 'ZZ']);

const country = valueRule('country-code', ['text'], {
  check(value: string) {
    if (!/^[A-Z]{2}$/.test(value) || NO_COUNTRIES.has(value)) return false;
    regions ??= new Intl.DisplayNames('en', { type: 'region', fallback: 'none' });
    const name = regions.of(value);
    // A code that was withdrawn is named after its successor, or given as former.
    return name !== undefined && new Intl.Locale(`und-${value}`).region === value;
  },
  message: { en: '{field} must be a country code, such as NO.' },
});

/** A country (ISO 3166-1 alpha-2), two capital letters, as far as the run time knows it. */
export const countryCode = (use?: ValueUse): TextRule => country({}, use);
