import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { TextRule, ValueUse } from '../declared/rule.ts';
import { IBAN_STRUCTURES } from './standards.ts';
import { A_REMARK, valueRule } from './value-rule.ts';

// Numbers that an authority gives, each with its own check.

const PHONE = /^\+[1-9][0-9]{6,14}$/;
const dialled = valueRule('phone', ['text'], {
  check: (value: string) => PHONE.test(value),
  examples: () => ['+4712345678', '12345678'],
  matches: () => PHONE,
  control: () => ({ type: 'tel' }),
  message: { en: '{field} must be a phone number with its country code, such as +4712345678.' },
});

/**
 * An international phone number (ITU-T E.164): a plus sign and 7 to 15 digits, without blanks.
 *
 * @law An international phone number (ITU-T E.164), without blanks.
 * @example text('Phone', phone())
 * @holds '+4712345678'
 * @fails '12345678'
 */
export const phone = (use?: ValueUse): TextRule => dialled({}, use);

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-([0-9a-f])[0-9a-f]{3}-([0-9a-f])[0-9a-f]{3}-[0-9a-f]{12}$/i;
const NIL = '00000000-0000-0000-0000-000000000000';
const MAX = 'ffffffff-ffff-ffff-ffff-ffffffffffff';

const identified = valueRule('uuid', ['text'], {
  examples: ({ versions }) => [`01890a5d-ac96-${versions?.[0] ?? 7}74b-bcce-b302099a8057`],
  schema: () => ({ schema: { format: 'uuid' }, leavesOut: A_REMARK }),
  check(value: string, { versions }: { versions: readonly number[] | undefined }) {
    const parts = UUID.exec(value);
    if (!parts) return false;
    const isSpecial = value === NIL || value.toLowerCase() === MAX;
    const version = Number.parseInt(parts[1] as string, 16);
    // The variant of RFC 9562 begins with the bits 10.
    const isVariant = /^[89ab]$/i.test(parts[2] as string);
    return versions ? isVariant && versions.includes(version) : isSpecial || (isVariant && version >= 1 && version <= 8);
  },
  facts: ({ versions }) => (versions ? { versions } : {}),
  factNames: ['versions'],
  refuses({ versions }) {
    if (versions?.length === 0 || versions?.some((version) => !Number.isInteger(version) || version < 1 || version > 8))
      fault('uuid: versions are 1 to 8.');
  },
  message: { en: '{field} must be a UUID, such as 01890a5d-ac96-774b-bcce-b302099a8057.' },
});

/**
 * A UUID (RFC 9562), in upper or lower case. Defaults to versions 1 to 8, Nil and Max; naming versions leaves the last two out.
 *
 * @law A UUID (RFC 9562).
 * @option versions | of 1 to 8; naming them leaves out Nil and Max | all
 * @example text('Id', uuid({ versions: [4, 7] }))
 * @holds '01890a5d-ac96-774b-bcce-b302099a8057'
 * @fails '01890a5d-ac96-174b-bcce-b302099a8057'
 */
export const uuid = (options: { readonly versions?: readonly number[] } = {}, use?: ValueUse): TextRule =>
  identified({ versions: optionsOf('uuid', options, ['versions']).versions }, use);

/** The check sum of ISO/IEC 7812-1, annex B: every second digit from the right is doubled. */
function hasCardSum(digits: string): boolean {
  let sum = 0;
  for (let place = 0; place < digits.length; place++) {
    const digit = Number(digits[digits.length - 1 - place]);
    const doubled = place % 2 === 1 ? digit * 2 : digit;
    sum += doubled > 9 ? doubled - 9 : doubled;
  }
  return sum % 10 === 0;
}

const carded = valueRule('card-number', ['text'], {
  examples: () => ['79927398713'],
  schema: () => ({ schema: { pattern: '^[0-9]{8,19}$' }, leavesOut: 'the check digit' }),
  check: (value: string) => /^[0-9]{8,19}$/.test(value) && !/^0+$/.test(value) && hasCardSum(value),
  message: { en: '{field} must be a card number, digits only; please check it for typing mistakes.' },
});

/**
 * A card number (ISO/IEC 7812): 8 to 19 digits without blanks, with the right check digit.
 *
 * @law A card number (ISO/IEC 7812) with the right check digit, digits only.
 * @example text('Card', cardNumber())
 * @holds '79927398713'
 * @fails '79927398710'
 */
export const cardNumber = (use?: ValueUse): TextRule => carded({}, use);

const structures = new Map<string, RegExp>();

/** A structure of the registry as an expression: `4a14n` is four letters and fourteen digits. */
function structureOf(country: string): RegExp | undefined {
  const known = structures.get(country);
  const structure = Object.hasOwn(IBAN_STRUCTURES, country) ? IBAN_STRUCTURES[country] : undefined;
  if (known || structure === undefined) return known;
  const parts = structure.replace(
    /([0-9]{1,2})([nac])/g,
    (_part, count: string, of: 'n' | 'a' | 'c') => `${IBAN_CHARACTERS[of]}{${count}}`,
  );
  const expression = new RegExp(`^${parts}$`);
  structures.set(country, expression);
  return expression;
}

const IBAN_CHARACTERS = { n: '[0-9]', a: '[A-Z]', c: '[A-Z0-9]' };

/** The remainder by 97 of ISO/IEC 7064, letters counting from A = 10, digit by digit. */
function remainder97(text: string): number {
  let rest = 0;
  for (const character of text) {
    const value = Number.parseInt(character, 36);
    rest = (rest * (value > 9 ? 100 : 10) + value) % 97;
  }
  return rest;
}

const accounted = valueRule('iban', ['text'], {
  examples: () => ['NO9386011117947'],
  schema: () => ({ schema: { pattern: '^[A-Z]{2}[0-9]{2}[A-Z0-9]{1,30}$' }, leavesOut: 'the country and the check digits' }),
  check(value: string) {
    if (!/^[A-Z]{2}[0-9]{2}[A-Z0-9]{1,30}$/.test(value) || !structureOf(value.slice(0, 2))?.test(value.slice(4))) return false;
    const sum = Number(value.slice(2, 4));
    return sum >= 2 && sum <= 98 && remainder97(value.slice(4) + value.slice(0, 4)) === 1;
  },
  message: { en: '{field} must be an IBAN in capital letters and without blanks; please check it for typing mistakes.' },
});

/**
 * An international bank account number (ISO 13616) in its electronic form, of its country's structure (registry as of 2025-12), with the right
 * check digits.
 *
 * @law A bank account number (ISO 13616) in electronic form, of its country’s length, with the right check digits.
 * @example text('Account', iban())
 * @holds 'NO9386011117947'
 * @fails 'NO9386011117948'
 */
export const iban = (use?: ValueUse): TextRule => accounted({}, use);
