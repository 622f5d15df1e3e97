import { isStorable } from '../text.ts';
import { type Field, makeField, type Step } from './field.ts';
import { asKind, type Kind, type KindSpec, type Read, UNREADABLE } from './kind.ts';

const spec: KindSpec<string> = {
  name: 'text',
  is: ['text'],
  says: { en: '{field} must be text, without unreadable characters.' },
  json: readText,
  form: readText,
  stored: (raw) => (typeof raw === 'string' ? raw : UNREADABLE),
};

function readText(raw: unknown): Read<string> {
  return typeof raw === 'string' && isStorable(raw) ? raw : UNREADABLE;
}

export interface TextKind extends Kind<'text', string> {
  (label: string, ...steps: Step<'text'>[]): Field<'text', string>;
}

/** Text. A needed text must not be blank; NUL and lone surrogates are refused. */
export const text = asKind(spec, (label: string, ...steps: Step<'text'>[]) => makeField(spec, label, steps)) as unknown as TextKind;
