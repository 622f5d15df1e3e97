import { isStorable } from '../basics/text.ts';
import type { Field } from '../declared/field.ts';
import { type Kind, type KindSpec, type Read, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { kindBy } from './field.ts';

declare module '../declared/kind.ts' {
  interface KindSpecs {
    text: typeof spec;
  }
}

const spec = {
  name: 'text',
  storedAs: 'text',
  comparable: true,
  listable: true,
  is: ['text'],
  isText: true,
  examples: () => ['Amber', 'Birch', 'C3', 'Dune 42', 'A'],
  schema: { schema: { type: 'string' }, leavesOut: 'NUL and lone surrogates' },
  says: { en: '{field} must be text, without unreadable characters.' },
  json: readText,
  form: readText,
  stored: (raw) => (typeof raw === 'string' ? raw : UNREADABLE),
} satisfies KindSpec<string>;

function readText(raw: unknown): Read<string> {
  return typeof raw === 'string' && isStorable(raw) ? raw : UNREADABLE;
}

export interface TextKind extends Kind<'text', string> {
  (label: string, ...steps: Step<'text'>[]): Field<'text', string>;
}

/**
 * Text. A needed text must not be blank; NUL and lone surrogates are refused.
 *
 * @example text('Berth')
 * @holds 'A1'
 * @fails 7
 */
export const text = kindBy<TextKind>(spec);

export const textTold: ToldKind = {
  spec,
  make: text,
  made: 'text',
  called: 'text',
  typeScript: 'string',
  isReadFrom: true,
  typed: 'text',
};
