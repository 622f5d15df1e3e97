import { type Exact, exactOf } from '../exact.ts';
import { type Field, makeField, type Step } from './field.ts';
import { asKind, type Kind, type KindSpec, type Read, UNREADABLE } from './kind.ts';

const spec: KindSpec<Exact> = {
  name: 'exact',
  is: ['exact'],
  says: { en: '{field} must be a number, such as 12.50.' },
  json: readExact,
  form: (text) => readExact(text.trim()),
  stored: (raw) => readExact(typeof raw === 'bigint' ? raw.toString() : raw),
};

function readExact(raw: unknown): Read<Exact> {
  return exactOf(raw) ?? UNREADABLE;
}

export interface ExactKind extends Kind<'exact', Exact> {
  (label: string, ...steps: Step<'exact'>[]): Field<'exact', Exact>;
}

/**
 * A decimal number kept exactly, such as a sum of money: text like `"12.50"` (or a JSON number, taken by its shortest
 * text), which becomes the canonical text `12.5`.
 */
export const exact = asKind(spec, (label: string, ...steps: Step<'exact'>[]) => makeField(spec, label, steps)) as unknown as ExactKind;
