import { fault } from '../basics/fault.ts';
import { kindOf, optionsOf } from '../basics/known.ts';
import type { TextRule, ValueUse } from '../declared/rule.ts';
import { wordIn } from '../messages/catalogue.ts';
import { valueRule } from './value-rule.ts';

interface Of {
  /** Letters and digits of all scripts (default), or those of ASCII only. */
  readonly of?: 'unicode' | 'ascii';
}
interface CharacterTakes {
  readonly of: 'unicode' | 'ascii';
}

function ofIn(maker: string, options: Of): Of['of'] {
  const { of } = optionsOf(maker, options, ['of']);
  return of === undefined || of === 'unicode' || of === 'ascii' ? of : fault(`${maker}: of is unicode or ascii, and not ${kindOf(of)}.`);
}

/** An expression that is made when it is needed: those of all scripts take milliseconds, which an import should not. */
type Later = () => RegExp;

function only(id: string, makeUnicode: Later, ascii: RegExp, message: string) {
  let unicode: RegExp | undefined;
  return valueRule(id, ['text'], {
    check(value: string, { of }: CharacterTakes) {
      if (of === 'ascii') return ascii.test(value);
      unicode ??= makeUnicode();
      return unicode.test(value);
    },
    matches: ({ of }) => (of === 'ascii' ? ascii : makeUnicode()),
    words: ({ of }) => ({ of }),
    wordNames: ['of'],
    message: { en: message },
  });
}

// Marks (M) belong to the letters before them.
const onlyLetters = only(
  'letters',
  () => /^[\p{L}\p{M}]*$/u,
  /^[A-Za-z]*$/,
  '{of, select, ascii {{field} must have letters from A to Z only.} other {{field} must have letters only.}}',
);
const onlyLettersAndDigits = only(
  'letters-and-digits',
  () => /^[\p{L}\p{M}\p{Nd}]*$/u,
  /^[A-Za-z0-9]*$/,
  '{of, select, ascii {{field} must have letters from A to Z and digits only.} other {{field} must have letters and digits only.}}',
);
const onlyDigits = only(
  'digits',
  () => /^\p{Nd}*$/u,
  /^[0-9]*$/,
  '{of, select, ascii {{field} must have digits from 0 to 9 only.} other {{field} must have digits only.}}',
);

/**
 * Letters only, of all scripts or of ASCII.
 *
 * @law Letters only.
 * @option of | `'unicode'` (all scripts) or `'ascii'` | `'unicode'`
 * @example text('Name', letters())
 * @holds 'Łódź'
 * @fails 'Ida 2'
 */
export const letters = (options: Of = {}, use?: ValueUse): TextRule => onlyLetters({ of: ofIn('letters', options) ?? 'unicode' }, use);

/**
 * Letters and digits only, of all scripts or of ASCII.
 *
 * @law Letters and digits only.
 * @option of | `'unicode'` (all scripts) or `'ascii'` | `'unicode'`
 * @example text('Code', lettersAndDigits({ of: 'ascii' }))
 * @holds 'A1'
 * @fails 'Å1'
 */
export const lettersAndDigits = (options: Of = {}, use?: ValueUse): TextRule =>
  onlyLettersAndDigits({ of: ofIn('lettersAndDigits', options) ?? 'unicode' }, use);

/**
 * Digits only, of all scripts or of ASCII. Defaults to ASCII, since a digit of another script is seldom meant.
 *
 * @law Digits only.
 * @option of | `'unicode'` (all scripts) or `'ascii'` | `'ascii'`
 * @example text('Gate code', digits())
 * @holds '4071'
 * @fails '40 71'
 */
export const digits = (options: Of = {}, use?: ValueUse): TextRule => onlyDigits({ of: ofIn('digits', options) ?? 'ascii' }, use);

const upper = valueRule('upper-case', ['text'], {
  check: (value: string) => value === value.toUpperCase(),
  examples: () => ['QUAY'],
  message: { en: '{field} must be in upper case.' },
});
const lower = valueRule('lower-case', ['text'], {
  check: (value: string) => value === value.toLowerCase(),
  examples: () => ['quay'],
  message: { en: '{field} must be in lower case.' },
});

/**
 * No letter that has an upper case form in lower case.
 *
 * @law No letter in lower case.
 * @example text('Mark', upperCase())
 * @holds 'PW-2040'
 * @fails 'Pw-2040'
 */
export const upperCase = (use?: ValueUse): TextRule => upper({}, use);

/**
 * No letter that has a lower case form in upper case.
 *
 * @law No letter in upper case.
 * @example text('Tag', lowerCase())
 * @holds 'pier-4'
 * @fails 'Pier-4'
 */
export const lowerCase = (use?: ValueUse): TextRule => lower({}, use);

const CLASSES = { upper: () => /\p{Lu}/u, lower: () => /\p{Ll}/u, digit: () => /\p{Nd}/u, other: () => /[^\p{Lu}\p{Ll}\p{Nd}]/u };
type CharacterClass = keyof typeof CLASSES;

const mixed = valueRule('character-mix', ['text'], {
  check: (value: string, { classes, least }: { classes: readonly CharacterClass[]; least: number }) =>
    classes.filter((name) => CLASSES[name]().test(value)).length >= least,
  examples: () => ['Quay-7', 'Two gulls, 7 boats'],
  facts: ({ classes, least }) => ({ least, classes: classes.length }),
  factNames: ['least', 'classes'],
  words: ({ classes }, _read, catalogues) => ({
    list: classes.map((name) => wordIn(catalogues, `character-mix/${name}`, CLASS_WORDS[name])),
  }),
  wordNames: ['list'],
  isFixed: true,
  refuses({ classes, least }) {
    for (const name of classes)
      if (!Object.hasOwn(CLASSES, name)) fault(`characterMix: there is no class "${name}"; there are: upper, lower, digit, other.`);
    if (!(Number.isInteger(least) && least >= 1 && least <= classes.length))
      fault(`characterMix: least ${least} of ${classes.length} classes.`);
  },
  message: { en: '{field} must mix at least {least, number} of these: {list}.' },
});

const CLASS_WORDS = { upper: 'capital letters', lower: 'small letters', digit: 'digits', other: 'other characters' };

/**
 * Characters of at least so many of the classes, for passphrases. Defaults to all of the classes named.
 *
 * @law Characters of at least so many of the classes `upper`, `lower`, `digit`, `other`.
 * @option least | of the classes named | all of them
 * @example text('Passphrase', characterMix(['upper', 'lower', 'digit', 'other'], { least: 3 }))
 * @holds 'Gulls at 4'
 * @fails 'gulls'
 */
export const characterMix = (classes: readonly CharacterClass[], options: { readonly least?: number } = {}, use?: ValueUse): TextRule =>
  mixed({ classes, least: optionsOf('characterMix', options, ['least']).least ?? classes.length }, use);
