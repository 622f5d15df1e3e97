import { zoneNamed } from '#zone-names';
import type { TextRule, ValueUse } from '../declared/rule.ts';
import { COUNTRIES, CURRENCIES, GRANDFATHERED_TAGS } from './standards.ts';
import { valueRule } from './value-rule.ts';

// Codes of standards.

const tagged = valueRule('language-tag', ['text'], {
  check: (value: string) => value.length <= 100 && isLanguageTag(value.toLowerCase()),
  examples: () => ['en', 'zh-Hant'],
  schema: () => ({ schema: { pattern: '^[A-Za-z0-9]+(-[A-Za-z0-9]+)*$' }, leavesOut: 'that the tag is registered' }),
  message: { en: '{field} must be a language tag, such as nb-NO.' },
});

/** By the grammar of RFC 5646, 2.1, whose parts are told apart by their lengths and places. */
function isLanguageTag(tag: string): boolean {
  if (GRANDFATHERED_TAGS.has(tag)) return true;
  if (!/^[a-z0-9-]+$/.test(tag)) return false;
  const parts = tag.split('-');
  if (parts[0] === 'x') return isPrivate(parts);
  let at = 0;
  const take = (form: RegExp, most = Number.POSITIVE_INFINITY) => {
    const from = at;
    while (at - from < most && form.test(parts[at] ?? '')) at++;
    return parts.slice(from, at);
  };
  const [language] = take(/^[a-z]{2,8}$/, 1);
  if (language === undefined) return false;
  if (language.length <= 3) take(/^[a-z]{3}$/, 3); // extlang
  take(/^[a-z]{4}$/, 1); // script
  take(/^(?:[a-z]{2}|[0-9]{3})$/, 1); // region
  const variants = take(/^(?:[a-z0-9]{5,8}|[0-9][a-z0-9]{3})$/);
  const extensions: string[] = [];
  for (let [singleton] = take(/^[0-9a-wy-z]$/, 1); singleton !== undefined; [singleton] = take(/^[0-9a-wy-z]$/, 1)) {
    if (take(/^[a-z0-9]{2,8}$/).length === 0) return false;
    extensions.push(singleton);
  }
  // No variant and no extension stands twice (2.2.9, "well-formed").
  if (new Set(variants).size < variants.length || new Set(extensions).size < extensions.length) return false;
  return at === parts.length || isPrivate(parts.slice(at));
}

function isPrivate([x, ...subtags]: readonly string[]): boolean {
  return x === 'x' && subtags.length > 0 && subtags.every((subtag) => /^[a-z0-9]{1,8}$/.test(subtag));
}

/**
 * A well-formed language tag (BCP 47, RFC 5646): `nb`, `pl-PL`, `zh-Hant`, `x-marina`; in any case of letters.
 *
 * @law A well-formed language tag (BCP 47).
 * @example text('Language', languageTag())
 * @holds 'zh-Hant'
 * @fails 'zh_Hant'
 */
export const languageTag = (use?: ValueUse): TextRule => tagged({}, use);

const zones = valueRule('time-zone', ['text'], {
  check: (value: string) => value.length <= 64 && zoneNamed(value) !== undefined,
  examples: () => ['Europe/Oslo'],
  schema: () => ({ schema: { pattern: '^[A-Za-z][A-Za-z0-9_+/-]{0,63}$' }, leavesOut: 'that there is such a zone' }),
  message: { en: '{field} must be a time zone, such as Europe/Oslo.' },
});

/**
 * The name of a time zone (IANA), as far as the run time knows it; in any case of letters.
 *
 * @law The name of a time zone (IANA), as far as the run time knows it.
 * @example text('Zone', timeZone())
 * @holds 'Europe/Oslo'
 * @fails 'Europe/Pellwick'
 */
export const timeZone = (use?: ValueUse): TextRule => zones({}, use);

const currency = valueRule('currency-code', ['text'], {
  check: (value: string) => CURRENCIES.has(value),
  examples: () => ['NOK', 'EUR'],
  schema: () => ({ schema: { pattern: '^[A-Z]{3}$' }, leavesOut: 'that there is such a currency' }),
  message: { en: '{field} must be a currency code, such as NOK.' },
});

/**
 * A currency (ISO 4217, list one as of 2026-01-01), three capital letters.
 *
 * @law A currency (ISO 4217), as far as the run time knows it.
 * @example text('Currency', currencyCode())
 * @holds 'NOK'
 * @fails 'NKR'
 */
export const currencyCode = (use?: ValueUse): TextRule => currency({}, use);

const country = valueRule('country-code', ['text'], {
  check: (value: string) => COUNTRIES.has(value),
  examples: () => ['NO', 'DE'],
  schema: () => ({ schema: { pattern: '^[A-Z]{2}$' }, leavesOut: 'that there is such a country' }),
  message: { en: '{field} must be a country code, such as NO.' },
});

/**
 * A country (ISO 3166-1 alpha-2, as of 2026-01-01), two capital letters.
 *
 * @law A country (ISO 3166-1 alpha-2), as far as the run time knows it.
 * @example text('Country', countryCode())
 * @holds 'NO'
 * @fails 'XX'
 */
export const countryCode = (use?: ValueUse): TextRule => country({}, use);
