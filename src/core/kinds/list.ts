import { fault } from '../fault.ts';
import { type AnyField, isField, type ListField, makeField, type Step } from './field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from './kind.ts';

const spec: KindSpec<readonly unknown[]> = {
  name: 'list',
  is: ['list'],
  says: { en: '{field} must be a list.' },
  json: (raw) => (Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

export interface ListKind extends Kind<'list', readonly unknown[]> {
  <I extends AnyField>(label: string, item: I, ...steps: Step<'list'>[]): ListField<I>;
}

/** Any number of entries, each like `item`. A form sends one by repeating its key. */
export const list = asKind(spec, (label: string, item: AnyField, ...steps: Step<'list'>[]) => {
  if (!isField(item)) fault(`list('${label}') needs as its second argument what its entries are, such as text('Name').`);
  return makeField(spec, label, steps, { item });
}) as unknown as ListKind;
