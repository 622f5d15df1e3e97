import { fault } from '../basics/fault.ts';
import type { Fields, GroupField } from '../declared/field.ts';
import { asKind, type Kind, type KindSpec, UNREADABLE } from '../declared/kind.ts';
import type { BoundRule, BoundSpec } from '../declared/rule.ts';
import type { ToldKind } from '../declared/told-kind.ts';
import { groupStep } from '../steps/group.ts';
import { makeField } from './field.ts';

/** The plan reads a group's fields itself; here is only what it has to be. */
const spec: KindSpec<object> = {
  name: 'group',
  step: groupStep,
  is: ['group'],
  says: { en: '{field} must be an object with named fields.' },
  json: (raw) => (typeof raw === 'object' && raw !== null && !Array.isArray(raw) ? raw : UNREADABLE),
  form: () => UNREADABLE,
  stored: () => UNREADABLE,
};

export interface GroupKind extends Kind<'group', object> {
  <F extends Fields>(label: string, fields: F, ...rules: BoundRule<F>[]): GroupField<F>;
}

/**
 * Fields under one name, with rules between them.
 *
 * @example group('Owner', { name: text('Name') })
 * @holds { name: 'Ida' }
 * @fails ['Ida']
 */
export const group = asKind<GroupKind>(spec, (label: string, fields: Fields, ...rules: unknown[]) => {
  if (typeof fields !== 'object' || fields === null)
    fault(`group('${label}') needs its fields as its second argument, such as { name: text('Name') }.`);
  return makeField(spec, label, [], { fields, rules: rules as BoundSpec[] });
});

export const groupTold: ToldKind = { spec, make: group, made: 'group', called: 'group', typeScript: 'object' };
