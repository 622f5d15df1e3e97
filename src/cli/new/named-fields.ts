import { nearest } from '../../core/basics/fault.ts';
import { KINDS } from '../../core/kinds/told.ts';
import { type Argument, call, type FieldDraft, type FieldDrafts } from '../../drafts/draft.ts';
import { labelOf } from '../../published/fields.ts';
import { ownOf } from '../../published/places.ts';
import { Misuse } from '../basics/misuse.ts';

interface FieldType {
  readonly kind: string;
  readonly args?: readonly Argument[];
  readonly isSecret?: true;
}

/** What a field can be on the command line: a kind, or a text of some form. */
export const fieldTypes = (): { readonly [type: string]: FieldType } => ({
  ...Object.fromEntries(KINDS.flatMap(({ typed, made }) => (typed === undefined ? [] : [[typed, { kind: made }]]))),
  email: { kind: 'text', args: [call('email')] },
  phone: { kind: 'text', args: [call('phone')] },
  address: { kind: 'text', args: [call('webAddress')] },
  uuid: { kind: 'text', args: [call('uuid')] },
  secret: { kind: 'text', args: [call('length', { min: 8 })], isSecret: true },
});

/**
 * Fields as a person types them: `name`, `nights:whole`, `notes?:text` (may be missing), `pier:north|south` (one of these), `crew:text[]` (a list).
 */
export function namedFields(texts: readonly string[]): FieldDrafts {
  const fields: { [key: string]: FieldDraft } = {};
  for (const text of texts) {
    const [, key, absent, type = 'text'] = /^([A-Za-z_$][\w$]*)(\?)?(?::(.+))?$/.exec(text) ?? [];
    if (key === undefined)
      throw new Misuse(`"${text}" is no field; write its name and its type, such as nights:whole, notes?:text or pier:north|south.`);
    if (Object.hasOwn(fields, key)) throw new Misuse(`"${key}" is named twice.`);
    const isList = type.endsWith('[]');
    const field = fieldOf(key, isList ? type.slice(0, -2) : type);
    const listed: FieldDraft = isList
      ? { kind: 'list', label: field.label, args: [field, call('length', { max: 100 })], modifiers: [], remarks: [] }
      : field;
    fields[key] = absent ? { ...listed, modifiers: [...listed.modifiers, call('orAbsent')] } : listed;
  }
  return fields;
}

export function fieldOf(key: string, type: string): FieldDraft {
  const label = labelOf(key, {});
  if (type.includes('|')) {
    const options = type.split('|').filter(Boolean);
    return { kind: 'choice', label, args: [options], modifiers: [], remarks: [] };
  }
  const types = fieldTypes();
  const known = ownOf(types, type);
  if (!known) throw new Misuse(`"${type}" is no type of a field; ${nearest(type, Object.keys(types))}`);
  return { kind: known.kind, label, args: known.args ?? [], modifiers: known.isSecret ? [call('secret')] : [], remarks: [] };
}
