import { fault } from '../basics/fault.ts';
import type { Texts } from '../basics/text.ts';
import type { Field } from '../declared/field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { makeField } from './field.ts';

declare module '../declared/kind.ts' {
  interface KindSpecs {
    choice: typeof anyOption;
  }
}

const says = { en: '{field} must be {options}.' };

// As a role or column a choice is any text or number: the options belong to a field.
const anyOption = {
  name: 'choice',
  storedAs: 'any',
  comparable: true,
  listable: true,
  is: ['choice'],
  says,
  json: readAny,
  form: (text) => text,
  stored: readAny,
} satisfies KindSpec<string | number>;

function readAny(raw: unknown): string | number | typeof UNREADABLE {
  return typeof raw === 'string' || typeof raw === 'number' ? raw : UNREADABLE;
}

type Option = string | number;
/** ChoiceOptions with words for people, made by `labelled`. */
export interface Labelled<out O extends Option> {
  readonly options: readonly O[];
  readonly labels: readonly Texts[];
}
/** A list of options, options with labels, or a TypeScript enum. */
export type ChoiceOptions<O extends Option> = readonly O[] | Labelled<O> | { readonly [name: string]: O };

/** Gives each option its words: `labelled([['16A', '16 ampere'], ['32A', { en: '32 ampere', de: '32 Ampere' }]])`. */
export const labelled = <const O extends Option>(pairs: readonly (readonly [option: O, label: Texts])[]): Labelled<O> => ({
  options: pairs.map(([option]) => option),
  labels: pairs.map(([, label]) => label),
});

function optionsOf(given: ChoiceOptions<Option>): Labelled<Option> {
  if (Array.isArray(given)) return { options: given as readonly Option[], labels: (given as readonly Option[]).map(String) };
  if (typeof given !== 'object' || given === null)
    fault('A choice needs its options as its second argument: a list, labelled(…) or an enum.');
  if ('labels' in given && Array.isArray(given.labels)) return given as Labelled<Option>;
  // A numeric enum also maps its numbers back to their names.
  const names = Object.keys(given).filter((name) => !/^-?\d/.test(name));
  const options = names.map((name) => (given as { readonly [name: string]: Option })[name] as Option);
  return { options, labels: options.map(String) };
}

function withOptions(given: ChoiceOptions<Option>): KindSpec<Option> {
  const { options, labels } = optionsOf(given);
  if (options.length === 0) fault('A choice needs at least one option.');
  if (new Set(options).size < options.length) fault(`A choice names an option twice: ${options.join(', ')}.`);
  const known = new Set(options);
  const byText = new Map(options.map((option) => [String(option), option]));
  const pick = (raw: unknown) => (known.has(raw as Option) ? (raw as Option) : UNREADABLE);
  return {
    ...anyOption,
    // Options that are all texts fit the roles and columns of texts.
    ...(options.every((option) => typeof option === 'string') && { is: ['choice', 'text'], storedAs: 'text' as const }),
    ...(options.every(Number.isFinite) && { storedAs: options.every(Number.isSafeInteger) ? ('integer' as const) : ('real' as const) }),
    json: pick,
    examples: () => options,
    schema: { schema: { enum: options } },
    form: (text) => byText.get(text.trim()) ?? UNREADABLE,
    stored: (raw) => (typeof raw === 'bigint' ? pick(Number(raw)) : pick(raw)),
    facts: { options },
    words: { options: labels },
  };
}

export interface ChoiceKind extends Kind<'choice', string | number> {
  <const O extends string>(label: string, options: ChoiceOptions<O>, ...steps: Step<'choice'>[]): Field<'choice' | 'text', O>;
  <const O extends Option>(label: string, options: ChoiceOptions<O>, ...steps: Step<'choice'>[]): Field<'choice', O>;
}

/**
 * One of the texts or numbers listed, exactly as they are written. Where all are texts, it fits the roles and columns of texts.
 *
 * @law One of the texts or numbers listed, of a `labelled` list, or of a TypeScript enum.
 * @example choice('Shore power', labelled([['16A', '16 ampere'], ['32A', '32 ampere']]))
 * @holds '16A'
 * @fails '64A'
 */
export const choice = asKind<ChoiceKind>(anyOption, (label: string, options: ChoiceOptions<Option>, ...steps: Step<'choice'>[]) =>
  makeField(withOptions(options), label, steps),
);

export const choiceTold: ToldKind = {
  spec: anyOption,
  make: choice,
  made: 'choice',
  called: 'choice',
  typeScript: 'string | number',
};
