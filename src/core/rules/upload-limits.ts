import { fault } from '../fault.ts';
import type { Upload } from '../kinds/upload.ts';
import type { ValueRule, ValueUse } from './use.ts';
import { valueRule } from './value-rule.ts';

const sized = valueRule('upload-size', ['upload'], {
  check: ({ size }: Upload, { min, max }: { min: number; max: number }) => size >= min && size <= max,
  facts: (takes) => takes,
  factNames: ['min', 'max'],
  words: ({ min }, { size }) => ({ fault: size < min ? 'small' : 'large' }),
  wordNames: ['fault'],
  refuses({ min, max }) {
    if (!(Number.isInteger(min) && Number.isInteger(max) && min >= 0 && max >= min)) fault(`uploadSize: from ${min} to ${max} bytes.`);
  },
  message: {
    en: '{fault, select, small {{field} must have at least {min, plural, one {# byte} other {# bytes}}.} other {{field} must not be larger than {max, plural, one {# byte} other {# bytes}}.}}',
  },
});

/** The size of a file in bytes. `min` defaults to 1: an empty file is seldom meant. */
export const uploadSize = ({ min = 1, max }: { readonly min?: number; readonly max: number }, use?: ValueUse): ValueRule<'upload'> =>
  sized({ min, max }, use);

const typed = valueRule('media-types', ['upload'], {
  check: ({ mediaType }: Upload, { types }: { types: readonly string[] }) =>
    types.some((type) => (type.endsWith('/*') ? mediaType.startsWith(type.slice(0, -1)) : mediaType === type)),
  facts: (takes) => takes,
  factNames: ['types'],
  refuses({ types }) {
    for (const type of types)
      if (!/^[a-z0-9.+-]+\/(\*|[a-z0-9.+-]+)$/.test(type))
        fault(`mediaTypes: "${type}" is no media type in lower case, such as image/* or application/pdf.`);
    if (types.length === 0) fault('mediaTypes needs at least one media type.');
  },
  message: { en: '{field} must be a file of type {types}.' },
});

/** A file of one of these media types, as its sender says; `image/*` allows all of a kind. */
export const mediaTypes = (types: readonly string[], use?: ValueUse): ValueRule<'upload'> => typed({ types }, use);
