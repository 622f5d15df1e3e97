import { fault } from '../basics/fault.ts';
import { optionsOf } from '../basics/known.ts';
import type { ValueRule, ValueUse } from '../declared/rule.ts';
import { isMediaType, MEDIA_RANGE } from '../kinds/media-type.ts';
import { receivedFile, type Upload } from '../kinds/upload.ts';
import { A_REMARK, valueRule } from './value-rule.ts';

const sized = valueRule('upload-size', ['upload'], {
  check: ({ size }: Upload, { min, max }: { min: number; max: number }) => size >= min && size <= max,
  edges: ({ min, max }) => ({ sizes: [min, max] }),
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

/**
 * The size of a file in bytes. `min` defaults to 1: an empty file is seldom meant.
 *
 * @law The size of a file in bytes.
 * @option min | at least | 1
 * @option max | at most | to be given
 * @example upload('Certificate', uploadSize({ max: 2000 }))
 * @holds receivedFile({ name: 'a.pdf', mediaType: 'application/pdf', size: 2000 })
 * @fails receivedFile({ name: 'a.pdf', mediaType: 'application/pdf', size: 2001 })
 */
export const uploadSize = (limits: { readonly min?: number; readonly max: number }, use?: ValueUse): ValueRule<'upload'> => {
  const { min = 1, max } = optionsOf('uploadSize', limits, ['min', 'max']);
  return sized({ min, max }, use);
};

const typed = valueRule('media-types', ['upload'], {
  check: ({ mediaType }: Upload, { types }: { types: readonly string[] }) => types.some((type) => isMediaType(type, mediaType)),
  control: ({ types }) => ({ accept: types.join() }),
  examples: ({ types }) => types.map((type) => receivedFile({ name: 'file', mediaType: type.replace('*', 'x-any'), size: 1000 })),
  schema: ({ types }) => ({ schema: { contentMediaType: types.join(', ') }, leavesOut: A_REMARK }),
  facts: (takes) => takes,
  factNames: ['types'],
  refuses({ types }) {
    if (!Array.isArray(types) || types.length === 0) fault('mediaTypes needs a list of at least one media type.');
    for (const type of types)
      if (!MEDIA_RANGE.test(type)) fault(`mediaTypes: "${type}" is no media type in lower case, such as image/* or application/pdf.`);
  },
  message: { en: '{field} must be a file of type {types}.' },
});

/**
 * A file of one of these media types, as its sender says; `image/*` allows all of a kind, but nothing that runs scripts where it is opened,
 * such as `image/svg+xml`: that is asked for by its name.
 *
 * @law A file of one of these media types, as its sender says; what runs scripts is asked for by its name.
 * @example upload('Photo', mediaTypes(['image/*', 'application/pdf']))
 * @holds receivedFile({ name: 'a.png', mediaType: 'image/png', size: 9 })
 * @fails receivedFile({ name: 'a.txt', mediaType: 'text/plain', size: 9 })
 */
export const mediaTypes = (types: readonly string[], use?: ValueUse): ValueRule<'upload'> => typed({ types }, use);
