import { fault } from '../fault.ts';
import { type AnyField, isField, makeField, type Step, type TableField } from './field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from './kind.ts';

const spec: KindSpec<object> = {
  name: 'table',
  is: ['table'],
  says: { en: '{field} must be an object with named entries.' },
  json: (raw) => (typeof raw === 'object' && raw !== null && !Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

export interface TableKind extends Kind<'table', { readonly [name: string]: unknown }> {
  <I extends AnyField>(label: string, each: I, ...steps: Step<'table'>[]): TableField<I>;
}

/** Entries under any names, each like `each`: prices by berth, texts by language. */
export const table = asKind(spec, (label: string, each: AnyField, ...steps: Step<'table'>[]) => {
  if (!isField(each)) fault(`table('${label}') needs as its second argument what its entries are, such as text('Name').`);
  return makeField(spec, label, steps, { each });
}) as unknown as TableKind;
