import { fault } from '../fault.ts';
import type { BoundRule, BoundSpec } from '../rules/use.ts';
import { type Fields, type GroupField, makeField } from './field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from './kind.ts';

/** The plan reads a group's fields itself; here is only what it has to be. */
const spec: KindSpec<object> = {
  name: 'group',
  is: ['group'],
  says: { en: '{field} must be an object with named fields.' },
  json: (raw) => (typeof raw === 'object' && raw !== null && !Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

export interface GroupKind extends Kind<'group', object> {
  <F extends Fields>(label: string, fields: F, ...rules: BoundRule<F>[]): GroupField<F>;
}

/** Fields under one name, with rules between them. */
export const group = asKind(spec, (label: string, fields: Fields, ...rules: unknown[]) => {
  if (typeof fields !== 'object' || fields === null)
    fault(`group('${label}') needs its fields as its second argument, such as { name: text('Name') }.`);
  return makeField(spec, label, [], { fields, rules: rules as BoundSpec[] });
}) as unknown as GroupKind;
