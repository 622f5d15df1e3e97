import { fault } from '../basics/fault.ts';
import type { AnyField, TableField } from '../declared/field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { Step } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { tableStep } from '../steps/table.ts';
import { isField, makeField } from './field.ts';

const spec: KindSpec<object> = {
  name: 'table',
  step: tableStep,
  is: ['table'],
  says: { en: '{field} must be an object with named entries.' },
  json: (raw) => (typeof raw === 'object' && raw !== null && !Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

export interface TableKind extends Kind<'table', { readonly [name: string]: unknown }> {
  <I extends AnyField>(label: string, each: I, ...steps: Step<'table'>[]): TableField<I>;
}

/**
 * Entries under any names, each like `each`: prices by berth, texts by language.
 *
 * @law Entries under any names, each like the one given.
 * @example table('Prices', decimal('Price'))
 * @holds { A1: 38.5 }
 * @fails [38.5]
 */
export const table = asKind<TableKind>(spec, (label: string, each: AnyField, ...steps: Step<'table'>[]) => {
  if (!isField(each)) fault(`table('${label}') needs as its second argument what its entries are, such as text('Name').`);
  return makeField(spec, label, steps, { each });
});

export const tableTold: ToldKind = {
  spec,
  make: table,
  made: 'table',
  called: 'table',
  typeScript: '{ readonly [name: string]: unknown }',
};
