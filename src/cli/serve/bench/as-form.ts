import { formObject } from '../../../forms/form.ts';

/** The fields that a form would send for a JSON value: names that nest by dots, and texts. */
export function formFieldsOf(value: unknown): (readonly [name: string, text: string])[] {
  return fieldsAt('', value);
}

/** A JSON value as it comes out of a form that was sent. */
export function asForm(value: unknown): unknown {
  return formObject(formFieldsOf(value));
}

function fieldsAt(name: string, value: unknown): (readonly [name: string, text: string])[] {
  if (value === null || value === undefined || value === false) return [];
  if (value === true) return [[name, 'on']];
  if (typeof value !== 'object') return [[name, String(value)]];
  return Object.entries(value).flatMap(([key, inner]) => fieldsAt(name === '' ? key : `${name}.${key}`, inner));
}
