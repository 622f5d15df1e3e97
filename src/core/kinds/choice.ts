import { fault } from '../fault.ts';
import { type Field, makeField, type Step } from './field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from './kind.ts';

const says = { en: '{field} must be {options}.' };

// As a role or column a choice is any text: the options belong to a field.
const anyOption: KindSpec<string> = {
  name: 'choice',
  is: ['choice'],
  says,
  json: (raw) => (typeof raw === 'string' ? raw : UNREADABLE),
  form: (text) => text,
  stored: (raw) => (typeof raw === 'string' ? raw : UNREADABLE),
};

function withOptions(options: readonly string[]): KindSpec<string> {
  if (!Array.isArray(options) || options.length === 0) fault('A choice needs a list of options as its second argument.');
  if (new Set(options).size < options.length) fault(`A choice names an option twice: ${options.join(', ')}.`);
  const known = new Set(options);
  const pick = (raw: unknown) => (known.has(raw as string) ? (raw as string) : UNREADABLE);
  return { ...anyOption, json: pick, form: (text) => pick(text.trim()), stored: pick, facts: { options } };
}

export interface ChoiceKind extends Kind<'choice', string> {
  <const O extends string>(label: string, options: readonly O[], ...steps: Step<'choice'>[]): Field<'choice', O>;
}

/** One of the texts listed, exactly as they are written. */
export const choice = asKind(anyOption, (label: string, options: readonly string[], ...steps: Step<'choice'>[]) =>
  makeField(withOptions(options), label, steps),
) as unknown as ChoiceKind;
