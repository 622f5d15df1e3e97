import { fault } from '../basics/fault.ts';
import type { AnyField, ListField } from '../declared/field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { listStep } from '../steps/list.ts';
import { isField, makeField } from './field.ts';

const spec: KindSpec<readonly unknown[]> = {
  name: 'list',
  step: listStep,
  is: ['list'],
  says: { en: '{field} must be a list.' },
  json: (raw) => (Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

export interface ListKind extends Kind<'list', readonly unknown[]> {
  <I extends AnyField>(label: string, item: I, ...steps: Step<'list'>[]): ListField<I>;
}

/**
 * Any number of entries, each like `item`. A form sends one by repeating its key.
 *
 * @law Any number of entries, each like its item.
 * @example list('Marks', text('Mark'))
 * @holds ['PW-2040']
 * @fails 'PW-2040'
 */
export const list = asKind<ListKind>(spec, (label: string, item: AnyField, ...steps: Step<'list'>[]) => {
  if (!isField(item)) fault(`list('${label}') needs as its second argument what its entries are, such as text('Name').`);
  return makeField(spec, label, steps, { item });
});

export const listTold: ToldKind = { spec, make: list, made: 'list', called: 'list', typeScript: 'readonly unknown[]' };
