import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';

declare module '../declared/kind.ts' {
  interface KindSpecs {
    flag: typeof spec;
  }
}

// A check box without a value of its own sends "on" (WHATWG HTML); the others are what people put in hidden fields and CSV.
const TEXTS = new Map<string, boolean>([
  ['on', true],
  ['true', true],
  ['1', true],
  ['yes', true],
  ['off', false],
  ['false', false],
  ['0', false],
  ['no', false],
]);

const spec = {
  name: 'flag',
  storedAs: 'boolean',
  comparable: true,
  examples: () => [true, false],
  schema: { schema: { type: 'boolean' } },
  control: () => ({ type: 'checkbox' }),
  is: ['flag'],
  says: { en: '{field} must be true or false.' },
  hints: { text: { en: '{field} must be true or false, and not sent as text.' } },
  json: (raw) => (typeof raw === 'boolean' ? raw : UNREADABLE),
  form: (text) => TEXTS.get(text.trim().toLowerCase()) ?? UNREADABLE,
  stored: (raw) => (typeof raw === 'boolean' ? raw : raw === 1 || raw === 1n ? true : raw === 0 || raw === 0n ? false : UNREADABLE),
  unsent: false,
} satisfies KindSpec<boolean>;

export interface FlagKind extends Kind<'flag', boolean> {
  (label: string, ...steps: Step<'flag'>[]): Field<'flag', boolean>;
}

/**
 * Yes or no. A check box that a form does not send reads `false`.
 *
 * @example flag('Terms')
 * @holds true
 * @fails 'yes'
 */
export const flag = kindBy<FlagKind>(spec);

export const flagTold: ToldKind = {
  spec,
  make: flag,
  made: 'flag',
  called: 'yes or no',
  typeScript: 'boolean',
  isReadFrom: true,
  shownAs: 'flag',
  typed: 'flag',
  // Of 0 and 1 nobody knows.
  guess: { doubtful: /^[01]$/, says: 'true or false' },
};
